import type { AccountState, Entry, Touched } from '../desk/index.ts';
import type { Instrument } from '../instrument/index.ts';
import { tradingDay, type Day } from '../market/index.ts';
import { NO_MONEY, formatMoney, minus, negated, plus, type Money } from '../number/index.ts';
import {
  baseAsset,
  cashMoved,
  inBase,
  openAccount,
  positionOf,
  settlePosition,
  type AccountBook,
  type AccountTerms,
  type Wallet,
  homeVenue,
} from '../portfolio/index.ts';
import { movedBy } from './notes.ts';

export const MOVEMENT_KINDS = ['fill', 'fee', 'expiry', 'withdrawal', 'deposit', 'application'] as const;
export const ASSETS = ['EUR', 'CARB'] as const;
export const PURPOSES = ['cash', 'spot', 'contract'] as const satisfies readonly (Wallet['purpose'] | 'cash')[];
export type Purpose = (typeof PURPOSES)[number];

/** Money that came to an account or left it. */
export interface Movement {
  readonly time: number;
  readonly asset: string;
  readonly purpose: Purpose;
  readonly kind: (typeof MOVEMENT_KINDS)[number];
  readonly amount: Money;
  /** What there is in its place afterwards. */
  readonly after: Money;
  readonly fillId: string | null;
  readonly requestId: string | null;
  readonly text: string;
}

export interface StatementDay {
  readonly day: Day;
  readonly opening: Money;
  readonly movements: readonly Movement[];
  readonly closing: Money;
}

/** What an account has in one place. */
const totalOf = (book: AccountBook, asset: string, purpose: Purpose): Money =>
  purpose === 'cash' ? book.cash : (book.wallets.find((wallet) => wallet.asset === asset && wallet.purpose === purpose)?.total ?? NO_MONEY);

/** Where an account keeps the money of its statement when none is named. */
export const mainPlace = (terms: AccountTerms): { asset: string; purpose: Purpose } => ({ asset: 'EUR', purpose: terms.wallets.length > 0 ? 'spot' : 'cash' });

/** Where an account keeps money. */
export const placesOf = (terms: AccountTerms): readonly { readonly asset: string; readonly purpose: Purpose }[] =>
  terms.wallets.length > 0 ? terms.wallets.map(({ asset, purpose }) => ({ asset, purpose })) : [mainPlace(terms)];

/** What a cash book still needs of the entries behind it. */
export interface SavedCash {
  readonly opened: AccountBook;
  readonly stands: readonly (readonly [string, Money])[];
}

const placeName = ({ asset, purpose }: Pick<Movement, 'asset' | 'purpose'>): string => `${asset} ${purpose}`;

/** Every movement of an account's money, entry by entry: they chain to what the account has. */
export class CashBook {
  /** As they happen; whoever keeps them elsewhere takes them out. */
  readonly movements: Movement[] = [];
  private readonly terms: AccountTerms;
  /** What the account began with. */
  private opened: AccountBook;
  /** What there is in each place by the movements so far. */
  private readonly stands = new Map<string, Money>();
  private readonly instrumentOf: (id: string) => Instrument;

  constructor(terms: AccountTerms, instrumentOf: (id: string) => Instrument) {
    this.terms = terms;
    this.opened = openAccount(terms);
    this.instrumentOf = instrumentOf;
  }

  save(): SavedCash {
    return { opened: this.opened, stands: [...this.stands] };
  }

  load({ opened, stands }: SavedCash): void {
    this.opened = opened;
    for (const [name, sum] of stands) this.stands.set(name, sum);
  }

  /** What the account had in a place before all movements. */
  openedWith(asset: string, purpose: Purpose): Money {
    return totalOf(this.opened, asset, purpose);
  }

