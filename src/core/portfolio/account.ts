import { NO_MONEY, minus, moneyOf, negated, plus, type Currency, type Money } from '../number/index.ts';
import { asQuantity, isInverse, type Instrument, type InstrumentKind, type Price, type Quantity, type VenueId } from '../instrument/index.ts';
import { settlementTime, type Side } from '../market/index.ts';
import type { RiskRules } from '../risk/index.ts';
import type { Commission } from './commission.ts';
import { applyFill, flatPosition, settlePosition, signedQuantity, turnDay, valueAt, type FillTerms, type Position, type Product } from './position.ts';

/** What an account may do, and what it starts with. */
export interface AccountTerms {
  readonly id: string;
  readonly user: string;
  readonly currency: Currency;
  readonly products: readonly Product[];
  readonly venues: readonly VenueId[];
  readonly kinds: readonly InstrumentKind[];
  readonly cash: Money;
  readonly wallets: readonly Wallet[];
  readonly commission: readonly Commission[];
  /** The rules it begins with, where it begins with any. */
  readonly rules?: RiskRules;
}

/** The venue whose trading day is the account's own. */
export const homeVenue = ({ venues }: Pick<AccountTerms, 'venues'>): VenueId => venues[0] ?? 'HALM';

export interface Wallet {
  /** A currency, or the base asset of a spot pair. */
  readonly asset: string;
  readonly purpose: 'spot' | 'contract';
  readonly total: Money;
}

/** Shares or fund units that change hands at a later day's turn; negative when sold. */
export interface UnsettledLot {
  readonly instrument: string;
  readonly quantity: Quantity;
  readonly settlesAt: number;
}

/** The money and the positions of one account. A value: every change makes a new one. */
export interface AccountBook {
  readonly account: string;
  readonly cash: Money;
  readonly wallets: readonly Wallet[];
  readonly positions: Readonly<Record<string, Position>>;
  readonly unsettled: readonly UnsettledLot[];
  /** What sales brought that have not settled, before fees. Left out of books that were written before it was kept. */
  readonly proceeds?: readonly { readonly settlesAt: number; readonly amount: Money }[];
  /** Cash that applications for new issues keep from other uses; it is not in `cash`. */
  readonly applied?: Money;
  /** The commission in force, once it is another than the terms began with. */
  readonly commission?: readonly Commission[];
  /** Commission that was agreed and is not in force yet. */
  readonly coming?: readonly Commission[];
}

/** The commission that an account is charged now, a line for each kind. */
export const commissionInForce = (terms: AccountTerms, book: AccountBook): readonly Commission[] => book.commission ?? terms.commission;

/** A line was agreed: it takes the place of one of the same kind that was to begin on the same day. */
export function bookAgreed(book: AccountBook, line: Commission): AccountBook {
  const others = (book.coming ?? []).filter(({ kind, from }) => kind !== line.kind || from !== line.from);
  return { ...book, coming: [...others, line].sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : 0)) };
}

/** What was agreed for a day or before comes into force. */
export function bookInForce(terms: AccountTerms, book: AccountBook, day: string): AccountBook {
  const begins = (book.coming ?? []).filter(({ from }) => from <= day);
  if (begins.length === 0) return book;
  const lines = new Map([...commissionInForce(terms, book), ...begins].map((line) => [line.kind, line]));
  return { ...book, commission: [...lines.values()], coming: (book.coming ?? []).filter(({ from }) => from > day) };
}

export const openAccount = (terms: AccountTerms): AccountBook => ({
  account: terms.id,
  cash: terms.cash,
  wallets: terms.wallets,
  positions: {},
  unsettled: [],
});

export const positionOf = (book: AccountBook, instrument: string): Position => book.positions[instrument] ?? flatPosition(instrument, 0);

/** Trading days until shares and funds change hands (exact rule *Money* 9). */
const SETTLES_AFTER_DAYS = 2;

/** When what was bought or sold in shares and funds changes hands. */
export const settlesAt = ({ venue }: Instrument, time: number): number => settlementTime(venue, time, SETTLES_AFTER_DAYS);

/** How much an order of a side could close of a position, in quantity steps: 0 where it would open. */
export function reducibleBy(book: AccountBook, instrument: string, side: Side): Quantity {
  const { quantity } = positionOf(book, instrument);
  return asQuantity(Math.max(0, side === 'sell' ? quantity : 0 - quantity));
}

/** Units of an instrument that have settled; negative for a short position. */
export function settledQuantity(book: AccountBook, instrument: string): Quantity {
  const pending = book.unsettled.reduce((sum, lot) => (lot.instrument === instrument ? sum + lot.quantity : sum), 0);
  return asQuantity(positionOf(book, instrument).quantity - pending);
}

/** True where the account may trade the instrument at all. */
export const mayTrade = (terms: AccountTerms, instrument: Instrument): boolean =>
  terms.kinds.includes(instrument.kind) && terms.venues.includes(instrument.venue);

