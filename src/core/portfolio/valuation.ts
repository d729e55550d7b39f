import { divideHalfEven, NO_MONEY, type Money } from '../number/index.ts';
import { type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { AccountBook } from './account.ts';
import { unrealised, valueAt, valueAtHalves, type Position, type Product } from './position.ts';

/** A working opening order, as far as margin goes. `price` is what it is counted at; null when nothing is known. */
export interface OrderExposure {
  readonly instrument: Instrument;
  readonly side: 'buy' | 'sell';
  readonly quantity: Quantity;
  readonly price: Price | null;
  readonly product: Product;
  /** Its margin where that follows from the order alone and was worked out before. */
  readonly margin?: Money | null;
}

/** What valuing an account needs to know of the market. Marks are in halves of a price unit. */
export interface Market {
  instrument(id: string): Instrument;
  mark(id: string): number | null;
}

export interface Valuation {
  readonly equity: Money;
  readonly marginUsed: Money;
  readonly maintenance: Money;
  readonly buyingPower: Money;
}

export interface PositionValue {
  /** The mark in halves of a price unit; the position's own average stands in through `markText`. */
  readonly mark: number | null;
  readonly marketValue: Money;
  readonly unrealised: Money;
  readonly dayUnrealised: Money;
}

/** What a position is worth at the market's mark; at its own cost where there is no mark. */
export function valuePosition(instrument: Instrument, position: Position, mark: number | null): PositionValue {
  const size = Math.abs(position.quantity);
  const value = mark === null ? position.cost : valueAtHalves(instrument, size, mark);
  return {
    mark,
    marketValue: position.quantity < 0 ? -value : value,
    unrealised: unrealised(instrument, position.quantity, position.cost, mark),
    dayUnrealised: unrealised(instrument, position.quantity, position.dayCost, mark),
  };
}

/** Margin for a quantity at a value: its share, or the value in full for long options and spot. */
export function marginFor(instrument: Instrument, long: boolean, value: Money, rate: keyof Instrument['margin'], underlyingValue: Money): Money {
  if (instrument.kind === 'spot') return value;
  if (instrument.kind === 'option') return long ? value : value + share(underlyingValue, instrument.margin[rate]);
  return share(value, instrument.margin[rate]);
}

const share = (value: Money, tenThousandths: number): Money => divideHalfEven(value * BigInt(tenThousandths), 10_000n);

/** One unit of an asset in EUR as 10⁻⁸: at the mark of its spot pair, CARB else at that of its inverse contract. */
export function inEuro(value: Money, asset: string, market: Market): Money {
  if (asset === 'EUR') return value;
  for (const id of asset === 'CARB' ? ['CARB-EUR.VSPR', 'CARBI.VSPR'] : [`${asset}-EUR.VSPR`]) {
    const mark = market.mark(id);
    if (mark !== null) return divideHalfEven(value * BigInt(mark), 2n * 10n ** BigInt(market.instrument(id).priceDecimals));
  }
  return NO_MONEY;
}

/** Equity, margin and buying power of an account in EUR. */
export function valueAccount(book: AccountBook, orders: readonly OrderExposure[], market: Market): Valuation {
  let equity = book.cash;
  let marginUsed = NO_MONEY;
  let maintenance = NO_MONEY;
  for (const wallet of book.wallets) equity += inEuro(wallet.total, wallet.asset, market);
  for (const position of Object.values(book.positions)) {
    if (position.quantity === 0) continue;
    const instrument = market.instrument(position.instrument);
    const value = valuePosition(instrument, position, market.mark(position.instrument));
    if (['share', 'fund', 'option'].includes(instrument.kind)) equity += value.marketValue;
    else if (instrument.kind !== 'spot') equity += inEuro(value.unrealised, instrument.settlesIn, market);
    // A spot position is paid for in full from its wallet: it ties up nothing more, and its worth is in the wallet.
    if (instrument.kind === 'spot') {
      marginUsed += value.marketValue;
      maintenance += value.marketValue;
      continue;
    }
    const size = value.marketValue < 0n ? -value.marketValue : value.marketValue;
    const under = underlyingValue(instrument, Math.abs(position.quantity), market);
    const long = position.quantity > 0;
    marginUsed += inEuro(marginFor(instrument, long, size, position.product, under), instrument.settlesIn, market);
    maintenance += inEuro(marginFor(instrument, long, size, 'maintenance', under), instrument.settlesIn, market);
  }
  let committed = NO_MONEY;
  for (const order of orders) committed += inEuro(orderMargin(order, market), order.instrument.settlesIn, market);
  return { equity, marginUsed, maintenance, buyingPower: equity - marginUsed - committed };
}

/** Margin of an opening order at its price, in what the instrument settles in; at the mark where it has none. */
export function orderMargin(order: OrderExposure, market: Market): Money {
  if (order.margin !== undefined && order.margin !== null) return order.margin;
  const { instrument, quantity } = order;
  const mark = market.mark(instrument.id);
  if (order.price === null && mark === null) return NO_MONEY;
  const value = order.price === null ? valueAtHalves(instrument, quantity, mark as number) : valueAt(instrument, quantity, order.price);
  return marginFor(instrument, order.side === 'buy', value, order.product, underlyingValue(instrument, quantity, market));
}

function underlyingValue(option: Instrument, quantity: Quantity, market: Market): Money {
  if (option.kind !== 'option' || option.underlying === null) return NO_MONEY;
  const mark = market.mark(option.underlying);
  const underlying = market.instrument(option.underlying);
  return mark === null ? NO_MONEY : valueAtHalves(underlying, quantity, mark) * BigInt(option.multiplier);
}
