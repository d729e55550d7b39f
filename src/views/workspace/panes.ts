import { atom, computed, map } from 'nanostores';
import { LINK_LETTERS, PANE_KINDS } from '../../schemas/saved.ts';
import { accountFor, noteAccountUsed, type Surface } from '../../client/session.ts';
import { moved } from './stillness.ts';

export { LINK_LETTERS, PANE_KINDS };
export type PaneKind = (typeof PANE_KINDS)[number];
export type LinkLetter = (typeof LINK_LETTERS)[number];

/** What a pane shows and for which account. A linked pane takes both from its letter. */
export interface Pane {
  readonly id: string;
  readonly kind: PaneKind;
  readonly letter: LinkLetter | null;
  /** Charts with the same one share the interval, whatever their instruments. */
  readonly intervalLetter: LinkLetter | null;
  readonly instrument: string | null;
  readonly account: string;
  /** The pane's own settings by name, as JSON has them. */
  readonly settings: Readonly<Record<string, unknown>>;
}

export interface Target {
  readonly pane: string;
  readonly instrument: string;
  readonly account: string;
}

/** What a link letter shows. */
export interface Linked {
  readonly instrument: string;
  readonly account: string;
  readonly interval?: string;
}

export const $panes = map<Record<string, Pane>>({});
export const $letters = map<Partial<Record<LinkLetter, Linked>>>({});
export const $activePane = atom<string | null>(null);
/** Grows with every change that a saved workspace must know of. */
export const $revision = atom(0);
/** When a pane's target last changed, in machine time: presses and keys right after are refused. */
export const changedAt = new Map<string, number>();
/** Flashes the plate when what the keys act on changes. */
export const $targetChanged = atom(0);

/** The instrument and account a pane acts on, or null. */
export function targetOf(id: string): Target | null {
  const pane = $panes.get()[id];
  if (!pane) return null;
  const linked = pane.letter === null ? undefined : $letters.get()[pane.letter];
  const instrument = linked?.instrument ?? pane.instrument;
  return instrument === null ? null : { pane: id, instrument, account: linked?.account ?? pane.account };
}

export const $target = computed([$activePane, $panes, $letters], (active) => (active === null ? null : targetOf(active)));

function changed(ids: readonly string[]): void {
  const now = performance.now();
  for (const id of ids) {
    changedAt.set(id, now);
    moved(id);
  }
  const active = $activePane.get();
  if (active !== null && ids.includes(active)) $targetChanged.set($targetChanged.get() + 1);
  noteChange();
}

/** Something changed that is saved with the workspace. */
export const noteChange = (): void => $revision.set($revision.get() + 1);

const linkedWith = (letter: LinkLetter): string[] =>
  Object.values($panes.get())
    .filter((pane) => pane.letter === letter)
    .map((pane) => pane.id);

/** Sets a pane's instrument; with a letter, that of every pane with the same one. */
export function setInstrument(id: string, instrument: string, account?: string): void {
  const pane = $panes.get()[id];
  if (!pane) return;
  const before = targetOf(id);
  const next = { instrument, account: account ?? accountFor(instrument, before?.account) };
  if (before?.instrument === next.instrument && before.account === next.account) return;
  noteAccountUsed(instrument, next.account);
  if (pane.letter === null) {
    $panes.setKey(id, { ...pane, ...next });
    changed([id]);
  } else {
    $letters.setKey(pane.letter, { ...$letters.get()[pane.letter], ...next });
    changed(linkedWith(pane.letter));
  }
}

export function setAccount(id: string, account: string): void {
  const target = targetOf(id);
  if (target) setInstrument(id, target.instrument, account);
}

export function setLetter(id: string, letter: LinkLetter | null): void {
  const pane = $panes.get()[id];
  const target = targetOf(id);
  if (!pane) return;
  $panes.setKey(id, { ...pane, letter, ...(target ? { instrument: target.instrument, account: target.account } : {}) });
  if (letter !== null && target && !$letters.get()[letter]) $letters.setKey(letter, { instrument: target.instrument, account: target.account });
  changed([id]);
}

export function setPaneSetting(id: string, name: string, value: unknown): void {
  const pane = $panes.get()[id];
  if (!pane) return;
  $panes.setKey(id, { ...pane, settings: { ...pane.settings, [name]: value } });
  noteChange();
}

/** A pane's own setting; what is no value of the fallback's type counts as not set. */
export function settingOf<T>(pane: Pane | undefined, name: string, fallback: T): T {
  const value = pane?.settings[name];
  const fits = Array.isArray(fallback) ? Array.isArray(value) : value !== null && typeof value === typeof fallback && !Array.isArray(value);
  return fits ? (value as T) : fallback;
}

/** The interval a chart shows: its letter's, else its own. */
export function intervalOf(pane: Pane | undefined): string {
  const own = settingOf(pane, 'interval', '5m');
  const letter = pane?.intervalLetter ?? null;
  return (letter === null ? undefined : $letters.get()[letter]?.interval) ?? own;
}

export function setPaneInterval(id: string, interval: string): void {
  const pane = $panes.get()[id];
  if (!pane) return;
  setPaneSetting(id, 'interval', interval);
  const letter = pane.intervalLetter;
  if (letter === null) return;
  const known = $letters.get()[letter] ?? targetOf(id);
  if (known) $letters.setKey(letter, { instrument: known.instrument, account: known.account, interval });
  noteChange();
}

export function setIntervalLetter(id: string, letter: LinkLetter | null): void {
  const pane = $panes.get()[id];
  if (!pane) return;
  const interval = intervalOf(pane);
  $panes.setKey(id, { ...pane, intervalLetter: letter, settings: { ...pane.settings, interval } });
  if (letter !== null && $letters.get()[letter]?.interval === undefined) setPaneInterval(id, interval);
  noteChange();
}

export function addPane(pane: Pane): void {
  $panes.setKey(pane.id, pane);
  changed([pane.id]);
}

export function dropPane(id: string): void {
  const { [id]: _gone, ...rest } = $panes.get();
  $panes.set(rest);
  if ($activePane.get() === id) $activePane.set(null);
  noteChange();
}

export function activate(id: string): void {
  if ($activePane.get() === id) return;
  $activePane.set(id);
  $targetChanged.set($targetChanged.get() + 1);
}

export const surfaceOf = (kind: PaneKind): Surface => (kind === 'Chart' ? 'chart' : kind === 'Ladder' ? 'ladder' : 'tables');
