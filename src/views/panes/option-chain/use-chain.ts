import { useEffect, useState } from 'react';
import { chainNow, optionsOf, type Chain, type ChainMarket } from '../../../client/live-chain.ts';
import { sumOf } from '../../../core/number/index.ts';
import { paintNoMore, paintSoon } from '../../../kit/pace.ts';
import { $clock, $positions, followQuote, instrumentOf, quoteOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';

/** Time runs on between two quotes: what hangs on it is asked anew now and then. */
const AGAIN_MS = 10_000;

const MARKET: ChainMarket = {
  instrumentOf,
  quote: (id) => quoteOf(id)?.text,
  held: (id) => sumOf(Object.values($positions.get()).flatMap(({ instrument, quantity }) => (instrument === id ? [quantity] : []))),
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
  const options = asked ? optionsOf(asked).join(' ') : '';
  useEffect(() => {
    if (asked) setChain(chainNow(asked, MARKET));
  }, [asked]);
  useEffect(() => {
    if (options === '') return undefined;
    const key = {};
    const again = (): void => paintSoon(key, () => setChain((before) => before && chainNow(before, MARKET)));
    const stops = [...[underlying, ...options.split(' ')].map((id) => followQuote(id, again)), $positions.listen(again)];
    return () => {
      stops.forEach((stop) => stop());
      paintNoMore(key);
    };
  }, [underlying, options]);
  return { chain: asked ? chain : undefined, error };
}
