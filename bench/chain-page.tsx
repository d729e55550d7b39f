import { createRoot } from 'react-dom/client';
import { useEffect, useState } from 'react';
import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import { chainNow, chainStep, liveChain, type Chain, type ChainCell, type ChainMarket } from '../src/client/live-chain.ts';
import { asPrice, type Instrument } from '../src/core/instrument/index.ts';
import { Chance } from '../src/core/random/index.ts';
import { paintSoon } from '../src/kit/pace.ts';
import type { ApiQuote } from '../src/live/index.ts';
import { ChainTable } from '../src/views/panes/option-chain/ChainTable.tsx';
import { STRIKES_A_FRAME } from '../src/views/panes/option-chain/use-chain.ts';

const STRIKES = 60;
/** What the stream brings comes together, so often. */
const STREAM_MS = 25;
const QUOTES_A_SECOND = 200;
const SECONDS = 12;
const NOW = Date.parse('2026-03-02T09:00:00.000Z');
const COLUMNS = ['position', 'impliedVolatility', 'delta', 'gamma', 'theta', 'vega'] as const;

const found = (id: string): Instrument => FIXED_INSTRUMENTS.find((one) => one.id === id) as Instrument;
const [under, call] = [found('GANET.HALM'), found('GANET-APR26-40C.HALM')];
const instruments = new Map<string, Instrument>([[under.id, under]]);
const quotes = new Map<string, ApiQuote>();
const chance = new Chance(3);

/** A quote near what an option of that strike is worth. */
function quoted(id: string, strike: number, right: 'call' | 'put'): ApiQuote {
  const worth = Math.max(0, right === 'call' ? 41.2 - strike : strike - 41.2) + 1.2 + chance.next() / 5;
  return { instrument: id, bid: worth.toFixed(2), ask: (worth + 0.04).toFixed(2), last: null, volume: '0', mark: worth.toFixed(2) } as ApiQuote;
}

const options: { readonly id: string; readonly strike: number; readonly right: 'call' | 'put' }[] = [];
const cellOf = (strike: number, right: 'call' | 'put'): ChainCell => {
  const id = `GANET-APR26-${strike}${right === 'call' ? 'C' : 'P'}.HALM`;
  instruments.set(id, { ...call, id, right, strike: asPrice(Math.round(strike * 100)) });
  options.push({ id, strike, right });
  quotes.set(id, quoted(id, strike, right));
  const nothing = { bid: null, ask: null, last: null, volume: null, mid: null, impliedVolatility: null, delta: null, gamma: null, theta: null, vega: null };
  return { instrument: id, ...nothing, position: '0' };
};
quotes.set(under.id, { instrument: under.id, mark: '41.20', bid: '41.19', ask: '41.21' } as ApiQuote);
const market: ChainMarket = { instrumentOf: (id) => instruments.get(id), quote: (id) => quotes.get(id), held: () => '0', now: () => NOW };
const bare: Chain = {
  underlying: under.id,
  spot: '41.2',
  rate: '0.02',
  dividendYield: '0.02',
  expiries: ['2026-04-17'],
  expiry: '2026-04-17',
  years: '0.126',
  rows: Array.from({ length: STRIKES }, (_, i) => 26 + i / 2).map((strike) => ({
    strike: strike.toFixed(2),
    call: cellOf(strike, 'call'),
    put: cellOf(strike, 'put'),
  })),
};

const nowhere = (): void => undefined;

function Page() {
  const [chain, setChain] = useState(() => chainNow(bare, market));
  useEffect(() => {
    const key = {};
    let live = liveChain(chainNow(bare, market));
    const step = (): void => {
      live = chainStep(live, market, STRIKES_A_FRAME);
      setChain(live.chain);
      if (live.more) requestAnimationFrame(step);
    };
    let sent = 0;
    const from = performance.now();
    const timer = setInterval(() => {
      const due = Math.floor(((performance.now() - from) / 1000) * QUOTES_A_SECOND);
      for (; sent < due; sent++) {
        const { id, strike, right } = chance.pick(options);
        quotes.set(id, quoted(id, strike, right));
        // The spot moves now and then, and with it every greek.
        if (sent % 100 === 0) quotes.set(under.id, { ...(quotes.get(under.id) as ApiQuote), mark: (41.2 + (chance.below(11) - 5) / 100).toFixed(2) });
        paintSoon(key, step);
      }
      if (performance.now() - from > SECONDS * 1000) {
        clearInterval(timer);
        Object.assign(window, { chainDone: true });
      }
    }, STREAM_MS);
    return () => clearInterval(timer);
  }, []);
  return <ChainTable chain={chain} rows={chain.rows} spot={Number(chain.spot)} columns={COLUMNS} shown={null} press={nowhere} />;
}

const box = document.createElement('div');
box.style.cssText = 'width: 900px; height: 500px; display: flex; flex-direction: column; overflow: auto';
document.body.append(box);
createRoot(box).render(<Page />);
