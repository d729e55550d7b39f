import { atom } from 'nanostores';
import { say, noteUndoable } from '../../client/undo.ts';
import { $session, request, instrumentOf, type Answer } from '../../live/index.ts';
import type { WorkspaceDocument } from './arrangement.ts';
import { EMPTY, PREPARED } from './prepared.ts';

/** Names of the workspaces that are open as tabs, and the one that is shown. */
export interface Tabs {
  readonly open: readonly string[];
  readonly current: string;
}

const STORED = 'kavix.tabs';
const SAVE_AFTER_MS = 400;
const AGAIN_MS = 3000;

export const $tabs = atom<Tabs>(storedTabs());
/** Whether the present arrangement is on the server. */
export const $saved = atom<'saved' | 'saving' | 'not saved'>('saved');

function storedTabs(): Tabs {
  try {
    const { open, current } = JSON.parse(localStorage.getItem(STORED) ?? 'null') as Tabs;
    if (open.length > 0 && open.includes(current)) return { open, current };
  } catch {
    // The first visit.
  }
  return { open: Object.keys(PREPARED), current: Object.keys(PREPARED)[0] ?? '' };
}

function setTabs(tabs: Tabs): void {
  $tabs.set(tabs);
  localStorage.setItem(STORED, JSON.stringify(tabs));
}

/** A saved workspace; a prepared one that was never changed is made. */
export async function loadDocument(name: string): Promise<WorkspaceDocument> {
  if ((await savedNames()).includes(name)) {
    const found = await request('GET /api/workspaces/{name}', { path: { name } });
    if (found.ok) return found.value as WorkspaceDocument;
  }
  return (PREPARED[name] ?? (() => EMPTY))();
}

/** Deleted a moment ago: a late change of what was shown does not bring them back. */
const gone = new Set<string>();

let waiting: { name: string; read: () => WorkspaceDocument } | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;

/** Saves the workspace a moment from now; what changes meanwhile goes with it. */
export function saveSoon(name: string, read: () => WorkspaceDocument): void {
  if (waiting && waiting.name !== name) void saveNow();
  waiting = { name, read };
  $saved.set('saving');
  clearTimeout(timer);
  timer = setTimeout(() => void saveNow(), SAVE_AFTER_MS);
}

export async function saveNow(): Promise<void> {
  clearTimeout(timer);
  if (!waiting) return;
  const { name, read } = waiting;
  waiting = null;
  if (gone.has(name)) return;
  const done = await request('PUT /api/workspaces/{name}', { path: { name }, body: read() });
  if (done.ok) {
    if (!waiting) $saved.set('saved');
    return;
  }
  $saved.set('not saved');
  if (done.problem.status === 0 || done.problem.status >= 500) {
    waiting ??= { name, read };
    timer = setTimeout(() => void saveNow(), AGAIN_MS);
  } else say(`the workspace was not saved: ${problemLine(done.problem)}`);
}

/** Changes a saved workspace that is not shown here; null leaves it as it is, and one that was deleted stays so. */
export async function changeSaved(name: string, change: (document: WorkspaceDocument) => WorkspaceDocument | null): Promise<void> {
  const found = await request('GET /api/workspaces/{name}', { path: { name } });
  const changed = found.ok ? change(found.value as WorkspaceDocument) : null;
  if (changed === null) return;
  const done = await request('PUT /api/workspaces/{name}', { path: { name }, body: changed });
  if (!done.ok) say(`the workspace was not saved: ${problemLine(done.problem)}`);
}

const problemLine = (problem: { detail: string; errors?: readonly { path: string; message: string }[] }): string =>
  problem.errors?.map((error) => `${error.path} ${error.message}`).join('; ') ?? problem.detail;

export const showTab = (name: string): void => {
  gone.delete(name);
  const { open } = $tabs.get();
  setTabs({ open: open.includes(name) ? open : [...open, name], current: name });
};

export function closeTab(name: string): void {
  const { open, current } = $tabs.get();
  const left = open.filter((one) => one !== name);
  const at = open.indexOf(name);
  const next = left[Math.min(at, left.length - 1)] ?? Object.keys(PREPARED)[0] ?? '';
  setTabs({ open: left.length > 0 ? left : [next], current: current === name ? next : current });
}

export function moveTab(name: string, to: number): void {
  const { open, current } = $tabs.get();
  const left = open.filter((one) => one !== name);
  setTabs({ open: [...left.slice(0, to), name, ...left.slice(to)], current });
}

