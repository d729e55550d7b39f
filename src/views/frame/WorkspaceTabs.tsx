import { useStore } from '@nanostores/react';
import { ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { notePopoverClosed } from '../../client/gestures/index.ts';
import { $undone, say, undoLast } from '../../client/undo.ts';
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
  savedNames,
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
  const undone = useStore($undone);
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
    { keys: ['Ctrl+Z'], words: 'take back what was done last; never an order', run: undoLast },
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
              className={`whitespace-nowrap border-b-2 px-1 leading-[28px] ${name === current ? 'border-ink' : 'border-transparent quiet'}`}
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
        <button key={side} type="button" className="control !min-h-[20px] !px-1" onClick={() => toggleSide(side)}>
          unfold {side}
        </button>
      ))}
      {windows.length > 0 && (
        <DropdownMenu.Root modal={false} onOpenChange={(is) => !is && notePopoverClosed()}>
          <DropdownMenu.Trigger className="control !min-h-[20px] !px-1">
            {windows.length} {windows.length === 1 ? 'window' : 'windows'}
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="floats p-1" sideOffset={4}>
              {windows.map((id) => (
                <DropdownMenu.Group key={id}>
                  <DropdownMenu.Item className="menu-item" onSelect={() => void openWindow(id)}>
                    Show {nameOf(id)}
                  </DropdownMenu.Item>
                  <DropdownMenu.Item className="menu-item" onSelect={() => takeIn(id)}>
                    Put {nameOf(id)} back
                  </DropdownMenu.Item>
                </DropdownMenu.Group>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
      {(saved === 'not saved' || saved === 'not read') && <span className="plate heather">{saved}</span>}
      {undone !== null && (
        <p role="status" data-testid="said" className="floats absolute left-0 top-[32px] z-50 px-2">
          {undone}
        </p>
      )}
    </nav>
  );
}

function WorkspaceMenu({ hidden, onRename }: { hidden: readonly string[]; onRename: () => void }) {
  const { open, current } = useStore($tabs);
  const [names, setNames] = useState<readonly string[]>([]);
  const file = useRef<HTMLInputElement>(null);
  const others = [...new Set([...Object.keys(PREPARED), ...names])].filter((name) => !open.includes(name));
  const take = (chosen: File | undefined): void => {
    if (chosen) void importWorkspace(chosen).then((problem) => say(problem ?? `took in ${chosen.name}`));
  };
  return (
    <>
      <input
        ref={file}
        type="file"
        accept=".json,application/json"
        className="hidden"
        aria-label="Workspace file"
        onChange={(event) => {
          take(event.target.files?.[0]);
          event.target.value = '';
        }}
      />
      <DropdownMenu.Root
        modal={false}
        onOpenChange={(is) => {
          if (is) void savedNames().then(setNames);
          else notePopoverClosed();
        }}
      >
        <DropdownMenu.Trigger
          className="flex shrink-0 items-center gap-1 px-1 quiet"
          aria-label={hidden.length > 0 ? `${hidden.length} more, workspace menu` : 'Workspace menu'}
        >
          {hidden.length > 0 && `${hidden.length} more`}
          <ChevronDown size={14} />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className="floats w-64 p-1" align="start" sideOffset={4}>
            {hidden.map((name) => (
              <DropdownMenu.Item key={name} className="menu-item" onSelect={() => showTab(name)}>
                {name}
              </DropdownMenu.Item>
            ))}
            {hidden.length > 0 && <DropdownMenu.Separator className="my-1 h-px bg-hair" />}
            {others.map((name) => (
              <DropdownMenu.Item key={name} className="menu-item" onSelect={() => showTab(name)}>
                Open {name}
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.Item className="menu-item" onSelect={() => void addEmpty()}>
              New, empty
            </DropdownMenu.Item>
            <DropdownMenu.Item className="menu-item" onSelect={() => file.current?.click()}>
              Import a file …
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 h-px bg-hair" />
            <DropdownMenu.Label className="px-2 quiet">{current}</DropdownMenu.Label>
            <DropdownMenu.Item className="menu-item" onSelect={() => setTimeout(onRename, 50)}>
              Rename
            </DropdownMenu.Item>
            <DropdownMenu.Item className="menu-item" onSelect={() => void duplicateWorkspace(current)}>
              Duplicate
            </DropdownMenu.Item>
            <DropdownMenu.Item className="menu-item" onSelect={resetWorkspace}>
              Reset
            </DropdownMenu.Item>
            <DropdownMenu.Item className="menu-item" onSelect={() => void exportWorkspace(current)}>
              Export as a file
            </DropdownMenu.Item>
            <DropdownMenu.Item className="menu-item" onSelect={() => closeTab(current)}>
              Close the tab
            </DropdownMenu.Item>
            <DropdownMenu.Item className="menu-item" onSelect={() => void deleteWorkspace(current)}>
              Delete
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 h-px bg-hair" />
            {SIDES.map((side) => (
              <DropdownMenu.Item key={side} className="menu-item" onSelect={() => toggleSide(side)}>
                Fold or unfold the {side} side
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  );
}
