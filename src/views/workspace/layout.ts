import type { DockviewApi } from 'dockview-react';
import { atom } from 'nanostores';
import { noteUndoable, say } from '../../client/undo.ts';
import { $session } from '../../live/index.ts';
import { showPage } from '../pages/route.ts';
import { docked, liesAs, placed, readArrangement, withPanes, type WorkspaceDocument } from './arrangement.ts';
import { $tabs, fitting, originalOf, workspaces } from './documents.ts';
import { $activePane, $letters, $panes, $revision, activate, addPane, dropPane, noteChange, targetOf, type Pane, type PaneKind } from './panes.ts';
import { WORKSPACE_FORMAT } from '../../schemas/saved.ts';

const FIRST = 'GANET.HALM';

let api: DockviewApi | null = null;
let shown: string | null = null;
let loading = false;

/** Panes that stand in windows of their own. */
export const $windows = atom<readonly string[]>([]);
/** Whether one pane has all the room for a moment. */
export const $maximised = atom(false);
/** Sides that are folded away. */
export const $folded = atom<readonly Side[]>([]);
/** Whether the workspace holds no pane at all. */
export const $isEmpty = atom(false);

function newId(kind: PaneKind): string {
  const stem = kind.toLowerCase().replace(/[^a-z]+/g, '-');
  for (let n = 1; ; n++) if (!$panes.get()[`${stem}-${n}`]) return `${stem}-${n}`;
}

type Arrangement = ReturnType<typeof readArrangement>;

/** How the panes lie, as it was loaded or last arranged by hand, and what docking made of it in the room it had. */
let lies: { readonly kept: Arrangement; readonly read: Arrangement; readonly room: string } | null = null;
const isWhole = (docking: DockviewApi): boolean => !docking.hasMaximizedGroup() && $folded.get().length === 0;
const roomOf = ({ width, height }: DockviewApi): string => `${width} ${height}`;
/** Sizes are read in whole pixels. */
const ROUNDED = 2;

/**
 * How the panes lie. What docking does by itself, because the window is larger or smaller, is no new arrangement: two
 * windows that show the same would set each other right for ever. Nor is what stands for a moment only, while one pane
 * has all the room or a side is folded away.
 */
function arrangementOf(docking: DockviewApi): Arrangement {
  if (lies !== null && !isWhole(docking)) return lies.kept;
  const read = readArrangement(docking.toJSON());
  const room = roomOf(docking);
  const isKept = lies?.read.direction === read.direction && liesAs(lies.read.layout, read.layout, room === lies.room ? ROUNDED : Infinity);
  lies = { kept: isKept && lies ? lies.kept : read, read, room };
  return lies.kept;
}

/** The workspace as it stands, as a document. */
function readDocument(docking: DockviewApi): WorkspaceDocument {
  const panes = Object.fromEntries(Object.values($panes.get()).map(({ id, ...pane }) => [id, pane]));
  const arranged = withPanes(arrangementOf(docking), Object.keys(panes), $windows.get());
  return { format: WORKSPACE_FORMAT, panes, letters: $letters.get(), ...arranged, windows: $windows.get() };
}

function write(docking: DockviewApi, given: WorkspaceDocument): void {
  const document = fitting(given);
  loading = true;
  docking.clear();
  $activePane.set(null);
  $letters.set(document.letters);
  $panes.set(Object.fromEntries(Object.entries(document.panes).map(([id, pane]) => [id, { id, ...pane }])));
  $windows.set(document.windows);
  $folded.set([]);
  $maximised.set(false);
  if (document.layout) docking.fromJSON(docked(document, docking.width, docking.height));
  const first = document.layout ? placed(document.layout) : [];
  const order = ['Chart', 'Ladder', 'Depth', 'Quote table'];
  const main = order.map((kind) => first.find((id) => document.panes[id]?.kind === kind && docking.getPanel(id)?.api.isVisible)).find(Boolean) ?? first[0];
  if (main !== undefined) docking.getPanel(main)?.api.setActive();
  $isEmpty.set(docking.totalPanels === 0);
  const { layout, direction } = document;
  lies = { kept: { layout, direction }, read: readArrangement(docking.toJSON()), room: roomOf(docking) };
  loading = false;
}

