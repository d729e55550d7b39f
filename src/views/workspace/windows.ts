import { $letters, $panes, $revision, type Linked, type LinkLetter, type Pane } from './panes.ts';
import { saveAll } from '../../client/things.ts';
import { $tabs, workspaces } from './documents.ts';
import { $windows, takeIn, takeOut } from './layout.ts';

/** What windows of one browser tell one another. */
type Message =
  | { readonly kind: 'letters'; readonly workspace: string; readonly letters: Partial<Record<LinkLetter, Linked>> }
  | { readonly kind: 'pane'; readonly workspace: string; readonly pane: Pane }
  | { readonly kind: 'opened' | 'closed'; readonly workspace: string; readonly pane: string }
  | { readonly kind: 'kept'; readonly workspace: string };

/** So long a pane's window waits for a main window that keeps what it changed. */
const KEPT_WITHIN_MS = 500;

let channel: BroadcastChannel | null = null;
let echo = false;

const say = (message: Message): void => channel?.postMessage(message);

/** Letters and settings changed in one window are those of all. */
function shareChanges(workspace: () => string, own: () => Iterable<Pane>): void {
  const told = new Map<string, string>();
  let letters = '';
  $revision.listen(() => {
    if (echo) return;
    const now = JSON.stringify($letters.get());
    if (now !== letters) say({ kind: 'letters', workspace: workspace(), letters: $letters.get() });
    letters = now;
    for (const pane of own()) {
      const text = JSON.stringify(pane);
      if (told.get(pane.id) !== text) say({ kind: 'pane', workspace: workspace(), pane });
      told.set(pane.id, text);
    }
  });
}

function apply(message: Message, workspace: string): void {
  if (message.workspace !== workspace) return;
  echo = true;
  if (message.kind === 'letters') $letters.set(message.letters);
  else if (message.kind === 'pane' && $panes.get()[message.pane.id]) $panes.setKey(message.pane.id, message.pane);
  echo = false;
}

/** The main window's end: panes leave it and come back. */
export function shareFromMain(): void {
  channel = new BroadcastChannel('kavix-windows');
  const current = (): string => $tabs.get().current;
  const outside = (): Pane[] => $windows.get().flatMap((id) => $panes.get()[id] ?? []);
  shareChanges(current, outside);
  channel.onmessage = ({ data }: MessageEvent<Message>) => {
    apply(data, current());
    if (data.workspace !== current()) return;
    if (data.kind === 'opened') takeOut(data.pane);
    else if (data.kind === 'closed') takeIn(data.pane);
    else if (data.kind === 'letters' || data.kind === 'pane') {
      $revision.set($revision.get() + 1);
      say({ kind: 'kept', workspace: data.workspace });
    }
  };
}

/** A pane window's end. Where no main window shows the workspace, this one saves what changes in its pane. */
export function shareFromWindow(workspace: string, pane: string): void {
  let alone: ReturnType<typeof setTimeout> | undefined;
  const keep = (): void => {
    alone = undefined;
    workspaces.change(workspace, (document) => {
      const { id, ...own } = $panes.get()[pane] ?? { id: null };
      if (id === null || !document.panes[pane]) return document;
      return { ...document, panes: { ...document.panes, [pane]: own as Omit<Pane, 'id'> }, letters: $letters.get() };
    });
  };
  $revision.listen(() => {
    if (echo) return;
    clearTimeout(alone);
    alone = setTimeout(keep, KEPT_WITHIN_MS);
  });
  channel = new BroadcastChannel('kavix-windows');
  shareChanges(
    () => workspace,
    () => Object.values($panes.get()),
  );
  channel.onmessage = ({ data }: MessageEvent<Message>) => {
    if (data.kind === 'kept' && data.workspace === workspace) {
      clearTimeout(alone);
      alone = undefined;
    } else apply(data, workspace);
  };
  say({ kind: 'opened', workspace, pane });
  window.addEventListener('pagehide', () => {
    // What changed a moment ago and nobody else has kept yet goes with the window's last breath.
    if (alone !== undefined) {
      clearTimeout(alone);
      keep();
      void saveAll();
    }
    say({ kind: 'closed', workspace, pane });
  });
}

type OnTop = { requestWindow(size: { width: number; height: number }): Promise<Window> };
const onTop = (): OnTop | null => (window as { documentPictureInPicture?: OnTop }).documentPictureInPicture ?? null;

/** Why a pane can't stay on top of everything here, or null. */
export const cannotStayOnTop = (): string | null => (onTop() ? null : 'this browser has no window that stays on top');

/** Puts a pane into a window that stays on top of all others: one to a browser. Closing it gives the pane back. */
export async function stayOnTop(id: string): Promise<void> {
  const asked = onTop();
  if (!asked) return;
  const { address, width, height } = addressOf(id);
  // A press that asks for it must ask at once: what has changed is saved meanwhile.
  const [own] = await Promise.all([asked.requestWindow({ width, height }), saveAll()]);
  const frame = own.document.createElement('iframe');
  frame.src = address;
  frame.title = 'A pane of Kavix that stays on top';
  frame.style.cssText = 'position:fixed;inset:0;width:100%;height:100%;border:0';
  own.document.body.append(frame);
}

/** Where a pane's own window is, and how large. */
function addressOf(id: string): { address: string; width: number; height: number } {
  const { current } = $tabs.get();
  const box = document.querySelector(`[data-pane="${id}"]`)?.getBoundingClientRect();
  const address = `/window?workspace=${encodeURIComponent(current)}&pane=${id}`;
  return { address, width: Math.round(Math.max(360, box?.width ?? 640)), height: Math.round(Math.max(320, (box?.height ?? 480) + 60)) };
}

/** Opens a window for a pane; it tells when it is there, and then the pane leaves the dock. */
export async function openWindow(id: string): Promise<boolean> {
  await saveAll();
  const { address, width, height } = addressOf(id);
  return window.open(address, `kavix-${id}`, `popup,width=${width},height=${height}`) !== null;
}
