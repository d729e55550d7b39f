import { X } from 'lucide-react';
import { useState } from 'react';
import type { SavedThings } from '../../client/saved.ts';
import type { NamedKind } from '../../client/saved-remote.ts';
import { noteUndoable } from '../../client/undo.ts';
import { Button } from '../../kit/Button.tsx';
import { askAgain, useAsked } from './queries.tsx';

interface Props<T> {
  readonly kind: NamedKind;
  /** What one of them is called: "set". */
  readonly what: string;
  readonly things: SavedThings<T>;
  /** What would be kept now; null where there is nothing to keep. */
  readonly now: T | null;
  readonly onTake: (name: string, value: T) => void;
}

/** What a trader keeps under names of their own, to be taken up again: each can be taken, deleted, and written over. */
export function KeptSets<T>({ kind, what, things, now, onTake }: Props<T>) {
  const names = useAsked(`GET /api/${kind}`, {}).data?.items.map((item) => item.name) ?? [];
  const [typed, setTyped] = useState('');
  const name = typed.trim();
  const again = (): Promise<void> => askAgain(`GET /api/${kind}`);
  const keep = async (): Promise<void> => {
    if (now === null || name === '') return;
    await things.known(name);
    things.change(name, () => now);
    await things.flush(name);
    setTyped('');
    await again();
  };
  const drop = async (gone: string): Promise<void> => {
    const value = await things.remove(gone);
    if (value !== null) noteUndoable(`the ${what} ${gone}`, () => things.add(gone, value).then(again));
    await again();
  };
  return (
    <div className="flex flex-col gap-1">
      {names.map((one) => (
        <div key={one} className="flex items-center gap-2">
          <button type="button" className="min-h-[24px] flex-1 text-left" onClick={() => void things.known(one).then((value) => onTake(one, value))}>
            {one}
          </button>
          <button
            type="button"
            className="grid h-[24px] w-[24px] place-items-center text-quiet"
            aria-label={`Delete the ${what} ${one}`}
            onClick={() => void drop(one)}
          >
            <X size={11} />
          </button>
        </div>
      ))}
      <div className="flex gap-1">
        <input
          className="field min-w-0 flex-1"
          placeholder={`name of a ${what}`}
          aria-label={`Name of a ${what}`}
          value={typed}
          maxLength={64}
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') void keep();
          }}
        />
        <Button disabled={name === '' || now === null} onClick={() => void keep()}>
          {names.includes(name) ? 'write over it' : 'keep these'}
        </Button>
      </div>
    </div>
  );
}