/** Takes the docking area over and shows the workspace of the current tab. */
export function attach(docking: DockviewApi): void {
  api = docking;
  docking.onDidRemovePanel((panel) => {
    if (loading || moving.has(panel.id)) return;
    const pane = $panes.get()[panel.id];
    dropPane(panel.id);
    if (pane)
      noteUndoable(`the pane ${pane.kind}`, () => {
        addPane(pane);
        place(pane, $activePane.get());
      });
  });
  docking.onDidActivePanelChange((panel) => panel && activate(panel.id));
  docking.onDidMaximizedGroupChange(({ isMaximized }) => $maximised.set(isMaximized));
  docking.onDidLayoutChange(() => {
    $isEmpty.set(docking.totalPanels === 0);
    noteChange();
  });
  $revision.listen(() => {
    if (loading || shown === null) return;
    const now = readDocument(docking);
    known = now;
    workspaces.change(shown, () => now);
  });
  workspaces.$all.listen((all) => {
    const thing = shown === null ? undefined : all[shown];
    if (thing?.kind !== 'known' || thing.value === known) return;
    // Another window changed it, or the two were made one.
    known = thing.value;
    if (!loading && JSON.stringify(thing.value) !== JSON.stringify(readDocument(docking))) write(docking, thing.value);
  });
  $tabs.subscribe(({ current }) => void show(docking, current));
}

/** The shown workspace as this window last knew or made it. */
let known: WorkspaceDocument | undefined;
/** The workspace that is on its way to the screen. */
let coming: string | null = null;

async function show(docking: DockviewApi, name: string): Promise<void> {
  if (name === (coming ?? shown)) return;
  coming = name;
  loading = true;
  const document = await workspaces.known(name);
  // Another one was asked for meanwhile.
  if (coming !== name) return;
  coming = null;
  shown = name;
  known = document;
  write(docking, document);
}

/** The workspace as Kavix brought it, or emptied; Ctrl Z brings the arrangement back. */
export function resetWorkspace(): void {
  const docking = api;
  if (!docking || shown === null) return;
  const before = readDocument(docking);
  write(docking, originalOf(shown));
  noteChange();
  say('the workspace is as it was brought; Ctrl Z takes that back');
  noteUndoable('the arrangement', () => {
    write(docking, before);
    noteChange();
  });
}

/** Opens a pane beside the active one, on the same instrument. */
export function openPane(kind: PaneKind, instrument?: string, settings: Record<string, unknown> = {}): void {
  const active = $activePane.get();
  const target = active === null ? null : targetOf(active);
  const letter = active === null ? 'A' : ($panes.get()[active]?.letter ?? null);
  const linked = instrument === undefined || instrument === target?.instrument;
  const account = target?.account ?? $session.get()?.accounts[0] ?? 'MAIN';
  const pane: Pane = {
    id: newId(kind),
    kind,
    letter: linked ? letter : null,
    intervalLetter: null,
    instrument: instrument ?? target?.instrument ?? FIRST,
    account,
    settings,
  };
  if (pane.letter !== null && !$letters.get()[pane.letter]) $letters.setKey(pane.letter, { instrument: pane.instrument ?? FIRST, account });
  showPage(null);
  addPane(pane);
  place(pane, active);
}

function place(pane: Pane, beside: string | null, direction: 'within' | 'right' | 'below' = 'within'): void {
  if (!api) return;
  const reference = beside !== null && api.getPanel(beside) ? { referencePanel: beside, direction } : undefined;
  api.addPanel({ id: pane.id, component: 'pane', title: pane.kind, ...(reference ? { position: reference } : {}) });
  api.getPanel(pane.id)?.api.setActive();
}

