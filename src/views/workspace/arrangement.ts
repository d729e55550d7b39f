import type { DockviewApi } from 'dockview-react';
import { WORKSPACE_FORMAT } from '../../schemas/saved.ts';
import type { Linked, LinkLetter, Pane } from './panes.ts';

/** A part of a layout: others side by side (or, one level deeper, below one another), or stacked panes. */
export type Part =
  { readonly split: readonly Part[]; readonly size: number } | { readonly stack: readonly string[]; readonly active: string; readonly size: number };

/** A workspace as it is saved, exported and imported. */
export interface WorkspaceDocument {
  readonly format: typeof WORKSPACE_FORMAT;
  readonly panes: Readonly<Record<string, Omit<Pane, 'id'>>>;
  readonly letters: Readonly<Partial<Record<LinkLetter, Linked>>>;
  readonly layout: Part | null;
  readonly direction: 'row' | 'column';
  readonly windows: readonly string[];
}

type Docked = ReturnType<DockviewApi['toJSON']>;
type DockedNode = Docked['grid']['root'];

/** How the docking area stands, as a document's layout. */
export function readArrangement(docked: Docked): { layout: Part | null; direction: 'row' | 'column' } {
  const layout = readPart(docked.grid.root);
  return { layout, direction: String(docked.grid.orientation) === 'VERTICAL' ? 'column' : 'row' };
}

function readPart(node: DockedNode): Part | null {
  const size = Math.round(node.size ?? 0);
  if (Array.isArray(node.data)) {
    const split = node.data.map(readPart).filter((part) => part !== null);
    return split.length === 0 ? null : { split, size };
  }
  const { views, activeView } = node.data as { views: string[]; activeView?: string };
  const active = activeView ?? views[0];
  return active === undefined ? null : { stack: views, active, size };
}

/** Between the panes, in the screen's pixels. */
export const GAP = 6;

/**
 * A document's layout as the docking area takes it. Sizes are shares of `width` and `height` without the gaps: what is
 * read again is what was written.
 */
export function docked(document: WorkspaceDocument, width: number, height: number): Docked {
  let groups = 0;
  // `drawn` lies along the part that holds this one, which the docking takes with its share of the gaps there; `along` is the room for its own parts.
  const write = (part: Part, drawn: number, gaps: number, along: number): DockedNode => {
    const size = drawn + gaps;
    if ('stack' in part) return { type: 'leaf', size, data: { views: [...part.stack], activeView: part.active, id: String(++groups) } };
    const whole = part.split.reduce((sum, one) => sum + one.size, 0) || 1;
    const between = GAP * (part.split.length - 1);
    return { type: 'branch', size, data: part.split.map((one) => write(one, (one.size / whole) * (along - between), between / part.split.length, drawn)) };
  };
  const row = document.direction === 'row';
  const layout = document.layout;
  const root: DockedNode =
    layout === null
      ? { type: 'branch', size: row ? height : width, data: [] }
      : write('split' in layout ? layout : { split: [layout], size: layout.size }, row ? height : width, 0, row ? width : height);
  const panels: Docked['panels'] = {};
  for (const id of placed(layout)) panels[id] = { id, contentComponent: 'pane', title: document.panes[id]?.kind ?? id };
  return { grid: { root, width, height, orientation: (row ? 'HORIZONTAL' : 'VERTICAL') as Docked['grid']['orientation'] }, panels };
}

/** Whether panes lie the same way in two layouts, and as large within some pixels. */
export function liesAs(one: Part | null, other: Part | null, within: number): boolean {
  if (one === null || other === null) return one === other;
  if (Math.abs(one.size - other.size) > within) return false;
  if ('stack' in one || 'stack' in other) return 'stack' in one && 'stack' in other && one.active === other.active && one.stack.join() === other.stack.join();
  return one.split.length === other.split.length && one.split.every((part, i) => liesAs(part, other.split[i] ?? null, within));
}

/** The panes of a layout, in its order. */
export const placed = (part: Part | null): string[] => (part === null ? [] : 'stack' in part ? [...part.stack] : part.split.flatMap(placed));

/** An arrangement that holds just these panes: what is gone is taken out, what is new stands in the first stack. */
export function withPanes(
  { layout, direction }: Pick<WorkspaceDocument, 'layout' | 'direction'>,
  panes: readonly string[],
  windows: readonly string[],
): Pick<WorkspaceDocument, 'layout' | 'direction'> {
  const docked = panes.filter((id) => !windows.includes(id));
  const there = placed(layout);
  const fresh = docked.filter((id) => !there.includes(id));
  if (fresh.length === 0 && there.every((id) => docked.includes(id))) return { layout, direction };
  let rest: readonly string[] = fresh;
  const keep = (part: Part): Part | null => {
    if ('split' in part) {
      const split = part.split.map(keep).filter((one) => one !== null);
      return split.length === 0 ? null : { ...part, split };
    }
    const stack = [...part.stack.filter((id) => docked.includes(id)), ...rest];
    rest = [];
    const active = stack.includes(part.active) ? part.active : stack[0];
    return active === undefined ? null : { ...part, stack, active };
  };
  const kept = layout && keep(layout);
  const first = rest[0];
  return { layout: kept ?? (first === undefined ? null : { stack: rest, active: first, size: 1 }), direction };
}