export interface Booked {
  readonly book: AccountBook;
  readonly realised: Money;
}

/** Books a fill with its fee: position, cash or wallets, and what settles later. */
export function bookFill(book: AccountBook, instrument: Instrument, fill: FillTerms): Booked {
  const before = book.positions[instrument.id] ?? flatPosition(instrument.id, fill.time);
  const { position, realised } = applyFill(instrument, before, fill);
  const value = isInverse(instrument) ? NO_MONEY : valueAt(instrument, fill.quantity, fill.price);
  const paid = fill.side === 'buy' ? negated(value) : value;
  let { cash, wallets, unsettled, proceeds = [] } = book;
  switch (instrument.kind) {
    case 'share':
    case 'fund':
      cash = minus(plus(cash, paid), fill.fee);
      unsettled = addLot(unsettled, {
        instrument: instrument.id,
        quantity: signedQuantity(fill.side, fill.quantity),
        settlesAt: settlesAt(instrument, fill.time),
      });
      if (fill.side === 'sell') proceeds = [...proceeds, { settlesAt: settlesAt(instrument, fill.time), amount: value }];
      break;
    case 'option':
      cash = minus(plus(cash, paid), fill.fee);
      break;
    case 'future':
      cash = minus(plus(cash, realised), fill.fee);
      break;
    case 'spot': {
      const base = inBase(instrument, fill.quantity);
      wallets = addToWallet(wallets, instrument.currency, minus(paid, fill.fee));
      wallets = addToWallet(wallets, baseAsset(instrument), fill.side === 'buy' ? base : negated(base));
      break;
    }
    case 'inverse':
      wallets = wallets.map((wallet) => (wallet.purpose === 'contract' ? { ...wallet, total: minus(plus(wallet.total, realised), fill.fee) } : wallet));
      break;
    case 'index':
      throw new Error(`${instrument.id} is an index and can't be filled`);
    default:
      instrument.kind satisfies never;
  }
  return { book: { ...book, cash, wallets, unsettled, proceeds, positions: { ...book.positions, [instrument.id]: position } }, realised };
}

/** Books the cash settlement of a future's or option's position. An option's worth changes hands, a future's gain does. */
export function bookSettlement(book: AccountBook, instrument: Instrument, worth: Money, time: number): Booked {
  const before = positionOf(book, instrument.id);
  const { position, realised } = settlePosition(instrument, before, worth, time);
  const paid = instrument.kind === 'option' ? (before.quantity > 0 ? worth : negated(worth)) : realised;
  return { book: { ...book, cash: plus(book.cash, paid), positions: { ...book.positions, [instrument.id]: position } }, realised };
}

/** What a spot pair buys: the part of its ticker before the dash. */
export const baseAsset = (instrument: Pick<Instrument, 'ticker'>): string => instrument.ticker.split('-')[0] ?? instrument.ticker;

function addToWallet(wallets: readonly Wallet[], asset: string, sum: Money): Wallet[] {
  const own = (wallet: Wallet): boolean => wallet.purpose === 'spot' && wallet.asset === asset;
  if (!wallets.some(own)) return [...wallets, { asset, purpose: 'spot', total: sum }];
  return wallets.map((wallet) => (own(wallet) ? { ...wallet, total: plus(wallet.total, sum) } : wallet));
}

/** Fills that settle at the same time are one lot. */
function addLot(lots: readonly UnsettledLot[], lot: UnsettledLot): UnsettledLot[] {
  const same = (other: UnsettledLot): boolean => other.instrument === lot.instrument && other.settlesAt === lot.settlesAt;
  const quantity = asQuantity(lots.filter(same).reduce<number>((sum, other) => sum + other.quantity, lot.quantity));
  const others = lots.filter((other) => !same(other));
  return quantity === 0 ? others : [...others, { ...lot, quantity }];
}

/** A quantity of a spot pair as its base asset's money. */
export const inBase = (instrument: Instrument, quantity: Quantity): Money => moneyOf(BigInt(quantity) * 10n ** BigInt(8 - instrument.quantityDecimals));

/** The account after a venue's day turned: carried positions count from their settlement prices, due lots are settled. */
export function bookDayTurn(
  book: AccountBook,
  time: number,
  instruments: readonly { readonly instrument: Instrument; readonly settlement: Price | null }[],
): AccountBook {
  const positions = { ...book.positions };
  for (const { instrument, settlement } of instruments) {
    const position = positions[instrument.id];
    if (!position) continue;
    if (position.quantity === 0) delete positions[instrument.id];
    else positions[instrument.id] = turnDay(instrument, position, settlement);
  }
  return {
    ...book,
    positions,
    unsettled: book.unsettled.filter((lot) => lot.settlesAt > time),
    proceeds: (book.proceeds ?? []).filter((one) => one.settlesAt > time),
  };
}
