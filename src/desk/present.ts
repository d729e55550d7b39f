import {
  VENUES,
  formatPrice,
  formatQuantity,
  isInverse,
  isTradable,
  venueOrderTypes,
  type Instrument,
  type Price,
  type Quantity,
} from '../core/instrument/index.ts';
import {
  changePercent,
  formatDay,
  gtcEnd,
  localDay,
  markInHalves,
  vwapText,
  type Bar,
  type DayFigures,
  type LiveListName,
  type Quote,
} from '../core/market/index.ts';
import { divideHalfEven, formatMoney, formatScaled, type Money } from '../core/number/index.ts';
import { orderSentence, orderState, remainingQuantity, type Order } from '../core/orders/index.ts';
import { averagePrice, baseAsset, valuePosition, type OrderExposure, type Position, orderMargin, valueAccount, type Market } from '../core/portfolio/index.ts';
import type { DepthLevel, DepthView, Headline, Print, VenueClock } from '../venue/messages.ts';
import type { Entry } from './journal.ts';
import { openRiskOf } from './open-risk.ts';
import type { AccountState, Fill } from './state.ts';

/** How everything looks outside: decimal strings and ISO times, as the API says. */

export const isoTime = (time: number): string => new Date(time).toISOString();
const isoOrNull = (time: number | null): string | null => (time === null ? null : isoTime(time));
const share = (tenThousandths: number): string => formatScaled(BigInt(tenThousandths), 4, 2);
const priceOr = (instrument: Instrument, price: Price | null): string | null => (price === null ? null : formatPrice(instrument, price));
const quantityOr = (instrument: Instrument, quantity: Quantity | null): string | null => (quantity === null ? null : formatQuantity(instrument, quantity));

/** A price in halves of a price unit; a half shows one place more. */
export function formatHalves(instrument: Instrument, halves: number): string {
  return formatScaled(BigInt(halves) * 5n, instrument.priceDecimals + 1, instrument.priceDecimals);
}

export function presentInstrument(instrument: Instrument): Record<string, unknown> {
  const { id, ticker, venue, name, kind, currency, sector, underlying, expiry, right } = instrument;
  return {
    id,
    ticker,
    venue,
    name,
    kind,
    currency,
    sector,
    tradable: isTradable(instrument),
    tickBands: instrument.tickBands.map(({ from, tick }) => ({ from: formatPrice(instrument, from), tick: formatPrice(instrument, tick) })),
    quantityStep: formatQuantity(instrument, 1),
    minimumQuantity: formatQuantity(instrument, instrument.minimumQuantity),
    multiplier: isInverse(instrument) ? null : String(instrument.multiplier),
    inverse: isInverse(instrument),
    underlying,
    expiry,
    strike: priceOr(instrument, instrument.strike),
    right,
    venueOrderTypes: venueOrderTypes(venue, kind),
    zone: VENUES[venue].zone,
    session: VENUES[venue].session,
    margin: {
      overnight: share(instrument.margin.overnight),
      intraday: share(instrument.margin.intraday),
      maintenance: share(instrument.margin.maintenance),
    },
    fundamentals: instrument.fundamentals,
  };
}

export function presentQuote(instrument: Instrument, quote: Quote): Record<string, unknown> {
  const price = (value: Price | null): string | null => priceOr(instrument, value);
  const mark = markInHalves(quote);
  const { last, previousSettlement } = quote;
  const known = last !== null && previousSettlement !== null;
  return {
    instrument: quote.instrument,
    time: isoTime(quote.time),
    state: quote.state,
    bid: price(quote.bid),
    bidQuantity: quantityOr(instrument, quote.bidQuantity),
    ask: price(quote.ask),
    askQuantity: quantityOr(instrument, quote.askQuantity),
    last: price(last),
    lastQuantity: quantityOr(instrument, quote.lastQuantity),
    lastTime: isoOrNull(quote.lastTime),
    mark: mark === null ? null : formatHalves(instrument, mark),
    open: price(quote.open),
    high: price(quote.high),
    low: price(quote.low),
    volume: formatQuantity(instrument, quote.volume),
    vwap: vwapText(instrument, quote.turnover, quote.dayVolume),
    previousSettlement: price(previousSettlement),
    change: known ? formatScaled(BigInt(last - previousSettlement), instrument.priceDecimals) : null,
    changePercent: known ? changePercent(last, previousSettlement) : null,
    priceLimits: { lower: price(quote.priceLimits.lower), upper: price(quote.priceLimits.upper) },
  };
}

