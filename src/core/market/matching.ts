import { NO_QUANTITY, leastQuantity, asQuantity, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { BookOrder, StopOrder } from './book-order.ts';
import { OrderQueues, type Queued } from './order-queues.ts';
import { PriceLevels } from './price-levels.ts';
import { StopQueue, type WaitingStop } from './stop-queue.ts';
import type { BookSide, MarketEvent, MarketState, PriceLimits, Side } from './tape-row.ts';
import { tighter, trailedStop } from './trail.ts';
import type { TriggerSource } from './trigger.ts';

interface RestingPlace extends BookOrder {
  readonly arrival: number;
  /** What the displayed market still has in front of it at its price. */
  ahead: Quantity;
}

interface Resting extends Writable<RestingPlace>, Queued<Resting> {
  limit: Price | null;
  /** Whether it is among those whose place the owner has to take note of. */
  noted: boolean;
}

type Writable<T> = { -readonly [K in keyof T]: T[K] };

/** What becomes of own orders. */
export type BookEvent =
  | { readonly kind: 'filled'; readonly id: string; readonly price: Price; readonly quantity: Quantity; readonly liquidity: 'added' | 'removed' }
  | { readonly kind: 'canceled'; readonly id: string; readonly reason: 'ioc' | 'fok' | 'venue' }
  /** A stop that has triggered at its price and is now the order that it becomes. */
  | { readonly kind: 'triggered'; readonly id: string; readonly stopPrice: Price };

/** Where an order stands at the venue just now. */
export interface Standing {
  /** Displayed in front of it at its price; null where it does not rest. */
  readonly ahead: Quantity | null;
  readonly stopPrice: Price | null;
  readonly best: Price | null;
}

/** Records kept for orders to come. */
const SPARE = 1024;

const NOTHING: readonly BookEvent[] = [];

export interface DisplayedLevel {
  price: Price;
  quantity: Quantity;
}

/** The market of a book as it outlives the process; made by {@link MatchingBook.save}. The orders in it are stored one by one. */
export interface SavedBook {
  state: MarketState;
  touched: boolean;
  arrivals: number;
  last: Price | null;
  limits: PriceLimits;
  bids: [Price, Quantity][];
  asks: [Price, Quantity][];
}

/** An order's place in a book: what it is there, when it came, what stands in front of it. */
export type SavedPlace = Readonly<RestingPlace> | WaitingStop;

const opposite = (side: Side): BookSide => (side === 'buy' ? 'ask' : 'bid');
const own = (side: Side): BookSide => (side === 'buy' ? 'bid' : 'ask');

/**
 * The market of one instrument: what is displayed there, and the orders we have in it.
 *
 * Price-time matching against the displayed market, with an estimate of the queue in front of each
 * resting order. Displayed quantity that an order took is gone until it is displayed anew; own orders
 * never meet one another.
 *
 * What an event does to own orders is told one by one, and the owner must take them all: between two of
 * them it may remove or cut orders, so that a fill which makes a position flat ends what would have closed it.
 */
export class MatchingBook {
  state: MarketState = 'pre-open';
  limits: PriceLimits = { lower: null, upper: null };
  last: Price | null = null;

  private touched = false;
  private arrivals = 0;
  private readonly displayed = { bid: new PriceLevels<Quantity>(1), ask: new PriceLevels<Quantity>(-1) };
  private readonly resting = {
    buy: new OrderQueues<Resting>(1),
    sell: new OrderQueues<Resting>(-1),
  };
  /** Market orders whose rest waits ahead of all limits. */
  private readonly unpriced = { buy: new OrderQueues<Resting>(1), sell: new OrderQueues<Resting>(-1) };
  private readonly byId = new Map<string, Resting>();
  private readonly stops = new StopQueue();
  /** Orders whose place is another one, or gone, since the owner last took note; each once. */
  private moved: Resting[] = [];
  private readonly movedStops = new Set<string>();
  /** Records of orders that left, for those that come: what stands here long is not copied from generation to generation by the collector. */
  private readonly spare: Resting[] = [];
  private readonly instrument: Instrument;

  constructor(instrument: Instrument) {
    this.instrument = instrument;
  }

  best(side: BookSide): Price | null {
    return this.displayed[side].best();
  }

  displayedAt(side: BookSide, price: Price): Quantity {
    return this.displayed[side].get(price) ?? NO_QUANTITY;
  }

  /** The best `count` displayed levels of a side. */
  levels(side: BookSide, count: number): DisplayedLevel[] {
    const of = this.displayed[side];
    return of
      .prices()
      .slice(0, count)
      .map((price) => ({ price, quantity: of.get(price) ?? NO_QUANTITY }));
  }

  /** Where an order stands, or null where there is none of that name. */
  standing(id: string): Standing | null {
    const stop = this.stops.get(id);
    if (stop) return { ahead: null, stopPrice: stop.stopPrice, best: stop.best };
    const order = this.byId.get(id);
    return order ? { ahead: order.limit === null ? null : order.ahead, stopPrice: null, best: null } : null;
  }

  get restingCount(): number {
    return this.byId.size;
  }

  /** One event of the market: first what is displayed, then fills of resting orders, then triggers, then trailing stops move. */
  apply(event: MarketEvent): Iterable<BookEvent> {
    const first = !this.touched;
    this.touched = true;
    const before = this.state;
    if (event.event === 'state') this.state = event.state;
    else if (first) this.state = 'open';
    const opened = this.state === 'open' && before !== 'open';
    if (event.event === 'level') this.display(event.side, event.price, event.quantity);
    else if (event.event === 'trade') this.last = event.price;
    else if (event.event === 'price-limit') this.limits = { ...this.limits, [event.bound]: event.price };
    // Most events meet nobody: nothing more is made for them.
    if (this.state !== 'open' || (this.byId.size === 0 && this.stops.size === 0)) return NOTHING;
    if (!opened && this.stops.size === 0 && event.event === 'level' && (event.quantity === 0 || !this.meets(event.side, event.price))) return NOTHING;
    return this.follow(event, opened);
  }

  private *follow(event: MarketEvent, opened: boolean): Generator<BookEvent, void> {
    if (opened) yield* this.open();
    if (event.event === 'level' && event.quantity > 0) yield* this.meetLevel(event.side, event.price, this.displayedAt(event.side, event.price));
    if (event.event === 'trade') yield* this.applyTrade(event.side, event.price, event.quantity);
    if (this.stops.size === 0) return;
    const traded = event.event === 'trade' ? event.price : null;
    yield* this.trigger(traded);
    this.trailAfter({ last: traded, bid: this.best('bid'), ask: this.best('ask') });
  }

  /** True where a limit order would trade on arrival. */
  wouldTrade(side: Side, limit: Price): boolean {
    if (this.state !== 'open') return false;
    const best = this.best(opposite(side));
    return best !== null && this.reaches(side, limit, best) && this.inLimits(best);
  }

  /** A new order, or a changed one that comes anew. */
  submit(order: BookOrder): Iterable<BookEvent> {
    const resting = this.recordOf(order, ++this.arrivals, this.aheadAtArrival(order));
    if (!this.onlyRests(order)) return this.enter(resting);
    this.rest(resting);
    return NOTHING;
  }

  /** An order's record: one that was left, or a new one. */
  private recordOf(order: BookOrder, arrival: number, ahead: Quantity): Resting {
    const record = this.spare.pop() ?? blank();
    record.id = order.id;
    record.side = order.side;
    record.limit = order.limit;
    record.timeInForce = order.timeInForce;
    record.restOnly = order.restOnly;
    record.remaining = order.remaining;
    record.arrival = arrival;
    record.ahead = ahead;
    return record;
  }

  /** Whether an order will do nothing on arrival but wait. */
  private onlyRests({ side, limit, timeInForce }: BookOrder): boolean {
    if (timeInForce === 'ioc' || timeInForce === 'fok') return false;
    if (this.state !== 'open') return true;
    const first = this.best(opposite(side));
    return first === null || !this.reaches(side, limit, first);
  }

  /** A stop that waits from now on; one that trails begins at the present price of what it watches, unless it brings its best. */
  submitStop(order: StopOrder): void {
    this.stops.add({ ...this.trailed(order, order.best ?? this.watched(order.triggerOn)), arrival: ++this.arrivals });
    this.movedStops.add(order.id);
  }

  /** What a trail watches: the last trade, or the best price of a side. */
  watched(source: TriggerSource): Price | null {
    return source === 'last' ? this.last : this.best(source);
  }

  has(id: string): boolean {
    return this.byId.has(id) || this.stops.has(id);
  }

  isWaitingStop(id: string): boolean {
    return this.stops.has(id);
  }

  /** Lowers what remains of an order, which keeps its place. */
  lower(id: string, remaining: Quantity): void {
    const order = this.byId.get(id);
    const stop = order ? null : this.stops.get(id);
    if (order) this.note(order);
    else if (stop) this.movedStops.add(id);
    const lowered = order ?? stop;
    if (lowered) lowered.remaining = remaining;
  }

  remove(id: string): void {
    const order = this.byId.get(id);
    if (order) this.drop(order);
    else if (this.stops.has(id)) this.dropStop(id);
  }

  /** The places that changed since this was last asked; null for an order that is in the book no more. What left and came again may be told twice, alike. */
  takeMoved(): [id: string, place: SavedPlace | null][] {
    const taken = [...this.movedStops].map((id): [string, SavedPlace | null] => [id, this.placeOf(id)]);
    for (const order of this.moved) {
      taken.push([order.id, order.queued ? placeOf(order) : this.placeOf(order.id)]);
      order.noted = false;
      // Nobody walks a queue now, so that nobody stands at a record that is given away.
      if (!order.queued && this.spare.length < SPARE) this.spare.push(order);
    }
    this.moved = [];
    this.movedStops.clear();
    return taken;
  }

  /** All orders in the book, in the order they came. */
  places(): SavedPlace[] {
    const stops = this.stops.all().map((stop): SavedPlace => ({ ...stop }));
    return [...[...this.byId.values()].map(placeOf), ...stops].sort((a, b) => a.arrival - b.arrival);
  }

  private placeOf(id: string): SavedPlace | null {
    const order = this.byId.get(id);
    if (order) return placeOf(order);
    const stop = this.stops.get(id);
    return stop ? { ...stop } : null;
  }

  save(): SavedBook {
    const sides = (side: BookSide): [Price, Quantity][] => this.displayed[side].prices().map((price) => [price, this.displayedAt(side, price)]);
    return {
      state: this.state,
      touched: this.touched,
      arrivals: this.arrivals,
      last: this.last,
      limits: this.limits,
      bids: sides('bid'),
      asks: sides('ask'),
    };
  }

  /** @param places in any order */
  load(saved: SavedBook, places: readonly SavedPlace[]): void {
    this.state = saved.state;
    this.touched = saved.touched;
    this.arrivals = saved.arrivals;
    this.last = saved.last;
    this.limits = saved.limits;
    for (const [price, quantity] of saved.bids) this.displayed.bid.set(price, quantity);
    for (const [price, quantity] of saved.asks) this.displayed.ask.set(price, quantity);
    for (const place of [...places].sort((a, b) => a.arrival - b.arrival))
      if ('triggerOn' in place) this.stops.add({ ...place });
      else this.rest(this.recordOf(place, place.arrival, place.ahead));
    this.takeMoved();
  }

  private aheadAtArrival(order: BookOrder): Quantity {
    return order.limit === null ? NO_QUANTITY : this.displayedAt(own(order.side), order.limit);
  }

  private reaches(side: Side, limit: Price | null, price: Price): boolean {
    return limit === null || (side === 'buy' ? price <= limit : price >= limit);
  }

  private inLimits(price: Price): boolean {
    const { lower, upper } = this.limits;
    return (lower === null || price >= lower) && (upper === null || price <= upper);
  }

  /** What waited for the open and is marketable is matched in the order it came. */
  private *open(): Generator<BookEvent, void> {
    const waiting = [...this.byId.values()].sort((a, b) => a.arrival - b.arrival);
    for (const order of waiting) {
      if (!this.byId.has(order.id)) continue;
      if (order.restOnly && order.limit !== null && this.wouldTrade(order.side, order.limit)) {
        this.drop(order);
        yield { kind: 'canceled', id: order.id, reason: 'venue' };
      } else yield* this.take(order);
    }
  }

  private *enter(order: Resting): Generator<BookEvent, void> {
    const { timeInForce, id } = order;
    const immediate = timeInForce === 'ioc' || timeInForce === 'fok';
    if (immediate && (this.state !== 'open' || (timeInForce === 'fok' && !this.canFillWhole(order)))) {
      yield { kind: 'canceled', id, reason: timeInForce };
      return;
    }
    this.rest(order);
    if (this.state === 'open') yield* this.take(order);
    if (immediate && this.byId.has(id)) {
      this.drop(order);
      yield { kind: 'canceled', id, reason: timeInForce };
    }
  }

  private canFillWhole(order: Resting): boolean {
    const levels = this.displayed[opposite(order.side)];
    let available = 0;
    for (const price of levels.prices()) {
      if (available >= order.remaining || !this.reaches(order.side, order.limit, price)) break;
      if (this.inLimits(price)) available += levels.get(price) ?? NO_QUANTITY;
    }
    return available >= order.remaining;
  }

  /** Takes displayed levels, best first, one fill a level, as far as the limit reaches. */
  private *take(order: Resting): Generator<BookEvent, void> {
    const levels = this.displayed[opposite(order.side)];
    const first = levels.best();
    if (first === null || !this.reaches(order.side, order.limit, first)) return;
    for (const price of [...levels.prices()]) {
      if (!this.byId.has(order.id) || !this.reaches(order.side, order.limit, price)) return;
      if (!this.inLimits(price)) continue;
      const there = levels.get(price) ?? NO_QUANTITY;
      const quantity = leastQuantity(order.remaining, there);
      this.setLevel(levels, price, asQuantity(there - quantity));
      yield this.fill(order, price, quantity, 'removed');
    }
  }

  private setLevel(levels: PriceLevels<Quantity>, price: Price, quantity: Quantity): void {
    if (quantity > 0) levels.set(price, quantity);
    else levels.delete(price);
  }

  private fill(order: Resting, price: Price, quantity: Quantity, liquidity: 'added' | 'removed'): BookEvent {
    order.remaining = asQuantity(order.remaining - quantity);
    this.note(order);
    if (order.remaining === 0) this.drop(order);
    return { kind: 'filled', id: order.id, price, quantity, liquidity };
  }

  private note(order: Resting): void {
    if (order.noted) return;
    order.noted = true;
    this.moved.push(order);
  }

  private rest(order: Resting): void {
    this.byId.set(order.id, order);
    this.note(order);
    this.queues(order).push(order);
  }

  private queues(order: Resting): OrderQueues<Resting> {
    return (order.limit === null ? this.unpriced : this.resting)[order.side];
  }

  private dropStop(id: string): void {
    this.stops.remove(id);
    this.movedStops.add(id);
  }

  private drop(order: Resting): void {
    this.byId.delete(order.id);
    this.note(order);
    this.queues(order).remove(order);
  }

  private display(side: BookSide, price: Price, quantity: Quantity): void {
    this.setLevel(this.displayed[side], price, quantity);
    if (this.byId.size === 0) return;
    const behind = this.resting[side === 'bid' ? 'buy' : 'sell'];
    for (let order = behind.first(price); order; order = order.next) this.setAhead(order, leastQuantity(order.ahead, quantity));
  }

  private setAhead(order: Resting, ahead: Quantity): void {
    if (order.ahead === ahead) return;
    order.ahead = ahead;
    this.note(order);
  }

  /** Whether a displayed price reaches any own order. */
  private meets(side: BookSide, price: Price): boolean {
    const ours = side === 'ask' ? 'buy' : 'sell';
    const best = this.resting[ours].best();
    return !this.unpriced[ours].isEmpty || (best !== null && this.reaches(ours, best, price));
  }

  /** A new opposite level fills own orders at or through its price, together up to its quantity. */
  private *meetLevel(side: BookSide, price: Price, quantity: Quantity): Generator<BookEvent, void> {
    if (!this.inLimits(price) || !this.meets(side, price)) return;
    const ours = side === 'ask' ? 'buy' : 'sell';
    let left: number = quantity;
    const give = (order: Resting, at: Price): BookEvent => {
      const filled = leastQuantity(order.remaining, asQuantity(left));
      left -= filled;
      this.setLevel(this.displayed[side], price, asQuantity(left));
      return this.fill(order, at, filled, 'added');
    };
    for (const order of this.unpriced[ours].at()) if (left > 0) yield give(order, price);
    for (const order of this.reached(ours, (limit) => this.reaches(ours, limit, price))) {
      if (left <= 0) return;
      yield give(order, order.limit as Price);
    }
  }

  /** Own limit orders of a side whose price satisfies `reached`, best price first, then as they came. Prices outside the limits are passed over. */
  private *reached(side: Side, reached: (limit: Price) => boolean): Generator<Resting, void> {
    const levels = this.resting[side];
    const best = levels.best();
    if (best === null || !reached(best)) return;
    for (let price = levels.best(); price !== null && reached(price) && this.inLimits(price); price = levels.best()) {
      yield* levels.at(price);
      if (levels.best() === price) return;
    }
    const beyond = levels.best();
    if (beyond === null || this.inLimits(beyond)) return;
    for (const price of [...levels.prices()].filter((p) => reached(p) && this.inLimits(p))) yield* levels.at(price);
  }

  private *applyTrade(aggressor: Side, price: Price, quantity: Quantity): Generator<BookEvent, void> {
    const passive = aggressor === 'buy' ? 'sell' : 'buy';
    let used = 0;
    if (this.inLimits(price))
      for (const order of this.unpriced[passive].at()) {
        const filled = Math.min(order.remaining, quantity - used);
        if (filled <= 0) break;
        used += filled;
        yield this.fill(order, price, asQuantity(filled), 'added');
      }
    if ((this.resting.buy.best() ?? price) > price)
      for (const order of this.reached('buy', (limit) => limit > price)) yield this.fill(order, order.limit as Price, order.remaining, 'added');
    if ((this.resting.sell.best() ?? price) < price)
      for (const order of this.reached('sell', (limit) => limit < price)) yield this.fill(order, order.limit as Price, order.remaining, 'added');
    if (!this.inLimits(price)) return;
    for (const order of this.resting[passive].at(price)) {
      const reaching = quantity - used;
      const filled = Math.min(order.remaining, Math.max(0, reaching - order.ahead));
      this.setAhead(order, asQuantity(Math.max(0, order.ahead - reaching)));
      used += filled;
      if (filled > 0) yield this.fill(order, price, asQuantity(filled), 'added');
    }
  }

  private *trigger(traded: Price | null): Generator<BookEvent, void> {
    const due = this.stops.due({ last: traded, bid: this.best('bid'), ask: this.best('ask') });
    for (const { id } of due) {
      const stop = this.stops.get(id);
      if (!stop) continue;
      this.dropStop(id);
      yield { kind: 'triggered', id, stopPrice: stop.stopPrice as Price };
      yield* this.submit(stopped(stop));
    }
  }

  /** Trailing stops follow prices that are better than the best they saw. */
  private trailAfter(seen: Readonly<Record<TriggerSource, Price | null>>): void {
    for (const stop of this.stops.following()) {
      const price = seen[stop.triggerOn];
      if (price === null || (stop.best !== null && (stop.side === 'sell' ? price <= stop.best : price >= stop.best))) continue;
      const moved = this.trailed(stop, price);
      if (moved.stopPrice === stop.stopPrice) this.stops.update(moved);
      else this.stops.move(moved);
      this.movedStops.add(stop.id);
    }
  }

  private trailed<S extends StopOrder>(stop: S, best: Price | null): S {
    if (stop.trail === null || best === null) return stop;
    return { ...stop, best, stopPrice: tighter(stop.side, stop.stopPrice, trailedStop(this.instrument, stop.side, stop.trail, best)) };
  }
}

const blank = (): Resting => ({
  id: '',
  side: 'buy',
  limit: null,
  timeInForce: 'day',
  restOnly: false,
  remaining: NO_QUANTITY,
  arrival: 0,
  ahead: NO_QUANTITY,
  noted: false,
  queued: false,
  previous: null,
  next: null,
});

/** An order's place without the links of its queue; field by field: a spread costs several times as much. */
const placeOf = (order: Resting): RestingPlace => ({
  id: order.id,
  side: order.side,
  limit: order.limit,
  timeInForce: order.timeInForce,
  restOnly: order.restOnly,
  remaining: order.remaining,
  arrival: order.arrival,
  ahead: order.ahead,
});

/** What a stop becomes: a market order, or a limit order at its limit. */
function stopped(stop: WaitingStop): BookOrder {
  const { id, side, limit, timeInForce, remaining } = stop;
  return { id, side, limit, timeInForce, remaining, restOnly: false };
}
