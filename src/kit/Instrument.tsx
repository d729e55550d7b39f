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

/** A side as its pennant: the word, or its letter alone where a word has no room. */
export function Pennant({ side, short = false }: { side: 'buy' | 'sell'; short?: boolean }) {
  if (!short) return <span className={`pennant ${side}`}>{side}</span>;
  return (
    <span className={`pennant short ${side}`} role="img" aria-label={side}>
      {side === 'buy' ? 'B' : 'S'}
    </span>
  );
}
