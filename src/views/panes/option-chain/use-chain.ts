import { computed } from 'nanostores';
import { useEffect, useRef, useState } from 'react';
import { chainNow, chainStep, liveChain, optionsOf, type Chain, type ChainMarket, type LiveChain } from '../../../client/live-chain.ts';
import { sumOf } from '../../../core/number/index.ts';
import { paintNoMore, paintSoon } from '../../../kit/pace.ts';
import { $clock, $positions, followQuote, instrumentOf, quoteOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';

/** Time runs on between two quotes: what hangs on it is asked anew now and then. */
const AGAIN_MS = 10_000;
/** Strikes that one frame brings up to date. */
export const STRIKES_A_FRAME = 4;

/** Signed units of all accounts, by instrument. */
const $held = computed($positions, (positions) => {
  const held = new Map<string, string>();
  for (const { instrument, quantity } of Object.values(positions)) held.set(instrument, sumOf([held.get(instrument) ?? '0', quantity]));
  return held;
});

const MARKET: ChainMarket = {
  instrumentOf,
  quote: (id) => quoteOf(id)?.text,
  held: (id) => $held.get().get(id) ?? '0',
  now: () => {
    const time = $clock.get()?.time;
    return time === undefined ? null : Date.parse(time);
  },
};

/** The chain of an underlying at an expiry, live. */
export function useChain(underlying: string, expiry: string | null) {
  const { data: asked, error } = useAsked(
    'GET /api/options/{underlying}',
    { path: { underlying }, query: { expiry: expiry ?? undefined } },
    { everyMs: AGAIN_MS },
  );
  const [chain, setChain] = useState<Chain | undefined>(asked);
  const live = useRef<LiveChain | null>(null);
  const options = asked ? optionsOf(asked).join(' ') : '';
  useEffect(() => {
    if (!asked) return;
    live.current = liveChain(chainNow(asked, MARKET));
    setChain(live.current.chain);
  }, [asked]);
  useEffect(() => {
    if (options === '') return undefined;
    const key = {};
    let frame = 0;
    const step = (): void => {
      if (!live.current) return;
      live.current = chainStep(live.current, MARKET, STRIKES_A_FRAME);
      setChain(live.current.chain);
      cancelAnimationFrame(frame);
      if (live.current.more) frame = requestAnimationFrame(step);
    };
    const again = (): void => paintSoon(key, step);
    const stops = [...[underlying, ...options.split(' ')].map((id) => followQuote(id, again)), $positions.listen(again)];
    return () => {
      stops.forEach((stop) => stop());
      paintNoMore(key);
      cancelAnimationFrame(frame);
    };
  }, [underlying, options]);
  return { chain: asked ? chain : undefined, error };
}
