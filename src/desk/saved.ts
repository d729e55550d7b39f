import type { FieldProblem } from '../core/orders/index.ts';
import { readRules, type RulesText } from '../core/risk/index.ts';

export const SAVED_KINDS = [
  'workspace',
  'watchlist',
  'study-set',
  'drawings',
  'settings',
  'exit-plan',
  'consent',
  'scan',
  'bindings',
  'basket',
  'day-note',
  'rule-template',
] as const;
export type SavedKind = (typeof SAVED_KINDS)[number];

export interface SavedDocument {
  readonly name: string;
  readonly document: unknown;
  /** Stands for what is saved: the same for the same content. */
  readonly revision: string;
  /** Machine time of the last change. */
  readonly updatedAt: number;
}

/** What a change says of what is saved: that it has a revision, that there is nothing, or nothing about it. */
export type Expected = { readonly revision: string } | 'nothing' | 'anything';

/** What became of a change: saved where nothing was or over something, or not, because something else is there. */
export type Put = { readonly kind: 'made' | 'replaced'; readonly revision: string } | { readonly kind: 'conflict'; readonly revision: string | null };

/** Where a user's own documents are kept, by kind and name. */
export interface SavedStore {
  list(user: string, kind: SavedKind): Promise<{ readonly name: string; readonly updatedAt: number }[]>;
  get(user: string, kind: SavedKind, name: string): Promise<SavedDocument | null>;
  /** Saves a document where what is there is as expected; nothing comes between the look and the change. */
  put(user: string, kind: SavedKind, name: string, document: unknown, now: number, expected: Expected): Promise<Put>;
  /** @returns false where there was none */
  drop(user: string, kind: SavedKind, name: string): Promise<boolean>;
}

interface Known {
  instrument(id: string): boolean;
  readonly accounts: readonly string[];
}

interface WorkspaceText {
  readonly panes: Readonly<Record<string, { readonly instrument: string | null; readonly account: string }>>;
  readonly letters: Readonly<Record<string, { readonly instrument: string; readonly account: string }>>;
  readonly layout: LayoutText | null;
  readonly windows: readonly string[];
}
type LayoutText = { readonly split: readonly LayoutText[] } | { readonly stack: readonly string[]; readonly active: string };

/** What a well-shaped document names that does not exist. */
export function problemsIn(kind: SavedKind, document: unknown, known: Known): FieldProblem[] {
  switch (kind) {
    case 'workspace':
      return workspaceProblems(document as WorkspaceText, known);
    case 'watchlist':
      return (document as { rows: { instrument?: string }[] }).rows.flatMap(({ instrument }, i) =>
        instrument === undefined || known.instrument(instrument) ? [] : [{ path: `/rows/${i}/instrument`, message: `${instrument} is not known` }],
      );
    case 'rule-template': {
      const read = readRules(document as RulesText);
      return read.ok ? [] : [...read.refusal];
    }
    case 'study-set':
    case 'drawings':
    case 'settings':
    case 'exit-plan':
    case 'consent':
    case 'scan':
    case 'bindings':
    case 'basket':
    case 'day-note':
      return [];
    default:
      return kind satisfies never;
  }
}

function workspaceProblems({ panes, letters, layout, windows }: WorkspaceText, known: Known): FieldProblem[] {
  const problems: FieldProblem[] = [];
  const check = (path: string, { instrument, account }: { instrument: string | null; account: string }): void => {
    if (instrument !== null && !known.instrument(instrument)) problems.push({ path: `${path}/instrument`, message: `${instrument} is not known` });
    if (!known.accounts.includes(account))
      problems.push({ path: `${path}/account`, message: `${account} is not one of your accounts; accepted: ${known.accounts.join(', ')}` });
  };
  for (const [id, pane] of Object.entries(panes)) check(`/panes/${id}`, pane);
  for (const [letter, linked] of Object.entries(letters)) check(`/letters/${letter}`, linked);
  const placed = new Map<string, string>();
  const place = (path: string, id: string): void => {
    if (!Object.hasOwn(panes, id)) problems.push({ path, message: `there is no pane ${id}` });
    else if (placed.has(id)) problems.push({ path, message: `the pane ${id} is placed twice, also at ${placed.get(id)}` });
    placed.set(id, path);
  };
  const walk = (path: string, part: LayoutText): void => {
    if ('split' in part) part.split.forEach((one, i) => walk(`${path}/split/${i}`, one));
    else {
      part.stack.forEach((id, i) => place(`${path}/stack/${i}`, id));
      if (!part.stack.includes(part.active)) problems.push({ path: `${path}/active`, message: `is not in its stack; accepted: ${part.stack.join(', ')}` });
    }
  };
  if (layout !== null) walk('/layout', layout);
  windows.forEach((id, i) => place(`/windows/${i}`, id));
  for (const id of Object.keys(panes)) if (!placed.has(id)) problems.push({ path: `/panes/${id}`, message: 'is in no part of the layout and in no window' });
  return problems;
}