/** Puts a second pane like this one beside it or below it. */
export function splitPane(id: string, direction: 'right' | 'below'): void {
  const pane = $panes.get()[id];
  if (!pane) return;
  const copy = { ...pane, id: newId(pane.kind) };
  addPane(copy);
  place(copy, id, direction);
}

/** Gives a pane all the room for a moment, or takes it back. */
export function toggleMaximised(id: string): void {
  if (!api) return;
  if (api.hasMaximizedGroup()) api.exitMaximizedGroup();
  else {
    const panel = api.getPanel(id);
    if (panel) api.maximizeGroup(panel);
  }
}

export const SIDES = ['left', 'right', 'bottom'] as const;
export type Side = (typeof SIDES)[number];

/** Folds away the panes that touch a side of the workspace, or brings them back. */
export function toggleSide(side: Side): void {
  if (!api) return;
  if ($folded.get().includes(side)) {
    for (const group of foldedGroups.get(side) ?? []) group.api.setVisible(true);
    $folded.set($folded.get().filter((one) => one !== side));
    return;
  }
  const box = api.groups.map((group) => ({ group, rect: group.element.getBoundingClientRect() })).filter(({ rect }) => rect.width > 0);
  const edge = { left: Math.min, right: Math.max, bottom: Math.max }[side](...box.map(({ rect }) => rect[side]));
  const whole = side === 'bottom' ? Math.max(...box.map(({ rect }) => rect.width)) : 0;
  const touching = box.filter(({ rect }) => Math.abs(rect[side] - edge) < 4 && (side !== 'bottom' || rect.width < whole * 1.01)).map(({ group }) => group);
  if (touching.length === box.length) {
    say(`everything touches the ${side} side; nothing was folded`);
    return;
  }
  foldedGroups.set(side, touching);
  $folded.set([...$folded.get(), side]);
  for (const group of touching) group.api.setVisible(false);
}

const foldedGroups = new Map<Side, DockviewApi['groups']>();
const moving = new Set<string>();
/** Whether a pane that went to a window had its place in the dock to itself. */
const alone = new Map<string, boolean>();

/** Takes a pane out of the dock: it stands in a window of its own. */
export function takeOut(id: string): void {
  const panel = api?.getPanel(id);
  if (panel) {
    alone.set(id, panel.group.panels.length === 1);
    moving.add(id);
    panel.api.close();
    moving.delete(id);
  }
  $windows.set([...new Set([...$windows.get(), id])]);
  noteChange();
}

/** Puts a pane that stood in a window back into the dock. */
export function takeIn(id: string): void {
  const pane = $panes.get()[id];
  if (!pane || !$windows.get().includes(id)) return;
  $windows.set($windows.get().filter((one) => one !== id));
  place(pane, $activePane.get(), alone.get(id) === false ? 'within' : 'right');
  noteChange();
}

/** Goes to a pane, and from a page back to the workspace that it is in. */
export function showPane(id: string): void {
  showPage(null);
  const panel = api?.getPanel(id);
  panel?.api.setActive();
  panel?.group.element.querySelector<HTMLElement>('[role="region"]')?.focus();
}

/** Goes to the next pane, or the one before. */
export function walkPanes(step: 1 | -1): void {
  if (!api) return;
  const visible = api.groups.flatMap((group) => (group.activePanel ? [group.activePanel] : []));
  const at = visible.findIndex((panel) => panel.id === $activePane.get());
  const next = visible[(at + step + visible.length) % visible.length];
  next?.api.setActive();
  next?.group.element.querySelector<HTMLElement>('[role="region"]')?.focus();
}

/** Goes to the next workspace tab, or the one before. */
export function walkTabs(step: 1 | -1): string | undefined {
  const { open, current } = $tabs.get();
  return open[(open.indexOf(current) + step + open.length) % open.length];
}