/** Names of all saved workspaces. */
export async function savedNames(): Promise<string[]> {
  const found = await request('GET /api/workspaces');
  return found.ok ? found.value.items.map(({ name }) => name) : [];
}

/** A name like the wished one that nothing is saved under. */
async function freeName(wished: string): Promise<string> {
  const taken = new Set([...(await savedNames()), ...$tabs.get().open, ...Object.keys(PREPARED)]);
  if (!taken.has(wished)) return wished;
  for (let n = 2; ; n++) if (!taken.has(`${wished} ${n}`)) return `${wished} ${n}`;
}

/** Saves a document under a new name and shows it. */
export async function addWorkspace(wished: string, document: WorkspaceDocument): Promise<Answer<unknown>> {
  await saveNow();
  const name = await freeName(wished);
  const done = await request('PUT /api/workspaces/{name}', { path: { name }, body: document });
  gone.delete(name);
  if (done.ok) showTab(name);
  return done;
}

export const addEmpty = (): Promise<Answer<unknown>> => addWorkspace('Workspace', EMPTY);

/** Gives a workspace another name; words where that can't be. */
export async function renameWorkspace(from: string, to: string): Promise<string | null> {
  if (to === from) return null;
  await saveNow();
  if ((await savedNames()).includes(to) || $tabs.get().open.includes(to)) return `there is a workspace named ${to}`;
  const made = await request('PUT /api/workspaces/{name}', { path: { name: to }, body: await loadDocument(from) });
  if (!made.ok) return problemLine(made.problem);
  await request('DELETE /api/workspaces/{name}', { path: { name: from } });
  const { open, current } = $tabs.get();
  setTabs({ open: open.map((name) => (name === from ? to : name)), current: current === from ? to : current });
  return null;
}

export async function duplicateWorkspace(name: string): Promise<void> {
  await saveNow();
  await addWorkspace(name, await loadDocument(name));
}

/** Deletes a workspace; Ctrl Z brings it back. */
export async function deleteWorkspace(name: string): Promise<void> {
  await saveNow();
  const document = await loadDocument(name);
  const before = $tabs.get();
  gone.add(name);
  await request('DELETE /api/workspaces/{name}', { path: { name } });
  closeTab(name);
  say(`deleted ${name}; Ctrl Z brings it back`);
  noteUndoable(`the workspace ${name}`, async () => {
    gone.delete(name);
    await request('PUT /api/workspaces/{name}', { path: { name }, body: document });
    setTabs({ open: before.open, current: name });
  });
}

/** The prepared arrangement of a name, or an empty one. */
export const originalOf = (name: string): WorkspaceDocument => (PREPARED[name] ?? (() => EMPTY))();

/** Offers a document as a file. */
export async function exportWorkspace(name: string): Promise<void> {
  await saveNow();
  const text = JSON.stringify(await loadDocument(name), null, 2);
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'application/json' }));
  link.download = `${name}.workspace.json`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

/** Takes a file in; words where it is no workspace this Kavix can read. Nothing changes then. */
export async function importWorkspace(file: File): Promise<string | null> {
  let parsed: unknown;
  try {
    parsed = JSON.parse(await file.text());
  } catch (error) {
    return `${file.name} is not JSON: ${(error as Error).message}`;
  }
  const format = (parsed as { format?: unknown } | null)?.format;
  if (typeof format === 'number' && format > EMPTY.format)
    return `${file.name} has format ${format}; this Kavix reads format ${EMPTY.format}. A newer Kavix wrote it.`;
  const done = await addWorkspace(file.name.replace(/(\.workspace)?\.json$/i, ''), parsed as WorkspaceDocument);
  return done.ok ? null : `${file.name}: ${problemLine(done.problem)}`;
}

/** A document in which every account and instrument exists here. */
export function fitting(given: WorkspaceDocument): WorkspaceDocument {
  const own = $session.get()?.accounts ?? [];
  const account = (name: string): string => (own.includes(name) ? name : (own[0] ?? name));
  const panes = Object.fromEntries(
    Object.entries(given.panes).map(([id, pane]) => [
      id,
      { ...pane, account: account(pane.account), instrument: pane.instrument !== null && instrumentOf(pane.instrument) ? pane.instrument : null },
    ]),
  );
  const letters = Object.fromEntries(
    Object.entries(given.letters)
      .filter(([, linked]) => instrumentOf(linked.instrument))
      .map(([letter, linked]) => [letter, { ...linked, account: account(linked.account) }]),
  );
  return { ...given, panes, letters };
}
