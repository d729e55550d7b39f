import { atom, computed, map } from 'nanostores';
import { formatQuantity, parseQuantity, type Instrument } from '../../core/instrument/index.ts';
import { $accounts, $clock, $session, instrumentOf } from '../../live/index.ts';

export const PANE_KINDS = ['Watchlist', 'Chart', 'Ladder', 'Ticket', 'Orders', 'Positions', 'Fills'] as const;
export type PaneKind = (typeof PANE_KINDS)[number];
export const LINK_LETTERS = ['A', 'B', 'C', 'D', 'E', 'F', 'G', 'H'] as const;
export type LinkLetter = (typeof LINK_LETTERS)[number];

/** What a pane shows and for which account. A linked pane takes both from its letter. */
export interface Pane {
  readonly id: string;
  readonly kind: PaneKind;
  readonly letter: LinkLetter | null;
  readonly instrument: string | null;
  readonly account: string;
  /** The pane's own settings, as text by name. */
  readonly settings: Readonly<Record<string, string>>;
}

export interface Target {
  readonly pane: string;
  readonly instrument: string;
  readonly account: string;
}

export interface Linked {
  readonly instrument: string;
  readonly account: string;
}

const STORED = 'kavix.panes';

export const $panes = map<Record<string, Pane>>({});
export const $letters = map<Partial<Record<LinkLetter, Linked>>>({});
export const $activePane = atom<string | null>(null);
/** When a pane's target last changed, in machine time: presses right after are refused. */
export const changedAt = new Map<string, number>();
/** Flashes the plate when what the keys act on changes. */
export const $targetChanged = atom(0);

const accountsUsed = new Map<string, string>();

/** The account an instrument opens with: the one last used for it, else the first that can trade it. */
export function accountFor(instrument: string, wanted?: string): string {
  const own = $session.get()?.accounts ?? [];
  const used = accountsUsed.get(instrument);
  const fits = (account: string): boolean => own.includes(account) && canTrade(account, instrument);
  return [used, wanted, ...own].find((account) => account !== undefined && fits(account)) ?? wanted ?? own[0] ?? 'MAIN';
}

/** Whether an account can trade an instrument's kind, by its commission schedule. */
export const canTrade = (account: string, instrument: string): boolean => {
  const kind = instrumentOf(instrument)?.kind;
  return $accounts.get()[account]?.commission.some((line) => line.kind === kind) ?? false;
};

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
  for (const id of ids) changedAt.set(id, now);
  const active = $activePane.get();
  if (active !== null && ids.includes(active)) $targetChanged.set($targetChanged.get() + 1);
  store();
}

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
  accountsUsed.set(instrument, next.account);
  if (pane.letter === null) {
    $panes.setKey(id, { ...pane, ...next });
    changed([id]);
  } else {
    $letters.setKey(pane.letter, next);
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

export function setPaneSetting(id: string, name: string, value: string): void {
  const pane = $panes.get()[id];
  if (!pane) return;
  $panes.setKey(id, { ...pane, settings: { ...pane.settings, [name]: value } });
  store();
}

export function addPane(pane: Pane): void {
  $panes.setKey(pane.id, pane);
  changed([pane.id]);
}

export function dropPane(id: string): void {
  const { [id]: _gone, ...rest } = $panes.get();
  $panes.set(rest);
  if ($activePane.get() === id) $activePane.set(null);
  store();
}

export function activate(id: string): void {
  if ($activePane.get() === id) return;
  $activePane.set(id);
  $targetChanged.set($targetChanged.get() + 1);
}

let silent = false;
function store(): void {
  if (!silent) localStorage.setItem(STORED, JSON.stringify({ panes: $panes.get(), letters: $letters.get() }));
}

/** Takes panes and letters back from the last visit; false where there are none that can be read. */
export function restorePanes(): boolean {
  try {
    const { panes, letters } = JSON.parse(localStorage.getItem(STORED) ?? 'null') as { panes: Record<string, Pane>; letters: Record<string, Linked> };
    const fine = Object.values(panes).every((pane) => PANE_KINDS.includes(pane.kind) && (pane.instrument === null || instrumentOf(pane.instrument)));
    if (!fine) return false;
    silent = true;
    $panes.set(panes);
    $letters.set(letters);
    silent = false;
    return true;
  } catch {
    return false;
  }
}

/** The nine sizes of a kind, as the instrument's quantities. */
const SIZE_KEYS: Readonly<Record<Instrument['kind'], readonly string[]>> = {
  share: ['50', '100', '300', '500', '1000', '2000', '3000', '5000', '10000'],
  fund: ['50', '100', '300', '500', '1000', '2000', '3000', '5000', '10000'],
  future: ['1', '2', '3', '5', '10', '20', '30', '50', '100'],
  option: ['1', '2', '3', '5', '10', '20', '30', '50', '100'],
  spot: ['0.1', '0.5', '1', '2', '5', '10', '20', '50', '100'],
  inverse: ['100', '500', '1000', '2000', '5000', '10000', '20000', '50000', '100000'],
  index: [],
};

export const sizeKeys = (instrument: Instrument): readonly string[] => SIZE_KEYS[instrument.kind];

const SIZES = 'kavix.sizes';
/** Sizes by account and instrument, for one trading day. */
export const $sizes = map<Record<string, string>>({});

const today = (): string => ($clock.get()?.time ?? '').slice(0, 10);

export function restoreSizes(): void {
  try {
    const { day, sizes } = JSON.parse(localStorage.getItem(SIZES) ?? 'null') as { day: string; sizes: Record<string, string> };
    if (day === today() || today() === '') $sizes.set(sizes);
  } catch {
    // Without any remembered, every instrument begins with its kind's first size key.
  }
}

/** The size for an instrument in an account, as the exact text; never taken from another instrument. */
export function sizeOf(account: string, instrument: string): string {
  const spec = instrumentOf(instrument);
  return $sizes.get()[`${account} ${instrument}`] ?? (spec ? (sizeKeys(spec)[0] ?? '') : '');
}

/** Remembers a size; false where it is no valid quantity of the instrument. */
export function setSize(account: string, instrument: string, text: string): boolean {
  const spec = instrumentOf(instrument);
  const quantity = spec ? parseQuantity(spec, text) : null;
  if (!spec || quantity === null || quantity < spec.minimumQuantity) return false;
  $sizes.setKey(`${account} ${instrument}`, formatQuantity(spec, quantity));
  localStorage.setItem(SIZES, JSON.stringify({ day: today(), sizes: $sizes.get() }));
  return true;
}

export const SURFACES = ['chart', 'ladder', 'tables'] as const;
export type Surface = (typeof SURFACES)[number];
export type DirectSend = 'off' | 'exits only' | 'all';
/** Whether a gesture sends at once; *all* is never remembered over a sign-in. */
export const $directSend = map<Record<Surface, DirectSend>>({ chart: 'exits only', ladder: 'exits only', tables: 'exits only' });

export const surfaceOf = (kind: PaneKind): Surface => (kind === 'Chart' ? 'chart' : kind === 'Ladder' ? 'ladder' : 'tables');