export function presentDepth(instrument: Instrument, depth: DepthView, levels: number, limits: Quote['priceLimits']): Record<string, unknown> {
  const side = (of: readonly DepthLevel[]): unknown[] => {
    let total = 0;
    return of.slice(0, levels).map(({ price, quantity, orders }) => {
      total += quantity;
      return { price: formatPrice(instrument, price), quantity: formatQuantity(instrument, quantity), orders, total: formatQuantity(instrument, total) };
    });
  };
  return {
    instrument: depth.instrument,
    time: isoTime(depth.time),
    bids: side(depth.bids),
    asks: side(depth.asks),
    priceLimits: { lower: priceOr(instrument, limits.lower), upper: priceOr(instrument, limits.upper) },
  };
}

export const presentPrint = (instrument: Instrument, print: Print): Record<string, unknown> => ({
  seq: print.seq,
  time: isoTime(print.time),
  instrument: print.instrument,
  side: print.side,
  price: formatPrice(instrument, print.price),
  quantity: formatQuantity(instrument, print.quantity),
});

export const presentNews = ({ seq, time, instrument, text }: Headline): Record<string, unknown> => ({ seq, time: isoTime(time), instrument, text });

export const presentBar = (instrument: Instrument, bar: Bar): Record<string, unknown> => ({
  time: isoTime(bar.time),
  open: formatPrice(instrument, bar.open),
  high: formatPrice(instrument, bar.high),
  low: formatPrice(instrument, bar.low),
  close: formatPrice(instrument, bar.close),
  volume: formatQuantity(instrument, bar.volume),
});

/** @param ahead what is displayed in front of it at its price, where that is known */
export function presentOrder(instrument: Instrument, order: Order, ahead: Quantity | null = null): Record<string, unknown> {
  return {
    clientOrderId: order.clientOrderId,
    account: order.account,
    instrument: order.instrument,
    side: order.side,
    type: order.type,
    quantity: formatQuantity(instrument, order.quantity),
    limitPrice: priceOr(instrument, order.limitPrice),
    limitOffsetTicks: order.limitOffsetTicks,
    stopPrice: priceOr(instrument, order.stopPrice),
    triggerOn: order.triggerOn,
    trail: null,
    timeInForce: order.timeInForce,
    expiresAt: isoOrNull(endOf(order, instrument)),
    heldBy: order.heldBy,
    product: order.product,
    exitPlan: null,
    reduceOnly: order.reduceOnly,
    crossesZero: order.crossesZero,
    restOnly: order.restOnly,
    setup: order.setup,
    id: order.id,
    state: orderState(order),
    role: order.role,
    opening: order.opening,
    filledQuantity: formatQuantity(instrument, order.filledQuantity),
    remainingQuantity: formatQuantity(instrument, remainingQuantity(order)),
    averagePrice: averageText(instrument, order.filledQuantity, order.filledValue),
    fees: formatMoney(order.fees, instrument.settlesIn),
    triggeredAt: isoOrNull(order.triggeredAt),
    group: null,
    plan: null,
    reason: order.reason,
    reasonCode: order.reasonCode,
    ahead: quantityOr(instrument, ahead),
    sentence: orderSentence(order, instrument),
    version: order.version,
    createdAt: isoTime(order.createdAt),
    updatedAt: isoTime(order.updatedAt),
  };
}

/** When the order ends by its own terms; of gtc once it is accepted. */
function endOf(order: Order, instrument: Instrument): number | null {
  if (order.timeInForce !== 'gtc') return order.expiresAt;
  return order.acknowledged === 'accepted' ? gtcEnd(instrument.venue, order.createdAt) : null;
}

function averageText(instrument: Instrument, quantity: Quantity, cost: Money): string | null {
  const average = averagePrice(instrument, quantity, cost);
  return average === null ? null : formatScaled(average, 8, instrument.priceDecimals);
}

export function presentHistory(instrument: Instrument, entry: Entry): Record<string, unknown> {
  const line = entry.history;
  if (!line) throw new Error(`entry ${entry.seq} is no part of an order's history`);
  return {
    seq: entry.seq,
    time: isoTime(entry.time),
    version: line.version,
    execType: line.execType,
    state: line.state,
    quantity: formatQuantity(instrument, line.quantity),
    limitPrice: priceOr(instrument, line.limitPrice),
    stopPrice: priceOr(instrument, line.stopPrice),
    filledQuantity: formatQuantity(instrument, line.filledQuantity),
    remainingQuantity: formatQuantity(instrument, line.remainingQuantity),
    fillId: line.fillId,
    reason: line.reason,
  };
}

