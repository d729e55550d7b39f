import type { DockviewApi } from 'dockview-react';
import { $session } from '../../live/index.ts';
import { $activePane, $letters, $panes, activate, addPane, dropPane, restorePanes, targetOf, type LinkLetter, type Pane, type PaneKind } from './panes.ts';

const STORED = 'kavix.layout';
const FIRST = 'GANET.HALM';

let api: DockviewApi | null = null;
let made = 0;

const newId = (kind: PaneKind): string => `${kind.toLowerCase()}-${Date.now().toString(36)}${made++}`;

function pane(kind: PaneKind, letter: LinkLetter | null, instrument: string | null, settings: Record<string, string> = {}): Pane {
  return { id: newId(kind), kind, letter, instrument, account: $session.get()?.accounts[0] ?? 'MAIN', settings };
}

/** Takes the docking area over: the last visit's arrangement, or the prepared one. */
export function attach(docking: DockviewApi): void {
  api = docking;
  docking.onDidRemovePanel((panel) => dropPane(panel.id));
  docking.onDidActivePanelChange(({ panel }) => panel && activate(panel.id));
  if (!restoreLayout(docking)) prepare(docking);
  docking.onDidLayoutChange(() => localStorage.setItem(STORED, JSON.stringify(docking.toJSON())));
}

function restoreLayout(docking: DockviewApi): boolean {
  const text = localStorage.getItem(STORED);
  if (text === null || !restorePanes()) return false;
  try {
    docking.fromJSON(JSON.parse(text) as ReturnType<DockviewApi['toJSON']>);
    const known = docking.panels.every((panel) => $panes.get()[panel.id]);
    if (!known || docking.panels.length === 0) throw new Error('panes are missing');
    return true;
  } catch {
    docking.clear();
    return false;
  }
}

/** One instrument in depth: the workspace everybody begins with. */
function prepare(docking: DockviewApi): void {
  $panes.set({});
  const account = $session.get()?.accounts[0] ?? 'MAIN';
  $letters.set({ A: { instrument: FIRST, account } });
  const chart = pane('Chart', 'A', FIRST, { interval: '5m' });
  const watchlist = pane('Watchlist', 'A', FIRST);
  const ladder = pane('Ladder', 'A', FIRST);
  const orders = pane('Orders', 'A', null);
  const positions = pane('Positions', 'A', null);
  const fills = pane('Fills', 'A', null);
  const ticket = pane('Ticket', 'A', FIRST);
  for (const one of [chart, watchlist, ladder, orders, positions, fills, ticket]) addPane(one);
  const put = (
    one: Pane,
    position?: Parameters<DockviewApi['addPanel']>[0]['position'],
    size: { initialWidth?: number; initialHeight?: number } = {},
  ): void => {
    docking.addPanel({ id: one.id, component: 'pane', title: one.kind, ...(position ? { position } : {}), ...size });
  };
  put(chart);
  put(watchlist, { referencePanel: chart.id, direction: 'left' }, { initialWidth: 262 });
  put(ladder, { referencePanel: chart.id, direction: 'right' }, { initialWidth: 356 });
  put(orders, { referencePanel: chart.id, direction: 'below' }, { initialHeight: 284 });
  put(positions, { referencePanel: orders.id, direction: 'below' }, { initialHeight: 126 });
  put(fills, { referencePanel: positions.id, direction: 'within' });
  put(ticket, { referencePanel: watchlist.id, direction: 'below' }, { initialHeight: 318 });
  docking.getPanel(positions.id)?.api.setActive();
  docking.getPanel(chart.id)?.api.setActive();
}

export function resetWorkspace(): void {
  if (!api) return;
  localStorage.removeItem(STORED);
  api.clear();
  prepare(api);
}

/** Opens a pane beside the active one, on the same instrument. */
export function openPane(kind: PaneKind, instrument?: string): void {
  if (!api) return;
  const active = $activePane.get();
  const target = active === null ? null : targetOf(active);
  const letter = active === null ? 'A' : ($panes.get()[active]?.letter ?? null);
  const linked = instrument === undefined || instrument === target?.instrument;
  const one = { ...pane(kind, linked ? letter : null, instrument ?? target?.instrument ?? FIRST), account: target?.account ?? 'MAIN' };
  addPane(one);
  const reference = active !== null && api.getPanel(active) ? { referencePanel: active, direction: 'within' as const } : undefined;
  api.addPanel({ id: one.id, component: 'pane', title: kind, ...(reference ? { position: reference } : {}) });
  api.getPanel(one.id)?.api.setActive();
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
