import { useState, type KeyboardEvent } from 'react';

/** Rows that can be ringed by a press and walked by arrow keys. Nothing acts on what the pointer merely rests on. */
export function useListRows(ids: readonly string[], onWalk: (id: string) => void) {
  const [ringed, setRinged] = useState<string | null>(null);
  const ring = (id: string): void => {
    setRinged(id);
    onWalk(id);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key === 'Escape') setRinged(null);
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    event.preventDefault();
    const at = ringed === null ? -1 : ids.indexOf(ringed);
    const next = ids[Math.max(0, Math.min(ids.length - 1, at + (event.key === 'ArrowDown' ? 1 : -1)))];
    if (next !== undefined) ring(next);
  };
  return { ringed: ringed !== null && ids.includes(ringed) ? ringed : null, ring, onKeyDown };
}