export const presentFill = (instrument: Instrument, fill: Fill): Record<string, unknown> => ({
  id: fill.id,
  seq: fill.seq,
  time: isoTime(fill.time),
  orderId: fill.orderId,
  clientOrderId: fill.clientOrderId,
  account: fill.account,
  instrument: fill.instrument,
  side: fill.side,
  role: fill.role,
  quantity: formatQuantity(instrument, fill.quantity),
  price: formatPrice(instrument, fill.price),
  fee: formatMoney(fill.fee, instrument.settlesIn),
  feeCurrency: instrument.settlesIn,
  realised: formatMoney(fill.realised, instrument.settlesIn),
  currency: instrument.settlesIn,
  liquidity: fill.liquidity,
});

/** The figures of a position at the market's mark. */
export function presentPosition(state: AccountState, position: Position, market: Market): Record<string, unknown> {
  const instrument = market.instrument(position.instrument);
  const mark = market.mark(position.instrument);
  const value = valuePosition(instrument, position, mark);
  const money = (sum: Money): string => formatMoney(sum, instrument.settlesIn);
  const unsettled = state.book.unsettled.filter((lot) => lot.instrument === position.instrument).reduce((sum, lot) => sum + lot.quantity, 0);
  const risk = openRiskOf(state, position, market);
  const average = averageText(instrument, position.quantity, position.cost);
  return {
    account: state.terms.id,
    instrument: position.instrument,
    product: position.product,
    quantity: formatQuantity(instrument, position.quantity),
    averagePrice: average,
    mark: mark === null ? average : formatHalves(instrument, mark),
    marketValue: money(value.marketValue),
    unrealised: money(value.unrealised),
    currency: instrument.settlesIn,
    day: {
      realised: money(position.dayRealised),
      unrealised: money(value.dayUnrealised),
      fees: money(position.dayFees),
      net: money(position.dayRealised + value.dayUnrealised - position.dayFees),
    },
    openRisk: risk.openRisk === null ? null : money(risk.openRisk),
    unitsWithoutStop: formatQuantity(instrument, risk.unitsWithoutStop),
    settledQuantity: formatQuantity(instrument, position.quantity - unsettled),
    openedAt: isoOrNull(position.openedAt),
    updatedAt: isoTime(position.updatedAt),
  };
}

/** What an order ties up changes only with the order: a value, so that it can be kept beside it. */
const known = new WeakMap<Order, OrderExposure>();

function exposureOf(order: Order, market: Market): OrderExposure {
  let exposure = known.get(order);
  if (!exposure) {
    const instrument = market.instrument(order.instrument);
    const { side, product } = order;
    const plain = { instrument, side, quantity: remainingQuantity(order), price: order.limitPrice ?? order.stopPrice, product };
    // Without a price, and for options, the margin moves with the market.
    const fixed = plain.price !== null && instrument.kind !== 'option';
    known.set(order, (exposure = { ...plain, margin: fixed ? orderMargin(plain, market) : null }));
  }
  return exposure;
}

/** Working opening orders as margin sees them: at their limit, else stop price, else at the mark. */
export function exposures(state: AccountState, market: Market): OrderExposure[] {
  const found: OrderExposure[] = [];
  for (const id of state.working) {
    const order = state.orders.get(id) as Order;
    if (!order.opening) continue;
    const exposure = exposureOf(order, market);
    if (exposure.quantity > 0) found.push(exposure);
  }
  return found;
}

export function presentAccount(state: AccountState, market: Market): Record<string, unknown> {
  const { terms, book } = state;
  const orders = exposures(state, market);
  const value = valueAccount(book, orders, market);
  const money = (sum: Money): string => formatMoney(sum, terms.currency);
  return {
    id: terms.id,
    currency: terms.currency,
    products: terms.products,
    cash: money(book.cash),
    equity: money(value.equity),
    marginUsed: money(value.marginUsed),
    maintenance: money(value.maintenance),
    buyingPower: money(value.buyingPower),
    marginCall: value.equity < value.maintenance,
    wallets: book.wallets.map(({ asset, purpose, total }) => {
      const tiedUp = tiedUpIn(state, asset, purpose, market);
      const say = (sum: Money): string => formatScaled(sum, 8, asset === 'EUR' ? 2 : 8);
      return { asset, purpose, total: say(total), tiedUp: say(tiedUp), available: say(total - tiedUp) };
    }),
    holdings: holdingsOf(state, market),
    commission: terms.commission.map((line) => ({
      kind: line.kind,
      basis: line.basis,
      rate: formatScaled(line.rate, 8, 2),
      minimum: line.minimum === null ? null : formatMoney(line.minimum, line.currency),
      maximum: line.maximum === null ? null : formatMoney(line.maximum, line.currency),
      exchangeFee: formatScaled(line.exchangeFee, 8, 2),
      currency: line.currency,
      from: line.from,
    })),
  };
}

