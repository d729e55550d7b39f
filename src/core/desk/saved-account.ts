import type { RunningPlan } from '../exits/index.ts';
import type { Instrument } from '../instrument/index.ts';
import type { Money } from '../number/index.ts';
import type { AccountBook, AccountTerms } from '../portfolio/index.ts';
import type { RiskState } from '../risk/index.ts';
import { claimsOf } from './claims.ts';
import { keepPlan, newAccountState, putOrder, type AccountState, type KnownApplication, type KnownCash, type PendingLink, type Working } from './state.ts';

/** An account's state as plain data. Orders are values: the list can be written out while the account goes on. */
export interface SavedAccount {
  readonly account: string;
  readonly book: AccountBook;
  readonly working: readonly Omit<Working, 'claims'>[];
  readonly plans: readonly RunningPlan[];
  readonly links: readonly PendingLink[];
  readonly cash: readonly KnownCash[];
  readonly applications: readonly KnownApplication[];
  readonly risk: RiskState;
  readonly firstRisks: readonly (readonly [instrument: string, risk: Money])[];
  readonly cutOffSince: number | null;
  readonly lastReport: number;
  readonly lastEntry: number;
  readonly count: number;
}

export const saveAccount = (state: AccountState): SavedAccount => ({
  account: state.terms.id,
  book: state.book,
  working: [...state.working.values()].map(({ order, madeBy, askedBy, turnover }) => ({ order, madeBy, askedBy, turnover })),
  plans: [...state.plans.values()],
  links: [...state.links.values()],
  cash: [...state.cash.values()],
  applications: [...state.applications.values()],
  risk: state.risk,
  firstRisks: [...state.firstRisks],
  cutOffSince: state.cutOffSince,
  lastReport: state.lastReport,
  lastEntry: state.lastEntry,
  count: state.count,
});

export function loadAccount(terms: AccountTerms, saved: SavedAccount, instrumentOf: (id: string) => Instrument): AccountState {
  const state = newAccountState(terms);
  state.book = saved.book;
  for (const one of saved.working) putOrder(state, { claims: claimsOf(one.order, instrumentOf(one.order.instrument)), ...one }, false);
  for (const plan of saved.plans) keepPlan(state, plan);
  for (const link of saved.links) state.links.set(link.group.id, link);
  for (const one of saved.cash) state.cash.set(one.request.id, one);
  for (const one of saved.applications) state.applications.set(one.application.id, one);
  state.risk = saved.risk;
  for (const [instrument, risk] of saved.firstRisks) state.firstRisks.set(instrument, risk);
  state.cutOffSince = saved.cutOffSince;
  state.lastReport = saved.lastReport;
  state.lastEntry = saved.lastEntry;
  state.count = saved.count;
  return state;
}
