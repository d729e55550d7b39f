import { useAsked } from '../../act/queries.tsx';
import { greeksWords } from '../positions/greeks.ts';
import { Payoff } from './Payoff.tsx';

const AGAIN_MS = 2000;

/** What is held of an underlying and its options: its greeks together, and what it makes. */
export function Held({ underlying, days }: { underlying: string; days: number }) {
  const { data: held } = useAsked('GET /api/options/{underlying}/held', { path: { underlying } }, { everyMs: AGAIN_MS });
  if (!held || held.legs.length === 0) return null;
  return (
    <section className="shrink-0 border-t border-hair px-2 py-1" aria-label="What is held">
      <p className="truncate">
        held: {held.legs.length} {held.legs.length === 1 ? 'position' : 'positions'}, {greeksWords(held)}
      </p>
      <Payoff legs={held.legs.map(({ instrument, quantity, price }) => ({ instrument, quantity, price }))} days={days} />
    </section>
  );
}