/** What working orders, and the margin of inverse positions, tie up of a wallet. */
export function tiedUpIn(state: AccountState, asset: string, purpose: 'spot' | 'contract', market: Market): Money {
  let tied = 0n;
  for (const id of state.working) {
    const order = state.orders.get(id) as Order;
    const instrument = market.instrument(order.instrument);
    const quantity = remainingQuantity(order);
    if (quantity === 0) continue;
    const exposure = { instrument, side: order.side, quantity, price: order.limitPrice ?? order.stopPrice, product: order.product };
    if (purpose === 'contract') {
      if (instrument.kind === 'inverse' && order.opening) tied += orderMargin(exposure, market);
    } else if (instrument.kind === 'spot') {
      if (order.side === 'buy' && asset === instrument.currency) tied += orderMargin(exposure, market);
      if (order.side === 'sell' && asset === baseAsset(instrument)) tied += BigInt(quantity) * 10n ** BigInt(8 - instrument.quantityDecimals);
    }
  }
  if (purpose === 'contract')
    for (const position of Object.values(state.book.positions)) {
      const instrument = market.instrument(position.instrument);
      if (instrument.kind !== 'inverse' || position.quantity === 0) continue;
      const { marketValue } = valuePosition(instrument, position, market.mark(position.instrument));
      const size = marketValue < 0n ? -marketValue : marketValue;
      tied += divideHalfEven(size * BigInt(instrument.margin.overnight), 10_000n);
    }
  return tied;
}

function holdingsOf(state: AccountState, market: Market): unknown[] {
  const held = Object.values(state.book.positions).filter((position) => {
    const { kind } = market.instrument(position.instrument);
    return position.quantity > 0 && (kind === 'share' || kind === 'fund');
  });
  return held.map((position) => {
    const instrument = market.instrument(position.instrument);
    const lots = state.book.unsettled.filter((lot) => lot.instrument === position.instrument);
    const pending = lots.reduce((sum, lot) => sum + lot.quantity, 0);
    return {
      instrument: position.instrument,
      quantity: formatQuantity(instrument, Math.max(0, position.quantity - pending)),
      unsettled: lots.map((lot) => ({
        quantity: formatQuantity(instrument, lot.quantity),
        settlesOn: formatDay(localDay(VENUES[instrument.venue].zone, lot.settlesAt)),
      })),
    };
  });
}

export const presentEntry = (entry: Entry): Record<string, unknown> => ({
  seq: entry.seq,
  time: isoTime(entry.time),
  account: entry.account,
  by: entry.by,
  kind: entry.data.kind,
  instrument: entry.instrument,
  orderId: entry.orderId,
  causedBy: entry.causedBy,
  text: entry.text,
  data: plain(entry.data),
  hash: entry.hash,
});

/** Exact integers as their digits: the data of an entry in the units it was stored in. */
const plain = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value, (_key, part: unknown) => (typeof part === 'bigint' ? part.toString() : part))) as unknown;

export const presentClock = (clock: VenueClock): Record<string, unknown> => ({
  ...clock,
  time: isoTime(clock.time),
  tapeEndsAt: isoOrNull(clock.tapeEndsAt),
});

/** A row of a live list; its measure in the words of what the list orders by. */
export function presentLiveRow(instrument: Instrument, name: LiveListName, row: { figures: DayFigures; measure: number }): Record<string, unknown> {
  const { figures, measure } = row;
  const { last, previousSettlement } = figures;
  const known = last !== null && previousSettlement !== null;
  return {
    instrument: figures.instrument,
    last: priceOr(instrument, last),
    change: known ? formatScaled(BigInt(last - previousSettlement), instrument.priceDecimals) : null,
    changePercent: known ? changePercent(last, previousSettlement) : null,
    volume: formatQuantity(instrument, figures.volume),
    measure: measureText(name, measure),
    asOf: isoTime(figures.asOf),
    live: figures.live,
  };
}

function measureText(name: LiveListName, measure: number): string {
  switch (name) {
    case 'risers':
    case 'fallers':
    case 'gaps up':
    case 'gaps down':
      return `${(measure * 100).toFixed(2)} %`;
    case 'most active':
      return measure.toFixed(0);
    case 'unusually active':
      return `${measure.toFixed(1)} ×`;
    case 'new highs':
    case 'new lows':
    case 'halted':
      return isoTime(measure).slice(11, 16);
    default:
      return name satisfies never;
  }
}
