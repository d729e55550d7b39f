/** An instrument: ticker strong, venue quiet, never wrapped. */
export function InstrumentName({ id }: { id: string }) {
  const at = id.lastIndexOf('.');
  return (
    <span className="ticker">
      {id.slice(0, at)}
      <span>{id.slice(at + 1)}</span>
    </span>
  );
}

/** A side is always a filled plate with its letter. */
export function SidePlate({ side }: { side: 'buy' | 'sell' }) {
  return (
    <span className={`side ${side}`} role="img" aria-label={side}>
      {side === 'buy' ? 'B' : 'S'}
    </span>
  );
}
