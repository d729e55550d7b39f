import type { AccountState, Entry, Touched } from '../desk/index.ts';
import type { Instrument } from '../instrument/index.ts';
import { tradingDay, type Day } from '../market/index.ts';
import { NO_MONEY, formatMoney, minus, negated, plus, type Money } from '../number/index.ts';
import { baseAsset, cashMoved, inBase, openAccount, positionOf, settlePosition, type AccountBook, type AccountTerms, type Wallet } from '../portfolio/index.ts';
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

/** Every movement of an account's money, entry by entry: they chain to what the account has. */
export class CashBook {
  readonly movements: Movement[] = [];
  private readonly terms: AccountTerms;
  /** What the account began with. */
  private opened: AccountBook;
  private readonly instrumentOf: (id: string) => Instrument;

  constructor(terms: AccountTerms, instrumentOf: (id: string) => Instrument) {
    this.terms = terms;
    this.opened = openAccount(terms);
    this.instrumentOf = instrumentOf;
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
      this.move({ ...of, asset, purpose, kind: 'fill', amount: moved, text: said });
      if (instrument.kind === 'spot') {
        const base = inBase(instrument, fill.quantity);
        this.move({ ...of, asset: baseAsset(instrument), purpose: 'spot', kind: 'fill', amount: fill.side === 'buy' ? base : negated(base), text: said });
      }
      this.move({
        ...of,
        asset,
        purpose,
        kind: 'fee',
        amount: negated(fill.fee),
        text: `Fee: ${said.toLowerCase()}`.replace(fill.instrument.toLowerCase(), fill.instrument),
      });
    }
    if (data.kind === 'position-settled') {
      const instrument = this.instrumentOf(data.instrument);
      const position = positionOf(before, data.instrument);
      const option = position.quantity > 0 ? data.worth : negated(data.worth);
      const amount = instrument.kind === 'option' ? option : settlePosition(instrument, position, data.worth, entry.time).realised;
      this.move({ ...this.placeOf(instrument), time: entry.time, kind: 'expiry', amount, fillId: null, requestId: null, text: `${data.instrument} ended` });
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
      for (const { asset, purpose } of this.places()) {
        const amount = minus(totalOf(book, asset, purpose), totalOf(before, asset, purpose));
        this.move({ asset, purpose, time: entry.time, kind: 'fill', amount, fillId: null, requestId: null, text: 'As the broker has it' });
      }
  }

  /** Where the account keeps money. */
  places(): { readonly asset: string; readonly purpose: Purpose }[] {
    const { wallets } = this.terms;
    return wallets.length > 0 ? wallets.map(({ asset, purpose }) => ({ asset, purpose })) : [mainPlace(this.terms)];
  }

  /** The days of a period with what moved on them, of one place. */
  statement(days: readonly Day[], asset: string, purpose: Purpose): StatementDay[] {
    const here = this.movements.filter((one) => one.asset === asset && one.purpose === purpose);
    const dayOf = (one: Movement): Day => tradingDay(this.terms.venues[0] ?? 'HALM', one.time);
    const sum = (movements: readonly Movement[], from: Money): Money => movements.reduce((total, { amount }) => plus(total, amount), from);
    const first = days[0];
    let opening = sum(first === undefined ? [] : here.filter((one) => dayOf(one) < first), totalOf(this.opened, asset, purpose));
    return days.map((day) => {
      const movements = here.filter((one) => dayOf(one) === day);
      const closing = sum(movements, opening);
      const listed = { day, opening, movements, closing };
      opening = closing;
      return listed;
    });
  }

  private placeOf(instrument: Instrument): { asset: string; purpose: Purpose } {
    if (instrument.kind === 'spot') return { asset: instrument.currency, purpose: 'spot' };
    return instrument.kind === 'inverse' ? { asset: instrument.settlesIn, purpose: 'contract' } : { asset: 'EUR', purpose: 'cash' };
  }

  private move(movement: Movement): void {
    if (movement.amount !== 0n) this.movements.push(movement);
  }
}
