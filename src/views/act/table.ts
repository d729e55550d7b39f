import { useState } from 'react';
import type { Command } from '../../client/keys.ts';
import { useGrid, type GridColumn, type GridGroup, type Sorting } from '../../kit/Grid.tsx';
import { setPaneSetting, settingOf, type Pane } from '../workspace/panes.ts';

const UNSORTED: Sorting = [];

interface Given<R> {
  readonly pane: Pane | undefined;
  readonly rows: readonly R[];
  readonly of?: string;
  /** All columns there can be, in the order they are shown; those without a choice are always there. */
  readonly columns: readonly GridColumn<R>[];
  readonly keyOf: (row: R) => string;
  readonly groups?: readonly GridGroup<R>[];
  readonly groupBy?: string;
}

/** A pane's table: its sorting and grouping are kept with the pane. */
export function usePaneGrid<R>({ pane, rows, of = '', columns, keyOf, groups, groupBy }: Given<R>) {
  const id = pane?.id ?? '';
  return useGrid<R>({
    rows,
    of,
    columns,
    keyOf,
    sorting: settingOf<Sorting>(pane, 'sorting', UNSORTED),
    onSorting: (sorting) => setPaneSetting(id, 'sorting', sorting),
    ...(groups ? { groups, groupBy: groupBy === 'none' ? null : (groupBy ?? null), onGroupBy: (by) => setPaneSetting(id, 'by', by ?? 'none') } : {}),
  });
}

/** Those columns that are always there, and those that were chosen, in the chosen order at the place of the first. */
export function chosenColumns<R>(all: readonly GridColumn<R>[], choices: readonly (readonly [string, string])[], chosen: readonly string[]): GridColumn<R>[] {
  const optional = new Set(choices.map(([name]) => name));
  const at = all.findIndex(({ id }) => optional.has(id));
  const fixed = (from: number, to: number): GridColumn<R>[] => all.slice(from, to).filter(({ id }) => !optional.has(id));
  const wanted = chosen.flatMap((name) => all.find(({ id }) => id === name) ?? []);
  return at < 0 ? [...all] : [...fixed(0, at), ...wanted, ...fixed(at, all.length)];
}

/** Rows that are ringed by a press and walked by arrow keys. Nothing acts on what the pointer merely rests on. */
export function useRinged(keys: readonly string[], onWalk: (key: string) => void) {
  const [ringed, setRinged] = useState<string | null>(null);
  const ring = (key: string): void => {
    setRinged(key);
    onWalk(key);
  };
  const commands: readonly Command[] = [...walkCommands('row', keys, ringed, ring), { keys: ['Escape'], words: 'ring nothing', run: () => setRinged(null) }];
  return { ringed: ringed !== null && keys.includes(ringed) ? ringed : null, ring, commands };
}

/** The arrow keys that walk a list. */
export const walkCommands = (what: string, keys: readonly string[], at: string | null, go: (key: string) => void): readonly Command[] => {
  const walk = (step: 1 | -1) => (): void => {
    const from = at === null ? -1 : keys.indexOf(at);
    const next = keys[Math.max(0, Math.min(keys.length - 1, from + step))];
    if (next !== undefined) go(next);
  };
  return [
    { keys: ['ArrowDown'], words: `the next ${what}`, repeats: true, run: walk(1) },
    { keys: ['ArrowUp'], words: `the ${what} before`, repeats: true, run: walk(-1) },
  ];
};
