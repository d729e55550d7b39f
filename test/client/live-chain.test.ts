import { expect } from 'chai';
import { chainNow, chainStep, liveChain, optionsOf, type Chain, type ChainCell, type ChainMarket } from '../../src/client/live-chain.ts';
import type { ApiQuote } from '../../src/live/index.ts';
import { instrument } from '../support/world.ts';

const GANET = 'GANET.HALM';
const CALL = 'GANET-APR26-40C.HALM';

const cell: ChainCell = {
  instrument: CALL,
  bid: '1.90',
  ask: '2.00',
  last: null,
  volume: '0',
  mid: '1.95',
  impliedVolatility: '0.2',
  delta: '0.6',
  gamma: '0.1',
  theta: '-0.01',
  vega: '0.05',
  position: '0',
};
const chain: Chain = {
  underlying: GANET,
  spot: '41.2',
  rate: '0.02',
  dividendYield: '0.02',
  expiries: ['2026-04-17'],
  expiry: '2026-04-17',
  years: '0.12',
  rows: [
    { strike: '40.00', call: cell, put: null },
    { strike: '42.00', call: null, put: null },
  ],
};
const quote = (given: Partial<ApiQuote>): ApiQuote => ({ mark: '41.20', bid: '1.90', ask: '2.00', last: null, volume: '0', ...given }) as ApiQuote;
const market = (quotes: Readonly<Record<string, ApiQuote>>, held = '0'): ChainMarket => ({
  instrumentOf: (id) => instrument(id),
  quote: (id) => quotes[id],
  held: () => held,
  now: () => Date.parse('2026-03-02T09:00:00.000Z'),
});

describe('a live chain', () => {
  it('is the very same while nothing of it has changed, or no price has come', () => {
    expect(chainNow(chain, market({}))).to.equal(chain);
    expect(chainNow(chain, market({ [GANET]: quote({}), [CALL]: quote({}) }))).to.equal(chain);
  });

  it('changes the row whose quote changed and leaves the others as they are', () => {
    const after = chainNow(chain, market({ [GANET]: quote({}), [CALL]: quote({ ask: '2.10', last: '2.05', volume: '3' }) }));
    expect(after.rows[1]).to.equal(chain.rows[1]);
    const now = after.rows[0]?.call;
    expect([now?.ask, now?.last, now?.volume, now?.mid]).to.deep.equal(['2.10', '2.05', '3', '2']);
    expect(Number(now?.impliedVolatility)).to.be.within(0.1, 1);
    expect(Number(now?.delta)).to.be.within(0.5, 1);
  });

  it('is worked out anew where the spot moves, and loses what hangs on a mid where a side goes', () => {
    const moved = chainNow(chain, market({ [GANET]: quote({ mark: '42.00' }), [CALL]: quote({}) }));
    expect([moved.spot, moved.rows[0]?.call?.bid]).to.deep.equal(['42', '1.90']);
    expect(moved.rows[0]?.call?.delta).to.not.equal(cell.delta);
    const bare = chainNow(chain, market({ [GANET]: quote({}), [CALL]: quote({ ask: null }) })).rows[0]?.call;
    expect([bare?.ask, bare?.mid, bare?.impliedVolatility, bare?.delta, bare?.vega]).to.deep.equal([null, null, null, null, null]);
  });

  it('tells what is held, with a quote or without', () => {
    expect(chainNow(chain, market({}, '-2')).rows[0]?.call?.position).to.equal('-2');
    expect(chainNow(chain, market({ [GANET]: quote({}), [CALL]: quote({}) }, '3')).rows[0]?.call?.position).to.equal('3');
  });

  it('comes up to date strike by strike, none twice and none left out, while quotes go on', () => {
    const strikes = [38, 39, 40, 41, 42, 43, 44];
    const many: Chain = {
      ...chain,
      rows: strikes.map((strike) => ({ strike: `${strike}.00`, call: { ...cell, instrument: `GANET-APR26-${strike}C.HALM` }, put: null })),
    };
    const quotes: Record<string, ApiQuote> = { [GANET]: quote({ mark: '42.00' }) };
    const at = (): ChainMarket => ({ ...market(quotes), instrumentOf: (id) => instrument(id.startsWith('GANET-') ? CALL : id) });
    for (const strike of strikes) quotes[`GANET-APR26-${strike}C.HALM`] = quote({});
    let live = liveChain(many);
    const changed: number[] = [];
    for (let step = 0; step === 0 || live.more; step++) {
      const before = live.chain;
      live = chainStep(live, at(), 3);
      changed.push(live.chain.rows.filter((row, i) => row !== before.rows[i]).length);
      expect(live.chain.spot).to.equal('42');
    }
    expect(changed, 'the spot moved: every row, three at a time').to.deep.equal([3, 3, 1]);
    expect(live.chain).to.deep.equal(chainNow(many, at()));
    // A quote that changes behind the place it goes on from is not forgotten.
    quotes['GANET-APR26-38C.HALM'] = quote({ ask: '2.20' });
    quotes['GANET-APR26-44C.HALM'] = quote({ ask: '2.20' });
    live = chainStep(live, at(), 3);
    expect([live.more, live.chain.rows[0]?.call?.ask, live.chain.rows[6]?.call?.ask]).to.deep.equal([false, '2.20', '2.20']);
    expect(live.chain).to.deep.equal(chainNow(many, at()));
    expect(chainStep(live, at(), 3).chain, 'nothing changed').to.equal(live.chain);
  });

  it('names its options', () => {
    expect(optionsOf(chain)).to.deep.equal([CALL]);
  });
});
