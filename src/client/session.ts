import { computed } from 'nanostores';
import { formatQuantity, parseQuantity, type Instrument } from '../core/instrument/index.ts';
import { tradingDay } from '../core/market/index.ts';
import { $settings } from './settings.ts';
import { $accounts, $clock, $session, instrumentOf, shared } from '../live/index.ts';

/** Whether an account can trade an instrument's kind, by its commission schedule. */
export const canTrade = (account: string, instrument: string): boolean => {
  const kind = instrumentOf(instrument)?.kind;
  return $accounts.get()[account]?.commission.some((line) => line.kind === kind) ?? false;
};

const $accountsUsed = shared<Readonly<Record<string, string>>>('accounts-used', {});

/** The account an instrument opens with: the one last used for it, else the first that can trade it. */
export function accountFor(instrument: string, wanted?: string): string {
  const own = $session.get()?.accounts ?? [];
  const fits = (account: string): boolean => own.includes(account) && canTrade(account, instrument);
  return [$accountsUsed.get()[instrument], wanted, ...own].find((account) => account !== undefined && fits(account)) ?? wanted ?? own[0] ?? 'MAIN';
}

export const noteAccountUsed = (instrument: string, account: string): void => {
  if ($accountsUsed.get()[instrument] !== account) $accountsUsed.set({ ...$accountsUsed.get(), [instrument]: account });
};

/** The sizes that can be picked for an instrument, by its kind. */
export const sizeKeys = (instrument: Instrument): readonly string[] => (instrument.kind === 'index' ? [] : $settings.get().sizeKeys[instrument.kind]);

interface DaySize {
  readonly day: number;
  readonly quantity: string;
}

/** Sizes by account and instrument, each with the trading day it was chosen on. */
export const $sizes = shared<Readonly<Record<string, DaySize>>>('sizes', {});

/** The instrument's trading day now; null while the market's time is not known. */
function dayOf(instrument: Instrument): number | null {
  const time = $clock.get()?.time;
  return time === undefined ? null : tradingDay(instrument.venue, Date.parse(time));
}

/** The size for an instrument in an account, as the exact text: what was chosen today, never another instrument's or yesterday's. */
export function sizeOf(account: string, instrument: string): string {
  const spec = instrumentOf(instrument);
  if (!spec) return '';
  const chosen = $sizes.get()[`${account} ${instrument}`];
  return chosen && chosen.day === dayOf(spec) ? chosen.quantity : (sizeKeys(spec)[0] ?? '');
}

/** Remembers a size for the trading day; false where it is no valid quantity of the instrument. */
export function setSize(account: string, instrument: string, text: string): boolean {
  const spec = instrumentOf(instrument);
  const quantity = spec ? parseQuantity(spec, text) : null;
  const day = spec ? dayOf(spec) : null;
  if (!spec || quantity === null || quantity < spec.minimumQuantity || day === null) return false;
  const ofToday = Object.entries($sizes.get()).filter(([, one]) => one.day >= day - 1);
  $sizes.set({ ...Object.fromEntries(ofToday), [`${account} ${instrument}`]: { day, quantity: formatQuantity(spec, quantity) } });
  return true;
}

export const SURFACES = ['chart', 'ladder', 'tables'] as const;
export type Surface = (typeof SURFACES)[number];
export const DIRECT_SENDS = ['off', 'exits only', 'all'] as const;
export type DirectSend = (typeof DIRECT_SENDS)[number];

interface ChosenSend {
  /** The trading day of the first venue on which *all* was chosen: it does not outlive it. */
  readonly day: number | null;
  readonly by: Readonly<Record<Surface, DirectSend>>;
}

const EXITS_ONLY: ChosenSend = { day: null, by: { chart: 'exits only', ladder: 'exits only', tables: 'exits only' } };
const $chosenSend = shared<ChosenSend>('direct-send', EXITS_ONLY);
const $today = computed($clock, (clock) => (clock === null ? null : tradingDay('HALM', Date.parse(clock.time))));

/**
 * Whether a gesture sends at once, by surface. *All* falls back to *exits only* at sign-in and on a new trading day,
 * unless it is set to stay.
 */
export const $directSend = computed([$chosenSend, $today, $settings], ({ day, by }, today, { keepAll }): Readonly<Record<Surface, DirectSend>> => {
  const stays = keepAll || (day !== null && day === today);
  const now = (surface: Surface): DirectSend => (by[surface] === 'all' && !stays ? 'exits only' : by[surface]);
  return { chart: now('chart'), ladder: now('ladder'), tables: now('tables') };
});

export const setDirectSend = (surface: Surface, to: DirectSend): void => $chosenSend.set({ day: $today.get(), by: { ...$directSend.get(), [surface]: to } });

/** What a sign-in takes back: nothing is sent at once that the trader did not choose since. */
export const beginsSignedIn = (): void => $chosenSend.set({ ...$chosenSend.get(), day: null });
