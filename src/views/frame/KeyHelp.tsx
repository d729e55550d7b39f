import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { keys } from '../../client/keys.ts';
import { useFrameCommands } from '../act/keys.ts';

const ARROWS: Readonly<Record<string, string>> = { ArrowLeft: '←', ArrowRight: '→', ArrowUp: '↑', ArrowDown: '↓' };

/** A chord as it stands on the keys: modifiers by words, letters in capitals. */
function keyWords(chord: string): string {
  const [, held = '', key = ''] = /^((?:\w+\+)*)(.+)$/u.exec(chord) ?? [];
  return `${held.replaceAll('+', ' ')}${ARROWS[key] ?? (key.length === 1 ? key.toUpperCase() : key)}`;
}

/** `?`: every key that does something now, with what it would do or why it can't. */
export function KeyHelp() {
  const [open, setOpen] = useState(false);
  useFrameCommands([{ keys: ['?'], words: 'all keys', run: () => setOpen(true) }]);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen} modal={false}>
      <Dialog.Portal>
        <Dialog.Content
          className="floats fixed left-1/2 top-1/2 z-50 max-h-[80vh] w-[560px] -translate-x-1/2 -translate-y-1/2 overflow-y-auto p-4"
          aria-describedby={undefined}
        >
          <Dialog.Title className="mb-2 text-[16px] font-semibold">Keys now</Dialog.Title>
          {open && <Owners />}
          <p className="mt-3 quiet">Where the caret is, plain keys write. Keys that are held walk and pan; they never send.</p>
          <Dialog.Close className="control mt-3">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Owners() {
  const owners = new Map<string, { chords: string; words: string; why: string | null }[]>();
  for (const owner of keys.having()) {
    const rows = owner.commands().map((command) => ({ chords: command.keys.map(keyWords).join(', '), words: command.words, why: command.cannot?.() ?? null }));
    owners.set(owner.name, [...(owners.get(owner.name) ?? []), ...rows]);
  }
  return [...owners].map(([name, rows]) => (
    <table key={name} className="list mb-3 table-fixed">
      <caption className="text-left font-semibold">{name}</caption>
      <tbody>
        {rows.map(({ chords, words, why }) => (
          <tr key={`${chords} ${words}`}>
            <th scope="row" className="w-[150px] font-medium">
              {chords}
            </th>
            <td className="!whitespace-normal">
              {words}
              {why !== null && <span className="quiet"> · not now: {why}</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  ));
}
