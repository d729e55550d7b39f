import { useStore } from '@nanostores/react';
import { ChevronDown } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { FilePick } from '../../kit/FilePick.tsx';
import { Menu, MenuItem, MenuLabel, MenuLine } from '../../kit/Menu.tsx';
import { askAgain, useAsked } from '../act/queries.tsx';
import { say } from '../../client/undo.ts';
import { Button } from '../../kit/Button.tsx';
import {
  $saved,
  $tabs,
  addEmpty,
  closeTab,
  deleteWorkspace,
  duplicateWorkspace,
  exportWorkspace,
  importWorkspace,
  moveTab,
  renameWorkspace,
  showTab,
} from '../workspace/documents.ts';
import { $folded, $windows, SIDES, resetWorkspace, takeIn, toggleSide, walkTabs } from '../workspace/layout.ts';
import { $panes, targetOf } from '../workspace/panes.ts';
import { openWindow } from '../workspace/windows.ts';
import { PREPARED } from '../workspace/prepared.ts';
import { useFrameCommands } from '../act/keys.ts';

const CHARACTER_PX = 6.4;
const TAB_PX = 26;
const MENU_PX = 34;

/** A pane as its region is named: what it is, and what it shows. */
const nameOf = (id: string): string => [$panes.get()[id]?.kind ?? id, targetOf(id)?.instrument ?? ''].join(' ').trim();

/** The open workspaces as words in the top line; what doesn't fit stands in the menu at their end. */
export function WorkspaceTabs() {
  const { open, current } = useStore($tabs);
  const saved = useStore($saved);
  const windows = useStore($windows);
  const folded = useStore($folded);
  const line = useRef<HTMLElement>(null);
  const [room, setRoom] = useState(500);
  const [renaming, setRenaming] = useState<string | null>(null);
  useEffect(() => {
    const element = line.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => setRoom(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const walk = (step: 1 | -1) => (): void => {
    const next = walkTabs(step);
    if (next !== undefined) showTab(next);
  };
  useFrameCommands([
    { keys: ['F9'], words: 'the next workspace', run: walk(1) },
    { keys: ['Shift+F9'], words: 'the workspace before', run: walk(-1) },
  ]);
  const fits: string[] = [];
  let used = MENU_PX + (folded.length + (windows.length > 0 ? 1 : 0)) * 90;
  for (const name of [current, ...open.filter((one) => one !== current)]) {
    used += name.length * CHARACTER_PX + TAB_PX;
    if (used < room || name === current) fits.push(name);
  }
  const rename = (from: string, to: string): void => {
    setRenaming(null);
    void renameWorkspace(from, to.trim()).then((problem) => problem !== null && say(problem));
  };
  return (
    <nav ref={line} className="relative flex min-w-0 flex-1 items-center gap-2" aria-label="Workspaces">
      {open
        .filter((name) => fits.includes(name))
        .map((name) =>
          renaming === name ? (
            <input
              key={name}
              autoFocus
              className="field w-[140px]"
              aria-label={`New name of ${name}`}
              defaultValue={name}
              maxLength={64}
              onFocus={(event) => event.target.select()}
              onBlur={() => setRenaming(null)}
              onKeyDown={(event) => {
                event.stopPropagation();
                if (event.key === 'Enter') rename(name, event.currentTarget.value);
                if (event.key === 'Escape') setRenaming(null);
              }}
            />
          ) : (
            <button
              key={name}
              type="button"
              draggable
              aria-current={name === current ? 'page' : undefined}
              className={`whitespace-nowrap border-b-2 px-1 leading-[28px] ${name === current ? 'border-ink' : 'border-transparent text-quiet'}`}
              onClick={() => showTab(name)}
              onDoubleClick={() => setRenaming(name)}
              onKeyDown={(event) => event.key === 'F2' && setRenaming(name)}
              onDragStart={(event) => event.dataTransfer.setData('text/kavix-tab', name)}
              onDragOver={(event) => event.dataTransfer.types.includes('text/kavix-tab') && event.preventDefault()}
              onDrop={(event) => {
                const moved = event.dataTransfer.getData('text/kavix-tab');
                if (moved) moveTab(moved, open.indexOf(name));
              }}
            >
              {name}
            </button>
          ),
        )}
      <WorkspaceMenu hidden={open.filter((name) => !fits.includes(name))} onRename={() => setRenaming(current)} />
      {folded.map((side) => (
        <Button key={side} size="small" onClick={() => toggleSide(side)}>
          unfold {side}
        </Button>
      ))}
      {windows.length > 0 && (
        <Menu
          trigger={
            <button type="button" className="rounded-[2px] border border-line px-1 leading-[20px] hover:bg-raised">
              {windows.length} {windows.length === 1 ? 'window' : 'windows'}
            </button>
          }
        >
          {windows.map((id) => (
            <div role="presentation" key={id}>
              <MenuItem onPick={() => void openWindow(id)}>Show {nameOf(id)}</MenuItem>
              <MenuItem onPick={() => takeIn(id)}>Put {nameOf(id)} back</MenuItem>
            </div>
          ))}
        </Menu>
      )}
      {(saved === 'not saved' || saved === 'not read') && <span className="plate heather">{saved}</span>}
    </nav>
  );
}

function WorkspaceMenu({ hidden, onRename }: { hidden: readonly string[]; onRename: () => void }) {
  const { open, current } = useStore($tabs);
  const names = useAsked('GET /api/workspaces', {}).data?.items.map(({ name }) => name) ?? [];
  const file = useRef<HTMLInputElement>(null);
  const others = [...new Set([...Object.keys(PREPARED), ...names])].filter((name) => !open.includes(name));
  const take = (chosen: File): void => void importWorkspace(chosen).then((problem) => say(problem ?? `took in ${chosen.name}`));
  return (
    <>
      <FilePick label="Workspace file" accept=".json,application/json" input={file} onPick={take} />
      <Menu
        onOpen={(is) => is && void askAgain('GET /api/workspaces')}
        className="w-64"
        trigger={
          <button
            type="button"
            className="flex shrink-0 items-center gap-1 px-1 text-quiet"
            aria-label={hidden.length > 0 ? `${hidden.length} more, workspace menu` : 'Workspace menu'}
          >
            {hidden.length > 0 && `${hidden.length} more`}
            <ChevronDown size={14} />
          </button>
        }
      >
        {hidden.map((name) => (
          <MenuItem key={name} onPick={() => showTab(name)}>
            {name}
          </MenuItem>
        ))}
        {hidden.length > 0 && <MenuLine />}
        {others.map((name) => (
          <MenuItem key={name} onPick={() => showTab(name)}>
            Open {name}
          </MenuItem>
        ))}
        <MenuItem onPick={() => void addEmpty()}>New, empty</MenuItem>
        <MenuItem onPick={() => file.current?.click()}>Import a file …</MenuItem>
        <MenuLine />
        <MenuLabel>{current}</MenuLabel>
        <MenuItem onPick={() => setTimeout(onRename, 50)}>Rename</MenuItem>
        <MenuItem onPick={() => void duplicateWorkspace(current)}>Duplicate</MenuItem>
        <MenuItem onPick={resetWorkspace}>Reset</MenuItem>
        <MenuItem onPick={() => void exportWorkspace(current)}>Export as a file</MenuItem>
        <MenuItem onPick={() => closeTab(current)}>Close the tab</MenuItem>
        <MenuItem onPick={() => void deleteWorkspace(current)}>Delete</MenuItem>
        <MenuLine />
        {SIDES.map((side) => (
          <MenuItem key={side} onPick={() => toggleSide(side)}>
            Fold or unfold the {side} side
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
