import type { AccountState, Entry, Fill, Touched } from '../desk/index.ts';
import { NO_QUANTITY, asQuantity, isInverse, sizeOf, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { MarketTrade, Side } from '../market/index.ts';
import { NO_MONEY, minus, plus, type Money } from '../number/index.ts';
import { isFinished, limitPriceOf, stopPriceOf, type Order } from '../orders/index.ts';
import { applyFill, averagePrice, flatPosition, partsAtFlat, realised, settlePosition, valueAt, type Position, type Product } from '../portfolio/index.ts';

/** A fill, or the part of one, that belongs to a round trip. */
export interface TripFill {
  readonly fillId: string;
  readonly orderId: string;
  readonly time: number;
  readonly side: Side;
  readonly price: Price;
  readonly quantity: Quantity;
  /** What its order meant to trade at; null for a market order, whose price is that of when it was asked. */
  readonly intended: Price | null;
  /** A trade of the market brought it about: that trade comes after it. */
  readonly bySomeTrade: boolean;
}

/** An account's instrument from flat to flat. Money is in what the instrument settles in; `gross` is before fees. */
export interface RoundTrip {
  /** Named by the fill that began it. */
  readonly id: string;
  readonly account: string;
  readonly instrument: string;
  readonly product: Product;
  readonly long: boolean;
  /** Of the first entry order that has one. */
  readonly setup: string | null;
  readonly openedAt: number;
  readonly closedAt: number;
  /** Σ of its entries, and what they were worth. */
  readonly quantity: Quantity;
  readonly entered: Money;
  /** Σ of its exits, and what they were worth. */
  readonly leftQuantity: Quantity;
  readonly left: Money;
  readonly gross: Money;
  readonly fees: Money;
  /** |average − stop| × quantity × multiplier at the first moment a stop works for it. */
  readonly firstRisk: Money | null;
  readonly fills: readonly TripFill[];
}

/** What the trader said of a round trip afterwards; undefined is nothing. */
export interface TripMark {
  readonly setup?: string | null;
  readonly note?: string | null;
}

/** An opening order that ended wholly unfilled. */
export interface MissedEntry {
  readonly orderId: string;
  readonly account: string;
  readonly instrument: string;
  readonly side: Side;
  readonly setup: string | null;
  readonly price: Price;
  readonly quantity: Quantity;
  /** From when on it is looked at what it would have made: its end, or with the day's end its acceptance. */
  readonly from: number;
  readonly endedAt: number;
}

interface OpenTrip {
  /** As far as it has come; its fills stand apart until it is over. */
  readonly trip: { -readonly [Name in keyof RoundTrip]: RoundTrip[Name] };
  readonly fills: TripFill[];
  position: Position;
}

/** What round trips still need of the entries behind them. */
export interface SavedTrips {
  readonly marks: readonly (readonly [string, TripMark])[];
  readonly open: readonly OpenTrip[];
  readonly stops: readonly (readonly [string, Price])[];
  readonly accepted: readonly (readonly [string, number])[];
  readonly ended: readonly string[];
}

/**
 * Cuts an account's fills into round trips, entry by entry of its activity: what it knows after an entry depends on
 * the entries up to it alone.
 */
export class RoundTrips {
  /** Those that are over, as they end; whoever keeps them elsewhere takes them out. */
  readonly closed: RoundTrip[] = [];
  /** The same of entries that were missed. */
  readonly missed: MissedEntry[] = [];
  readonly marks = new Map<string, TripMark>();
  private readonly open = new Map<string, OpenTrip>();
  private readonly stops = new Map<string, Price>();
  private readonly accepted = new Map<string, number>();
  private readonly ended = new Set<string>();
  private readonly instrumentOf: (id: string) => Instrument;

  constructor(instrumentOf: (id: string) => Instrument) {
    this.instrumentOf = instrumentOf;
  }

  save(): SavedTrips {
    const { marks, open, stops, accepted, ended } = this;
    return { marks: [...marks], open: [...open.values()], stops: [...stops], accepted: [...accepted], ended: [...ended] };
  }

  load({ marks, open, stops, accepted, ended }: SavedTrips): void {
    for (const [id, mark] of marks) this.marks.set(id, mark);
    for (const one of open) this.open.set(one.trip.instrument, one);
    for (const [id, price] of stops) this.stops.set(id, price);
    for (const [id, time] of accepted) this.accepted.set(id, time);
    for (const id of ended) this.ended.add(id);
  }

  /** The round trip that goes on in an instrument, with the setup it has by now; null while it is flat. */
  going(instrument: string): { readonly id: string; readonly setup: string | null } | null {
    const trip = this.open.get(instrument)?.trip;
    if (!trip) return null;
    const marked = this.marks.get(trip.id)?.setup;
    return { id: trip.id, setup: marked === undefined ? trip.setup : marked };
  }

  /** Nothing more will be heard of an order. */
  forget(orderId: string): void {
    this.stops.delete(orderId);
    this.ended.delete(orderId);
  }

  /** Takes an entry that was folded into `state` and touched these. */
  take(entry: Entry, touched: Touched, state: AccountState): void {
    const { data } = entry;
    for (const { order } of touched.orders) this.noteOrder(order, entry);
    for (const fill of touched.fills) {
      const order = touched.orders.find(({ order }) => order.id === fill.orderId)?.order;
      if (order) this.fill(fill, order);
    }
    if (data.kind === 'position-settled') this.settle(data.instrument, data.worth, entry);
    if (data.kind === 'difference' && data.book) this.agree(data.book.positions);
    if (data.kind === 'round-trip-marked') {
      const { trip, setup, note } = data;
      this.marks.set(trip, { ...this.marks.get(trip), ...(setup === undefined ? {} : { setup }), ...(note === undefined ? {} : { note }) });
    }
    if (entry.instrument !== null) this.risk(entry.instrument, state);
  }

  private noteOrder(order: Order, entry: Entry): void {
    const stop = stopPriceOf(order.terms);
    if (stop !== null && order.triggeredAt === null) this.stops.set(order.id, stop);
    if (order.acknowledged === 'accepted' && !this.accepted.has(order.id)) this.accepted.set(order.id, entry.time);
    if (!isFinished(order)) return;
    if (order.ended !== null && !this.ended.has(order.id)) {
      this.ended.add(order.id);
      const price = limitPriceOf(order.terms, order.side, this.instrumentOf(order.instrument)) ?? this.stops.get(order.id) ?? null;
      if (order.opening && order.filledQuantity === 0 && price !== null) {
        const { id, account, instrument, side, setup, terms } = order;
        const from = order.ended === 'expired' ? (this.accepted.get(id) ?? entry.time) : entry.time;
        this.missed.push({ orderId: id, account, instrument, side, setup, price, quantity: terms.quantity, from, endedAt: entry.time });
      }
    }
    this.accepted.delete(order.id);
  }

  private fill(fill: Fill, order: Order): void {
    const instrument = this.instrumentOf(fill.instrument);
    const before = this.open.get(fill.instrument);
    const held = before?.position.quantity ?? NO_QUANTITY;
    const { closing, closingFee, opening, openingFee } = partsAtFlat(instrument, held, fill);
    if (closing > 0 && before) this.part(before, fill, order, closing, closingFee, false);
    if (opening > 0) this.part(this.open.get(fill.instrument) ?? this.begin(fill, order), fill, order, opening, openingFee, true);
  }

  private begin(fill: Fill, order: Order): OpenTrip {
    const trip: OpenTrip['trip'] = {
      id: fill.id,
      account: fill.account,
      instrument: fill.instrument,
      product: order.product,
      long: fill.side === 'buy',
      setup: null,
      openedAt: fill.time,
      closedAt: fill.time,
      quantity: NO_QUANTITY,
      entered: NO_MONEY,
      leftQuantity: NO_QUANTITY,
      left: NO_MONEY,
      gross: NO_MONEY,
      fees: NO_MONEY,
      firstRisk: null,
      fills: [],
    };
    const opened = { trip, fills: [], position: flatPosition(fill.instrument, fill.time) };
    this.open.set(fill.instrument, opened);
    return opened;
  }

  /** A fill, or what of it is on this side of zero. */
  private part(at: OpenTrip, fill: Fill, order: Order, quantity: Quantity, fee: Money, entry: boolean): void {
    const instrument = this.instrumentOf(fill.instrument);
    const { side, price, time } = fill;
    const applied = applyFill(instrument, at.position, { side, price, quantity, fee, product: order.product, time });
    const stop = this.stops.get(order.id) ?? null;
    const intended = stop ?? limitPriceOf(order.terms, order.side, instrument);
    const bySomeTrade = fill.liquidity === 'added' || stop !== null;
    const value = valueAt(instrument, quantity, price);
    const { trip } = at;
    at.position = applied.position;
    if (entry) {
      trip.setup ??= order.setup;
      trip.quantity = asQuantity(trip.quantity + quantity);
      trip.entered = plus(trip.entered, value);
    } else {
      trip.leftQuantity = asQuantity(trip.leftQuantity + quantity);
      trip.left = plus(trip.left, value);
    }
    trip.closedAt = time;
    trip.gross = plus(trip.gross, applied.realised);
    trip.fees = plus(trip.fees, fee);
    at.fills.push({ fillId: fill.id, orderId: order.id, time, side, price, quantity, intended, bySomeTrade });
    this.endIfFlat(at);
  }

  private settle(id: string, worth: Money, entry: Entry): void {
    const at = this.open.get(id);
    if (!at) return;
    const size = sizeOf(at.position.quantity);
    const applied = settlePosition(this.instrumentOf(id), at.position, worth, entry.time);
    const { trip } = at;
    at.position = applied.position;
    trip.closedAt = entry.time;
    trip.leftQuantity = asQuantity(trip.leftQuantity + size);
    trip.left = plus(trip.left, worth);
    trip.gross = plus(trip.gross, applied.realised);
    this.endIfFlat(at);
  }

  private endIfFlat({ trip, fills, position }: OpenTrip): void {
    if (position.quantity !== 0) return;
    this.closed.push({ ...trip, fills });
    this.open.delete(trip.instrument);
  }

  /** The broker's positions stand: what is open is as it says, and what it does not have is not known to have made anything. */
  private agree(positions: Readonly<Record<string, Position>>): void {
    for (const [id, at] of this.open) {
      const theirs = positions[id];
      if (!theirs || theirs.quantity === 0 || theirs.quantity > 0 !== at.trip.long) this.open.delete(id);
      else at.position = theirs;
    }
  }

  /** The first stop that works for an open round trip tells its risk. */
  private risk(id: string, { firstRisks }: AccountState): void {
    const at = this.open.get(id);
    if (at) at.trip.firstRisk ??= firstRisks.get(id) ?? null;
  }
}

/** What a round trip made after fees. */
export const netOf = (trip: Pick<RoundTrip, 'gross' | 'fees'>): Money => minus(trip.gross, trip.fees);

/**
 * The lowest and highest that a round trip stood at, fees out: of realised so far + the open part at each trade's
 * price after the fills it brought about, and at the price of each fill of its own.
 *
 * @param trades the market's, oldest first
 * @returns mae ≤ 0 ≤ mfe, in what the instrument settles in
 */
export function excursions(instrument: Instrument, trip: RoundTrip, trades: readonly MarketTrade[]): { readonly mae: Money; readonly mfe: Money } {
  let mae = NO_MONEY;
  let mfe = NO_MONEY;
  let made = NO_MONEY;
  let position = flatPosition(trip.instrument, trip.openedAt);
  const look = (price: Price): void => {
    const size = sizeOf(position.quantity);
    const open = size === 0 ? NO_MONEY : realised(instrument, trip.long, position.cost, valueAt(instrument, size, price));
    const stands = plus(made, open);
    if (stands < mae) mae = stands;
    if (stands > mfe) mfe = stands;
  };
  let next = 0;
  for (const fill of trip.fills) {
    for (let trade = trades[next]; trade && (trade.time < fill.time || (trade.time === fill.time && !fill.bySomeTrade)); trade = trades[++next])
      if (position.quantity !== 0) look(trade.price);
    const { side, price, quantity, time } = fill;
    const applied = applyFill(instrument, position, { side, price, quantity, fee: NO_MONEY, product: trip.product, time });
    position = applied.position;
    made = plus(made, applied.realised);
    look(price);
  }
  for (let trade = trades[next]; trade && position.quantity !== 0 && trade.time <= trip.closedAt; trade = trades[++next]) look(trade.price);
  if (trip.gross < mae) mae = trip.gross;
  if (trip.gross > mfe) mfe = trip.gross;
  return { mae, mfe };
}

/**
 * What a round trip's fills cost against what was intended: positive is cost. Null where one's intent is not known.
 *
 * @param asked the best opposite price when a market order was asked for, by order
 */
export function slippage(instrument: Instrument, trip: RoundTrip, asked: (orderId: string) => Price | null): Money | null {
  let cost = NO_MONEY;
  for (const fill of trip.fills) {
    const intended = fill.intended ?? asked(fill.orderId);
    if (intended === null) return null;
    const more = minus(valueAt(instrument, fill.quantity, fill.price), valueAt(instrument, fill.quantity, intended));
    cost = (fill.side === 'buy') !== isInverse(instrument) ? plus(cost, more) : minus(cost, more);
  }
  return cost;
}

/** What a unit was entered and left at, at 8 decimals as 10⁻⁸. */
export const averagesOf = (instrument: Instrument, trip: RoundTrip): { readonly entry: bigint | null; readonly exit: bigint | null } => ({
  entry: averagePrice(instrument, trip.quantity, trip.entered),
  exit: averagePrice(instrument, trip.leftQuantity, trip.left),
});

/** What a missed entry would have made at a price, without fees. */
export function wouldHaveMade(instrument: Instrument, missed: MissedEntry, price: Price): Money {
  const at = (of: Price): Money => valueAt(instrument, missed.quantity, of);
  return realised(instrument, missed.side === 'buy', at(missed.price), at(price));
}
