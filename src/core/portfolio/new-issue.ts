import { asQuantity, type Instrument, type Price } from '../instrument/index.ts';
import { NO_MONEY, minus, plus, type Money } from '../number/index.ts';
import type { AccountBook } from './account.ts';
import { valueAt } from './position.ts';

/** Shares that an issuer offers for the first time, to whoever applies for them in time. Times are in milliseconds. */
export interface NewIssue {
  /** The instrument that is listed afterwards. */
  readonly id: string;
  /** Applications are taken from here to there, on the grid. */
  readonly low: Price;
  readonly high: Price;
  /** Shares of a lot. */
  readonly lot: number;
  /** The most lots that one account may apply for. */
  readonly mostLots: number;
  readonly opensAt: number;
  readonly closesAt: number;
  /** The day's turn at which the issue price is told and the shares are allotted. */
  readonly allottedAt: number;
  /** `YYYY-MM-DD` of the first trading day; the shares settle on it. */
  readonly listsOn: string;
  /** What the shares cost; null until they are allotted. */
  readonly price: Price | null;
}

export const APPLICATION_STATES = ['requested', 'allotted', 'unsuccessful', 'canceled'] as const;

/** An application for shares of a new issue. */
export interface Application {
  readonly id: string;
  readonly clientRequestId: string;
  readonly account: string;
  readonly issue: string;
  /** Shares of a lot, as the issue has it. */
  readonly lot: number;
  readonly lots: number;
  /** The most that is paid for a share. */
  readonly price: Price;
  /** What it was asked for with: the same again is the same application, however it was changed since. */
  readonly first: { readonly lots: number; readonly price: Price };
  /** 1, and one more with each change that is asked for. */
  readonly revision: number;
  readonly state: (typeof APPLICATION_STATES)[number];
  /** Null until it is decided. */
  readonly allottedLots: number | null;
  readonly issuePrice: Price | null;
  readonly requestedAt: number;
  readonly changedAt: number;
}

/** Cash that an application keeps from other uses. */
export const tiedUp = (instrument: Instrument, { lots, lot, price, state }: Pick<Application, 'lots' | 'lot' | 'price' | 'state'>): Money =>
  state === 'requested' ? valueAt(instrument, asQuantity(lots * lot), price) : NO_MONEY;

/** What an application moves in cash when it becomes another; negative where more is tied up. */
export const applicationMoved = (instrument: Instrument, before: Application | null, after: Application): Money =>
  minus(before ? tiedUp(instrument, before) : NO_MONEY, tiedUp(instrument, after));

export const bookApplication = (book: AccountBook, moved: Money): AccountBook =>
  moved === 0n ? book : { ...book, cash: plus(book.cash, moved), applied: minus(book.applied ?? NO_MONEY, moved) };
