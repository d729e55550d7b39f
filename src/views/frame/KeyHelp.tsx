import { useState } from 'react';
import { Button } from '../../kit/Button.tsx';
import { Dialog } from '../../kit/Dialog.tsx';
import { Facts } from '../../kit/Facts.tsx';
import { keys, keyWords } from '../../client/keys.ts';
import { useFrameCommands } from '../act/keys.ts';

/** `?`: every key that does something now, with what it would do or why it can't. */
export function KeyHelp() {
  const [open, setOpen] = useState(false);
  useFrameCommands([{ keys: ['?'], words: 'all keys', run: () => setOpen(true) }]);
  return (
    open && (
      <Dialog title="Keys now" onClose={() => setOpen(false)} className="w-[560px]">
        <Owners />
        <p className="mt-3 text-quiet">Where the caret is, plain keys write. Keys that are held walk and pan; they never send.</p>
        <Button className="mt-3" onClick={() => setOpen(false)}>
          Close
        </Button>
      </Dialog>
    )
  );
}

function Owners() {
  const owners = new Map<string, { chords: string; words: string; why: string | null }[]>();
  for (const owner of keys.having()) {
    const rows = owner.commands().map((command) => ({ chords: command.keys.map(keyWords).join(', '), words: command.words, why: command.cannot?.() ?? null }));
    owners.set(owner.name, [...(owners.get(owner.name) ?? []), ...rows]);
  }
  return [...owners]
    .filter(([, rows]) => rows.length > 0)
    .map(([name, rows]) => (
      <section key={name} className="mb-3">
        <h3 className="font-semibold">{name}</h3>
        <Facts
          wide
          lines={rows.map(({ chords, words, why }) => [
            chords,
            <>
              {words}
              {why !== null && <span className="text-quiet"> · not now: {why}</span>}
            </>,
          ])}
        />
      </section>
    ));
}
