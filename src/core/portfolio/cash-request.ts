import { NO_MONEY, minus, moneyOf, plus, type Money } from '../number/index.ts';
import type { AccountBook } from './account.ts';

export const CASH_REQUEST_KINDS = ['withdrawal', 'deposit'] as const;
export type CashRequestKind = (typeof CASH_REQUEST_KINDS)[number];
export const CASH_REQUEST_STATES = ['requested', 'paid', 'canceled'] as const;

/** Money that is to leave an account or to come into it. */
export interface CashRequest {
  readonly id: string;
  readonly clientRequestId: string;
  readonly account: string;
  readonly kind: CashRequestKind;
  /** In EUR, over zero. */
  readonly amount: Money;
  readonly state: (typeof CASH_REQUEST_STATES)[number];
  readonly requestedAt: number;
  readonly paidAt: number | null;
}

/** What a request that comes to a state moves: a withdrawal leaves when it is asked for, a deposit comes when it is paid. */
export function cashMoved({ kind, amount }: Pick<CashRequest, 'kind' | 'amount'>, state: CashRequest['state']): Money {
  if (kind === 'withdrawal') return state === 'requested' ? minus(NO_MONEY, amount) : state === 'canceled' ? amount : NO_MONEY;
  return state === 'paid' ? amount : NO_MONEY;
}

export const bookCash = (book: AccountBook, moved: Money): AccountBook => (moved === 0n ? book : { ...book, cash: plus(book.cash, moved) });

/** What was sold and has not settled yet, before fees. */
export const unsettledProceeds = (book: AccountBook): Money => moneyOf((book.proceeds ?? []).reduce((sum, { amount }) => sum + amount, 0n));
