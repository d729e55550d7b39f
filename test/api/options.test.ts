import { expect } from 'chai';
import { chainNow, optionsOf, type Chain } from '../../src/client/live-chain.ts';
import type { ApiQuote } from '../../src/live/index.ts';
import { instrument } from '../support/world.ts';
import { TapeServer, at, played } from '../support/tape-server.ts';
import { tapeMarket } from '../support/server.ts';

const G = 'GANET.HALM';
const CALL = 'GANET-APR26-40C.HALM';
const ROWS = [...tapeMarket(G, 41.2), `${at(0)},${CALL},state,,,,open`, `${at(0)},${CALL},level,bid,1.90,200,`, `${at(0)},${CALL},level,ask,2.00,200,`];

interface Held {
  readonly legs: readonly { readonly instrument: string; readonly quantity: string; readonly price: string }[];
  readonly delta: string | null;
  readonly gamma: string | null;
  readonly theta: string | null;
  readonly vega: string | null;
}
interface Cell {
  readonly instrument: string;
  readonly delta: string;
  readonly gamma: string;
  readonly theta: string;
  readonly vega: string;
}
interface Payoff {
  readonly points: readonly { readonly spot: string; readonly atExpiry: string; readonly atDate: string }[];
}

describe('what is held of an underlying', function () {
  this.timeout(60_000);

  it('is told with its greeks together: shares move one for one, options times contracts and multiplier', () =>
    played(new TapeServer(ROWS), async (tape) => {
      await tape.go(1);
      const buy = (clientOrderId: string, instrument: string, quantity: string, price: object): Promise<unknown> =>
        tape.made('/api/orders', { clientOrderId, account: 'MAIN', instrument, side: 'buy', quantity, ...price });
      expect(await tape.got<Held>(`/api/options/${G}/held`)).to.deep.include({ legs: [], delta: '0' });
      await buy('a', G, '100', { type: 'market' });
      await buy('b', CALL, '3', { type: 'limit', limitPrice: '2.00' });
      const held = await tape.got<Held>(`/api/options/${G}/held`);
      expect(held.legs.map(({ instrument, quantity, price }) => [instrument, quantity, price])).to.deep.equal([
        [G, '100', '41.20'],
        [CALL, '3', '2.00'],
      ]);
      const chain = await tape.got<{ rows: { call: Cell | null }[] }>(`/api/options/${G}?expiry=2026-04-17`);
      const cell = chain.rows.flatMap(({ call }) => (call?.instrument === CALL ? [call] : []))[0];
      expect(Number(held.delta)).to.be.closeTo(100 + 300 * Number(cell?.delta), 1e-6);
      for (const greek of ['gamma', 'theta', 'vega'] as const) expect(Number(held[greek])).to.be.closeTo(300 * Number(cell?.[greek]), 1e-6);
      expect((await tape.api.get('/api/options/NOPE.HALM/held')).status).to.equal(404);
    }));
});

describe('a payoff', function () {
  this.timeout(60_000);

  it('can be looked at with another volatility, which moves the day and not the end', () =>
    played(new TapeServer(ROWS), async (tape) => {
      await tape.go(1);
      const legs = [{ instrument: CALL, quantity: '1', price: '1.95' }];
      const as = async (volatilityShift?: string): Promise<Payoff> =>
        (await tape.api.post('/api/options/payoff', { legs, ...(volatilityShift === undefined ? {} : { volatilityShift }) })).body;
      const [plain, none, more, less] = await Promise.all([as(), as('0'), as('10'), as('-10')]);
      expect(plain).to.deep.equal(none);
      expect(more.points.map(({ atExpiry }) => atExpiry)).to.deep.equal(plain.points.map(({ atExpiry }) => atExpiry));
      const middle = (one: Payoff): number => Number(one.points[30]?.atDate);
      expect(middle(less)).to.be.lessThan(middle(plain));
      expect(middle(plain)).to.be.lessThan(middle(more));
      const refused = await tape.api.post('/api/options/payoff', { legs, volatilityShift: '101' });
      expect([refused.status, (refused.body as { errors: { path: string }[] }).errors[0]?.path]).to.deep.equal([422, '/volatilityShift']);
    }));
});

describe('a chain', function () {
  this.timeout(60_000);

  it('followed by its quotes is what the server says of it anew, figure by figure', () =>
    played(
      new TapeServer([...ROWS, `${at(3)},${G},trade,buy,41.60,10,`, `${at(4)},${CALL},level,ask,2.30,200,`, `${at(4)},${CALL},trade,buy,2.30,1,`]),
      async (tape) => {
        await tape.go(1);
        const path = `/api/options/${G}?expiry=2026-04-17`;
        const before = await tape.got<Chain>(path);
        await tape.go(5);
        const after = await tape.got<Chain>(path);
        const { items } = await tape.got<{ items: ApiQuote[] }>(`/api/quotes?instruments=${[G, ...optionsOf(before)].join(',')}`);
        const quotes = new Map(items.map((quote) => [quote.instrument, quote]));
        const now = chainNow(before, { instrumentOf: instrument, quote: (id) => quotes.get(id), held: () => '0', now: () => Date.parse(at(5)) });
        expect(now).to.deep.equal(after);
        expect(now).to.not.deep.equal(before);
      },
    ));
});
