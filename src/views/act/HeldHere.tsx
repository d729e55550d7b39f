/** Where something waits. What is held here carries the hatched badge: it is not yet at the venue. */
export function HeldHere({ held, suspended = false }: { held: 'venue' | 'here'; suspended?: boolean }) {
  if (held === 'venue') return <span className="text-quiet">venue</span>;
  return (
    <span
      className="inline-block rounded-[2px] border border-line px-1 text-[11px] leading-[14px]"
      style={{ backgroundImage: 'repeating-linear-gradient(45deg, transparent 0 4px, color-mix(in srgb, var(--ink) 22%, transparent) 4px 5px)' }}
      title={suspended ? 'Held here and suspended: the broker or the prices are cut off.' : 'Held here: Kavix fires it, the venue does not know of it.'}
    >
      held here
    </span>
  );
}
