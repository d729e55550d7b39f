import { NO_MONEY, absolute, divideHalfEven, minus, moneyOf, negated, plus, type Money } from '../number/index.ts';
import { sizeOf, type Halves, type Instrument, type Quantity } from '../instrument/index.ts';
import type { AccountBook } from './account.ts';
import { unrealised, valueAtHalves, type Position } from './position.ts';

/** What valuing an account needs to know of the market. */
export interface Market {
  instrument(id: string): Instrument;
  mark(id: string): Halves | null;
}

export interface Valuation {
  readonly equity: Money;
  readonly marginUsed: Money;
  readonly maintenance: Money;
  /** Before what working orders tie up. */
  readonly free: Money;
}

export interface PositionValue {
  /** Null where the market has none: the position then counts at its own cost. */
  readonly mark: Halves | null;
  readonly marketValue: Money;
  readonly unrealised: Money;
  readonly dayUnrealised: Money;
}

/** What a position is worth at the market's mark; at its own cost where there is no mark. */
export function valuePosition(instrument: Instrument, position: Position, mark: Halves | null): PositionValue {
  const value = mark === null ? position.cost : valueAtHalves(instrument, sizeOf(position.quantity), mark);
  return {
    mark,
    marketValue: position.quantity < 0 ? negated(value) : value,
    unrealised: unrealised(instrument, position.quantity, position.cost, mark),
    dayUnrealised: unrealised(instrument, position.quantity, position.dayCost, mark),
  };
}

export type MarginRate = keyof Instrument['margin'];

/**
 * Margin for a quantity at a value: its share, or the value in full for long options and spot. A short option's
 * counts its underlying too.
 *
 * @returns null where the underlying of a short option has no mark
 */
export function marginFor(instrument: Instrument, long: boolean, quantity: Quantity, value: Money, rate: MarginRate, market: Market): Money | null {
  if (instrument.kind === 'spot') return value;
  if (instrument.kind !== 'option') return share(value, instrument.margin[rate]);
  if (long) return value;
  const under = underlyingValue(instrument, quantity, market);
  return under === null ? null : plus(value, share(under, instrument.margin[rate]));
}

export const share = (value: Money, tenThousandths: number): Money => moneyOf(divideHalfEven(value * BigInt(tenThousandths), 10_000n));

/** Where an asset's price in EUR is found: CARB at the mark of its spot pair, else at that of its inverse contract. */
export const euroSources = (asset: string): string[] => (asset === 'CARB' ? ['CARB-EUR.VSPR', 'CARBI.VSPR'] : [`${asset}-EUR.VSPR`]);

/** A sum in EUR; nothing where the asset has no mark anywhere. */
export function inEuro(value: Money, asset: string, market: Market): Money {
  if (asset === 'EUR' || value === 0n) return value;
  for (const id of euroSources(asset)) {
    const mark = market.mark(id);
    if (mark !== null) return moneyOf(divideHalfEven(value * BigInt(mark), 2n * 10n ** BigInt(market.instrument(id).priceDecimals)));
  }
  return NO_MONEY;
}

/** Equity and margin of an account in EUR. Shares, funds and options count at market value, spot in its wallet. */
export function valueAccount(book: AccountBook, market: Market): Valuation {
  // What an application ties up is still owned, and free for nothing else.
  const applied = book.applied ?? NO_MONEY;
  let equity = plus(book.cash, applied);
  let marginUsed = NO_MONEY;
  let maintenance = NO_MONEY;
  for (const wallet of book.wallets) equity = plus(equity, inEuro(wallet.total, wallet.asset, market));
  for (const position of Object.values(book.positions)) {
    if (position.quantity === 0) continue;
    const instrument = market.instrument(position.instrument);
    const value = valuePosition(instrument, position, market.mark(position.instrument));
    const { kind, settlesIn } = instrument;
    if (kind === 'share' || kind === 'fund' || kind === 'option') equity = plus(equity, value.marketValue);
    else if (kind !== 'spot') equity = plus(equity, inEuro(value.unrealised, settlesIn, market));
    const needs = (rate: MarginRate): Money => inEuro(positionMargin(instrument, position, value.marketValue, rate, market), settlesIn, market);
    marginUsed = plus(marginUsed, needs(position.product));
    maintenance = plus(maintenance, needs('maintenance'));
  }
  return { equity, marginUsed, maintenance, free: minus(minus(equity, applied), marginUsed) };
}

/** What a position ties up; a short option whose underlying has no mark its premium alone. */
export function positionMargin(instrument: Instrument, position: Position, marketValue: Money, rate: MarginRate, market: Market): Money {
  const size = absolute(marketValue);
  return marginFor(instrument, position.quantity > 0, sizeOf(position.quantity), size, rate, market) ?? size;
}

function underlyingValue(option: Instrument, quantity: Quantity, market: Market): Money | null {
  if (option.underlying === null) return NO_MONEY;
  const mark = market.mark(option.underlying);
  if (mark === null) return null;
  return moneyOf(valueAtHalves(market.instrument(option.underlying), quantity, mark) * BigInt(option.multiplier));
}
