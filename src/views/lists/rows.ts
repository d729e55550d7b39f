import { useState } from 'react';
import type { Command } from '../../client/keys.ts';

/** Rows that can be ringed by a press and walked by arrow keys. Nothing acts on what the pointer merely rests on. */
export function useListRows(ids: readonly string[], onWalk: (id: string) => void) {
  const [ringed, setRinged] = useState<string | null>(null);
  const ring = (id: string): void => {
    setRinged(id);
    onWalk(id);
  };
  const walk = (step: 1 | -1) => (): void => {
    const at = ringed === null ? -1 : ids.indexOf(ringed);
    const next = ids[Math.max(0, Math.min(ids.length - 1, at + step))];
    if (next !== undefined) ring(next);
  };
  const commands: readonly Command[] = [
    { keys: ['ArrowDown'], words: 'the next row', repeats: true, run: walk(1) },
    { keys: ['ArrowUp'], words: 'the row before', repeats: true, run: walk(-1) },
    { keys: ['Escape'], words: 'ring nothing', run: () => setRinged(null) },
  ];
  return { ringed: ringed !== null && ids.includes(ringed) ? ringed : null, ring, commands };
}
