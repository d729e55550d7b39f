import { useStore } from '@nanostores/react';
import { useRef, useState } from 'react';
import { say } from '../../../client/undo.ts';
import { setPaneSetting } from '../../workspace/panes.ts';
import { FilePick } from '../../../kit/FilePick.tsx';
import { later, usePart } from '../../../kit/later.ts';
import { Menu, MenuItem, MenuLine } from '../../../kit/Menu.tsx';
import { saveFile } from '../../../kit/save-file.ts';
import { TextCell } from '../../../kit/TextCell.tsx';
import { $watchlistNames, changeWatchlist, deleteWatchlist, loadWatchlistNames, newWatchlist, renameWatchlist, type WatchRow } from './watchlists.ts';

const PASTE = later(() => import('./PasteDialog.tsx'));

/** Which list a pane shows, and what can be done with it. */
export function ListMenu({ id, name, rows }: { id: string; name: string; rows: readonly WatchRow[] }) {
  const names = Object.keys(useStore($watchlistNames)).sort();
  const [renaming, setRenaming] = useState(false);
  const [pasting, setPasting] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const show = (list: string): void => setPaneSetting(id, 'list', list);
  const paste = usePart(PASTE, pasting !== null);
  const save = async (): Promise<void> => {
    const { watchlistCsv } = await import('./list-file.ts');
    saveFile(`${name}.csv`, 'text/csv', watchlistCsv({ rows }));
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
          <MenuItem onPick={() => void save()}>Export CSV</MenuItem>
          <MenuItem onPick={() => void deleteWatchlist(name).then(() => show('Coast'))}>Delete</MenuItem>
        </Menu>
      )}
      <FilePick label="Watchlist file" accept=".csv,text/csv" input={file} onPick={(picked) => void picked.text().then(setPasting)} />
      {pasting !== null && paste && (
        <paste.PasteDialog
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
