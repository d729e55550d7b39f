import { useStore } from '@nanostores/react';
import { useMemo, useRef, useState } from 'react';
import { say } from '../../../client/undo.ts';
import { setPaneSetting } from '../../workspace/panes.ts';
import { FilePick } from '../../../kit/FilePick.tsx';
import { Button } from '../../../kit/Button.tsx';
import { Dialog } from '../../../kit/Dialog.tsx';
import { Menu, MenuItem, MenuLine } from '../../../kit/Menu.tsx';
import { saveFile } from '../../../kit/save-file.ts';
import { TextCell } from '../../../kit/TextCell.tsx';
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
  const save = (): void => saveFile(`${name}.csv`, 'text/csv', watchlistCsv({ rows }));
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
        <Menu
          className="w-56"
          onOpen={(open) => open && void loadWatchlistNames()}
          trigger={
            <button type="button" className="truncate underline underline-offset-4">
              {name} ▾
            </button>
          }
        >
          {names.map((one) => (
            <MenuItem key={one} onPick={() => show(one)}>
              {one}
              {one === name && ' •'}
            </MenuItem>
          ))}
          <MenuLine />
          <MenuItem onPick={() => void newWatchlist().then(show)}>New list</MenuItem>
          <MenuItem onPick={() => setTimeout(() => setRenaming(true), 60)}>Rename</MenuItem>
          <MenuItem onPick={() => void changeWatchlist(name, [...rows, { section: 'Section' }], `a section of ${name}`)}>Add a section</MenuItem>
          <MenuItem onPick={() => setTimeout(() => setPasting(''), 60)}>Paste symbols …</MenuItem>
          <MenuItem onPick={() => file.current?.click()}>Import CSV …</MenuItem>
          <MenuItem onPick={save}>Export CSV</MenuItem>
          <MenuItem onPick={() => void deleteWatchlist(name).then(() => show('Coast'))}>Delete</MenuItem>
        </Menu>
      )}
      <FilePick label="Watchlist file" accept=".csv,text/csv" input={file} onPick={(picked) => void picked.text().then(setPasting)} />
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
    <Dialog title={`Add to ${name}`} onClose={() => onDone(null)}>
      <textarea
        autoFocus
        className="field h-[160px] w-full py-1"
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
        <Button onClick={() => onDone(null)}>Leave it</Button>
        <Button disabled={count === 0} onClick={() => onDone(read.rows)}>
          Add {count} {count === 1 ? 'instrument' : 'instruments'}
        </Button>
      </div>
    </Dialog>
  );
}
