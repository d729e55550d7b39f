import { atom, computed } from 'nanostores';
import { namedThings } from '../../client/saved-remote.ts';
import { mergeFields, thingsOf } from '../../client/things.ts';
import { say, noteUndoable } from '../../client/undo.ts';
import { saveJson } from '../../kit/save-file.ts';
import { $session, problemWords, request, instrumentOf, type Answer } from '../../live/index.ts';
import type { WorkspaceDocument } from './arrangement.ts';
import { showPage } from '../pages/route.ts';
import { EMPTY, PREPARED } from './prepared.ts';

/** Names of the workspaces that are open as tabs, and the one that is shown. */
export interface Tabs {
  readonly open: readonly string[];
  readonly current: string;
}

const STORED = 'kavix.tabs';
export const $tabs = atom<Tabs>(storedTabs());

/** The prepared arrangement of a name, or an empty one. */
export const originalOf = (name: string): WorkspaceDocument => (PREPARED[name] ?? (() => EMPTY))();

/** The workspaces; a prepared one that was never changed is made. */
export const workspaces = thingsOf<WorkspaceDocument>('workspaces', 'the workspace', {
  remote: namedThings('workspaces'),
  first: originalOf,
  merge: mergeFields,
});

/** Whether the present arrangement is on the server. */
export const $saved = computed([workspaces.$all, $tabs], (all, { current }) => {
  const thing = all[current];
  return thing?.kind === 'known' ? thing.state : thing?.kind === 'failed' ? 'not read' : 'saved';
});

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

/** Shows a workspace, also where a page lies over it. */
export const showTab = (name: string): void => {
  showPage(null);
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
async function savedNames(): Promise<string[]> {
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
  const name = await freeName(wished);
  const done = await workspaces.add(name, document);
  if (done.ok) showTab(name);
  return done;
}

export const addEmpty = (): Promise<Answer<unknown>> => addWorkspace('Workspace', EMPTY);

/** Gives a workspace another name; words where that can't be. */
export async function renameWorkspace(from: string, to: string): Promise<string | null> {
  if (to === from) return null;
  const taken = `there is a workspace named ${to}`;
  if ($tabs.get().open.includes(to)) return taken;
  const done = await workspaces.rename(from, to);
  if (!done.ok) return done.problem.status === 409 ? taken : problemWords(done.problem);
  const { open, current } = $tabs.get();
  setTabs({ open: open.map((name) => (name === from ? to : name)), current: current === from ? to : current });
  return null;
}

export async function duplicateWorkspace(name: string): Promise<void> {
  await addWorkspace(name, await workspaces.known(name));
}

/** Deletes a workspace; Ctrl Z brings it back. */
export async function deleteWorkspace(name: string): Promise<void> {
  const before = $tabs.get();
  const document = await workspaces.remove(name);
  if (document === null) return;
  closeTab(name);
  say(`deleted ${name}; Ctrl Z brings it back`);
  noteUndoable(`the workspace ${name}`, async () => {
    await workspaces.add(name, document);
    setTabs({ open: before.open, current: name });
  });
}

/** Offers a document as a file. */
export async function exportWorkspace(name: string): Promise<void> {
  saveJson(`${name}.workspace.json`, await workspaces.known(name));
}

/** Takes a file in; words where it is no workspace this Kavix can read. Nothing changes then. */
export async function importWorkspace(file: File): Promise<string | null> {
  const { readJson, wrongWords } = await import('../../client/json-text.ts');
  const json = readJson(await file.text());
  if (!json.ok) return `${file.name}: ${json.refusal}`;
  const parsed = json.value.value;
  const format = (parsed as { format?: unknown } | null)?.format;
  if (typeof format === 'number' && format > EMPTY.format)
    return `${file.name} has format ${format}; this Kavix reads format ${EMPTY.format}. A newer Kavix wrote it.`;
  const done = await addWorkspace(file.name.replace(/(\.workspace)?\.json$/i, ''), parsed as WorkspaceDocument);
  return done.ok ? null : `${file.name}: ${done.problem.errors ? wrongWords(json.value, done.problem.errors) : done.problem.detail}`;
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
