import { useStore } from '@nanostores/react';
import { Dialog, DropdownMenu } from 'radix-ui';
import { useMemo, useRef, useState } from 'react';
import { notePopoverClosed } from '../../client/gestures/index.ts';
import { say } from '../../client/undo.ts';
import { setPaneSetting } from '../workspace/panes.ts';
import { TextCell } from '../../kit/TextCell.tsx';
import {
  $watchlistNames,
  changeWatchlist,
  deleteWatchlist,
  loadWatchlistNames,
  newWatchlist,
  readRows,
  renameWatchlist,
  watchlistCsv,
  type WatchRow,
} from './watchlists.ts';

/** Which list a pane shows, and what can be done with it. */
export function ListMenu({ id, name, rows }: { id: string; name: string; rows: readonly WatchRow[] }) {
  const names = Object.keys(useStore($watchlistNames)).sort();
  const [renaming, setRenaming] = useState(false);
  const [pasting, setPasting] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const show = (list: string): void => setPaneSetting(id, 'list', list);
  const save = (): void => {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([watchlistCsv({ rows })], { type: 'text/csv' }));
    link.download = `${name}.csv`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  };
  return (
    <div className="flex h-[22px] shrink-0 items-center gap-2 px-2">
      {renaming ? (
        <TextCell
          label={`New name of ${name}`}
          value={name}
          onDone={(to) => {
            setRenaming(false);
            if (to && to !== name) void renameWatchlist(name, to).then((problem) => (problem === null ? show(to) : say(problem)));
          }}
        />
      ) : (
        <DropdownMenu.Root modal={false} onOpenChange={(open) => (open ? void loadWatchlistNames() : notePopoverClosed())}>
          <DropdownMenu.Trigger className="truncate underline underline-offset-4">{name} ▾</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="floats w-56 p-1" sideOffset={4} align="start">
              {names.map((one) => (
                <DropdownMenu.Item key={one} className="menu-item" onSelect={() => show(one)}>
                  {one}
                  {one === name && ' •'}
                </DropdownMenu.Item>
              ))}
              <DropdownMenu.Separator className="my-1 h-px bg-hair" />
              <DropdownMenu.Item className="menu-item" onSelect={() => void newWatchlist().then(show)}>
                New list
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" onSelect={() => setTimeout(() => setRenaming(true), 60)}>
                Rename
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" onSelect={() => void changeWatchlist(name, [...rows, { section: 'Section' }], `a section of ${name}`)}>
                Add a section
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" onSelect={() => setTimeout(() => setPasting(''), 60)}>
                Paste symbols …
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" onSelect={() => file.current?.click()}>
                Import CSV …
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" onSelect={save}>
                Export CSV
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" onSelect={() => void deleteWatchlist(name).then(() => show('Coast'))}>
                Delete
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
      <input
        ref={file}
        type="file"
        accept=".csv,text/csv"
        className="hidden"
        aria-label="Watchlist file"
        onChange={(event) => {
          void event.target.files?.[0]?.text().then(setPasting);
          event.target.value = '';
        }}
      />
      {pasting !== null && (
        <PasteDialog
          text={pasting}
          name={name}
          onText={setPasting}
          onDone={(added) => {
            setPasting(null);
            if (added) void changeWatchlist(name, [...rows, ...added], `what was added to ${name}`);
          }}
        />
      )}
    </div>
  );
}

/** Pasted or imported rows before they are taken: what is unknown is named, the rest is offered. */
function PasteDialog(props: { text: string; name: string; onText: (text: string) => void; onDone: (rows: readonly WatchRow[] | null) => void }) {
  const { text, name, onText, onDone } = props;
  const read = useMemo(() => readRows(text), [text]);
  const count = read.rows.filter((row) => 'instrument' in row).length;
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onDone(null)}>
      <Dialog.Portal>
        <Dialog.Content className="floats fixed left-1/2 top-1/4 w-[420px] -translate-x-1/2 p-4" aria-describedby={undefined}>
          <Dialog.Title className="mb-2 font-semibold">Add to {name}</Dialog.Title>
          <textarea
            autoFocus
            className="field h-[160px] w-full !py-1"
            aria-label="Symbols, one to a line"
            placeholder={'GANET\nKELPA.HALM\nCARB-EUR'}
            value={text}
            onChange={(event) => onText(event.target.value)}
          />
          {read.unknown.length > 0 && (
            <p className="mt-2" role="status">
              <span className="plate heather">not known</span>{' '}
              {read.unknown
                .slice(0, 12)
                .map(({ line, text: symbol }) => `${symbol} (line ${line})`)
                .join(', ')}
              {read.unknown.length > 12 && ` and ${read.unknown.length - 12} more`}
            </p>
          )}
          <div className="mt-2 flex justify-end gap-2">
            <button type="button" className="control" onClick={() => onDone(null)}>
              Leave it
            </button>
            <button type="button" className="control" disabled={count === 0} onClick={() => onDone(read.rows)}>
              Add {count} {count === 1 ? 'instrument' : 'instruments'}
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