  /**
   * Takes an entry that touched these.
   *
   * @param before the account's book before it
   */
  take(entry: Entry, touched: Touched, before: AccountBook, { book }: AccountState): void {
    const { data } = entry;
    if (data.kind === 'account-opened') this.opened = data.book;
    for (const fill of touched.fills) {
      const instrument = this.instrumentOf(fill.instrument);
      const { asset, purpose } = this.placeOf(instrument);
      const moved = movedBy(instrument, fill);
      const said = `${fill.side === 'buy' ? 'Bought' : 'Sold'} ${fill.instrument}`;
      const of = { fillId: fill.id, requestId: null, time: entry.time };
      this.move({ asset, purpose, kind: 'fill', amount: moved, text: said, ...of });
      if (instrument.kind === 'spot') {
        const base = inBase(instrument, fill.quantity);
        this.move({ asset: baseAsset(instrument), purpose: 'spot', kind: 'fill', amount: fill.side === 'buy' ? base : negated(base), text: said, ...of });
      }
      this.move({
        asset,
        purpose,
        kind: 'fee',
        amount: negated(fill.fee),
        text: `Fee: ${said.toLowerCase()}`.replace(fill.instrument.toLowerCase(), fill.instrument),
        ...of,
      });
    }
    if (data.kind === 'position-settled') {
      const instrument = this.instrumentOf(data.instrument);
      const position = positionOf(before, data.instrument);
      const option = position.quantity > 0 ? data.worth : negated(data.worth);
      const amount = instrument.kind === 'option' ? option : settlePosition(instrument, position, data.worth, entry.time).realised;
      this.move({ time: entry.time, kind: 'expiry', amount, fillId: null, requestId: null, text: `${data.instrument} ended`, ...this.placeOf(instrument) });
    }
    if (data.kind === 'cash-report') {
      const { request } = data;
      const amount = cashMoved(request, request.state);
      const text = `${request.kind === 'deposit' ? 'Deposit' : 'Withdrawal'} ${request.state === 'canceled' ? 'taken back' : request.state}: ${formatMoney(request.amount, 'EUR')} EUR`;
      this.move({ asset: 'EUR', purpose: 'cash', time: entry.time, kind: request.kind, amount, fillId: null, requestId: request.id, text });
    }
    if (data.kind === 'application-report') {
      const { application } = data;
      const amount = minus(book.cash, before.cash);
      const text = `Application for ${application.issue}: ${amount < 0n ? 'tied up' : 'free again'}`;
      this.move({ asset: 'EUR', purpose: 'cash', time: entry.time, kind: 'application', amount, fillId: null, requestId: application.id, text });
    }
    // Where the broker's truth stands from now on, what it has more or less is told too: a statement chains whatever happened.
    if (data.kind === 'difference' && data.book)
      for (const { asset, purpose } of placesOf(this.terms)) {
        const amount = minus(totalOf(book, asset, purpose), totalOf(before, asset, purpose));
        this.move({ asset, purpose, time: entry.time, kind: 'fill', amount, fillId: null, requestId: null, text: 'As the broker has it' });
      }
  }

  private placeOf(instrument: Instrument): { asset: string; purpose: Purpose } {
    if (instrument.kind === 'spot') return { asset: instrument.currency, purpose: 'spot' };
    return instrument.kind === 'inverse' ? { asset: instrument.settlesIn, purpose: 'contract' } : { asset: 'EUR', purpose: 'cash' };
  }

  private move(movement: Omit<Movement, 'after'>): void {
    if (movement.amount === 0n) return;
    const { asset, purpose, amount } = movement;
    const name = placeName(movement);
    const after = plus(this.stands.get(name) ?? this.openedWith(asset, purpose), amount);
    this.stands.set(name, after);
    this.movements.push({ after, ...movement });
  }
}

/**
 * The days of a period with what moved on them.
 *
 * @param movements of one place, those of these days at least
 * @param opening what there was there before the first of the days
 */
export function statement(terms: AccountTerms, days: readonly Day[], movements: readonly Movement[], opening: Money): StatementDay[] {
  const venue = homeVenue(terms);
  const byDay = new Map<Day, Movement[]>();
  for (const one of movements) {
    const day = tradingDay(venue, one.time);
    byDay.set(day, [...(byDay.get(day) ?? []), one]);
  }
  return days.map((day) => {
    const moved = byDay.get(day) ?? [];
    const closing = moved[moved.length - 1]?.after ?? opening;
    const listed = { day, opening, movements: moved, closing };
    opening = closing;
    return listed;
  });
}
