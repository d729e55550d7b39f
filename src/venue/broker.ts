import { formatPrice, venueOrderTypes, type Instrument, type Price, type Quantity, type VenueId } from '../core/instrument/index.ts';
import { dayStart, expiryTime, gtcEnd, nextTradingDay, tradingDay, type BookOwner, type MarketEvent } from '../core/market/index.ts';
import {
  applyReport,
  isFinished,
  remainingQuantity,
  requestedOrder,
  restOnlyProblem,
  stopProblem,
  type Order,
  type OrderReport,
  type OrderTerms,
  type ReasonCode,
} from '../core/orders/index.ts';
import {
  bookDayTurn,
  bookFill,
  bookSettlement,
  commissionOf,
  openAccount,
  positionOf,
  valueAt,
  worthAtExpiry,
  type AccountBook,
  type AccountTerms,
  type FinalPrice,
} from '../core/portfolio/index.ts';
import type { Listing } from './listing.ts';
import type { BrokerCommand, BrokerReport, KnownOrder } from './messages.ts';

/** What the broker keeps of an order besides the order itself. */
export interface HeldOrder {
  order: Order;
  /** Requests already answered; the same one again changes nothing. */
  handled: string[];
  /** When it ends by itself, in market time; null for ioc and fok. */
  endsAt: number | null;
}

/** Where the broker finds the market: a listing is made, or woken, when it is first needed. */
export interface Floor {
  listing(instrument: string): Listing;
}

/**
 * The stand-in broker: its customers' accounts and orders, worked in the venues' books. A plain state machine:
 * time comes with each call, and everything it has to say goes to `report`.
 */
export class Broker {
  readonly orders = new Map<string, HeldOrder>();
  readonly books = new Map<string, AccountBook>();
  /** Orders and accounts that changed since they were last saved. */
  readonly changedOrders = new Set<string>();
  readonly changedAccounts = new Set<string>();
  seq = 0;
  private readonly terms = new Map<string, AccountTerms>();
  private readonly instruments: ReadonlyMap<string, Instrument>;
  private readonly floor: Floor;
  private readonly report: (report: BrokerReport) => void;
  private readonly working = new Map<string, Set<string>>();
  /** Working orders whose limit follows the best opposite price. */
  private readonly pegged = new Set<string>();
  private nextEnd: number | null | undefined;
  private time = 0;

  constructor(instruments: ReadonlyMap<string, Instrument>, accounts: readonly AccountTerms[], floor: Floor, report: (report: BrokerReport) => void) {
    this.instruments = instruments;
    this.floor = floor;
    this.report = report;
    for (const account of accounts) {
      this.terms.set(account.id, account);
      this.books.set(account.id, openAccount(account));
    }
  }

  /** The owner that each listing's book reports to. */
  readonly owner: BookOwner = {
    filled: (id, price, quantity, liquidity) => this.filled(id, price, quantity, liquidity),
    canceled: (id, reason) =>
      this.say(id, {
        kind: 'canceled',
        requestId: null,
        reasonCode: reason,
        reason: reason === 'venue' ? 'It would have traded at the open and was asked only to rest.' : null,
      }),
    triggered: (id) => this.say(id, { kind: 'triggered' }),
  };

  load(orders: readonly HeldOrder[], books: readonly AccountBook[], seq: number): void {
    for (const held of orders) {
      this.orders.set(held.order.id, held);
      if (isFinished(held.order)) continue;
      this.workingIn(held.order.instrument).add(held.order.id);
      if (held.order.pegged) this.pegged.add(held.order.id);
    }
    for (const book of books) this.books.set(book.account, book);
    this.seq = seq;
  }

  /** Makes a book that was stored a moment earlier agree with the orders, which are stored with every report. */
  mend(listing: Listing): void {
    const { resting, stops } = listing.book.save();
    for (const { id, remaining } of [...resting, ...stops]) {
      const order = this.orders.get(id)?.order;
      if (!order || isFinished(order) || (order.triggeredAt !== null && listing.book.isWaitingStop(id))) listing.book.remove(id);
      else if (remainingQuantity(order) !== remaining) listing.book.lower(id, remainingQuantity(order));
    }
    for (const id of this.workingIn(listing.instrument.id)) {
      const held = this.orders.get(id);
      if (!held || listing.book.has(id)) continue;
      if (held.order.pegged) this.follow(held, listing);
      else this.enter(held.order, listing);
    }
  }

  /** Closes intraday positions at a venue: market orders of the broker's own, or limits at the best opposite price. */
  closeIntraday(venue: VenueId, time: number): void {
    this.time = time;
    for (const [account, book] of this.books)
      for (const position of Object.values(book.positions)) {
        const instrument = this.instrument(position.instrument);
        if (instrument.venue === venue && position.product === 'intraday' && position.quantity !== 0) this.openClosing(account, instrument, position.quantity);
      }
  }

  private openClosing(account: string, instrument: Instrument, quantity: Quantity): void {
    const listing = this.floor.listing(instrument.id);
    const side = quantity > 0 ? 'sell' : 'buy';
    const market = venueOrderTypes(instrument.venue, instrument.kind).includes('market');
    const limitPrice = market ? null : listing.book.best(side === 'sell' ? 'bid' : 'ask');
    const id = `${account}-b${this.seq + 1}`;
    const order = {
      ...requestedOrder(
        {
          id,
          clientOrderId: `broker-${id}`,
          account,
          instrument: instrument.id,
          side,
          heldBy: 'venue',
          product: 'intraday',
          reduceOnly: true,
          crossesZero: false,
          setup: null,
          role: 'close',
          opening: false,
          pegged: !market,
          createdAt: this.time,
          fingerprint: id,
        },
        {
          type: market ? 'market' : 'limit',
          quantity: Math.abs(quantity),
          limitPrice,
          limitOffsetTicks: null,
          stopPrice: null,
          triggerOn: 'last',
          timeInForce: 'day',
          expiresAt: null,
          restOnly: false,
        },
      ),
      reasonCode: 'intraday-end' as const,
    };
    this.report({ seq: ++this.seq, time: this.time, kind: 'opened', account, orderId: id, order });
    this.accept(order);
  }

  known(): KnownOrder[] {
    return [...this.orders.values()].map(({ order, handled }) => ({ id: order.id, handled, finished: isFinished(order) }));
  }

  /** Instruments that must have a market because an order works or a position is open there. */
  needed(): Set<string> {
    const found = new Set<string>();
    for (const [instrument, ids] of this.working) if (ids.size > 0) found.add(instrument);
    for (const book of this.books.values()) for (const position of Object.values(book.positions)) if (position.quantity !== 0) found.add(position.instrument);
    return found;
  }

  handle(command: BrokerCommand, time: number): void {
    this.time = time;
    switch (command.kind) {
      case 'new':
        this.accept(command.order);
        break;
      case 'replace':
        this.replace(command.orderId, command.requestId, command.terms);
        break;
      case 'cancel':
        this.cancel(command.orderId, command.requestId, command.reasonCode);
        break;
      default:
        command satisfies never;
    }
  }

  /** One event of an instrument's market, with all that follows from it here. */
  market(listing: Listing, event: MarketEvent, time: number): void {
    this.time = time;
    listing.apply(time, event);
    if (event.event === 'state' && event.state === 'closed') this.endDayOrders(listing);
    this.followBest(listing);
  }

  /** When the next working order or position ends by itself. */
  nextExpiry(): number | null {
    if (this.nextEnd === undefined) {
      this.nextEnd = null;
      for (const ids of this.working.values()) for (const id of ids) this.endsNoLaterThan(this.orders.get(id)?.endsAt ?? null);
      for (const book of this.books.values())
        for (const { instrument, quantity } of Object.values(book.positions)) if (quantity !== 0) this.endsNoLaterThan(expiryTime(this.instrument(instrument)));
    }
    return this.nextEnd;
  }

  private endsNoLaterThan(time: number | null): void {
    if (time !== null && (this.nextEnd === null || this.nextEnd === undefined || time < this.nextEnd)) this.nextEnd = time;
  }

  expire(time: number): void {
    this.time = time;
    for (const ids of [...this.working.values()])
      for (const id of [...ids]) {
        const held = this.orders.get(id);
        if (held && held.endsAt !== null && held.endsAt <= time) this.endByTime(held);
      }
    for (const book of this.books.values())
      for (const { instrument, quantity } of Object.values(book.positions))
        if (quantity !== 0 && (expiryTime(this.instrument(instrument)) ?? Infinity) <= time) this.settle(book.account, this.instrument(instrument));
  }

  /** Settles a position whose instrument has ended, in cash, at the final price of its underlying. */
  private settle(account: string, instrument: Instrument): void {
    const final = this.finalPrice(instrument);
    const book = this.books.get(account) as AccountBook;
    const worth = worthAtExpiry(instrument, positionOf(book, instrument.id), final);
    this.books.set(account, bookSettlement(book, instrument, worth, this.time).book);
    this.changedAccounts.add(account);
    this.nextEnd = undefined;
    const basis = final ? `at ${formatPrice(final.instrument, final.price)} of ${final.instrument.id}` : 'at its cost, for want of a price';
    this.report({ seq: ++this.seq, time: this.time, kind: 'settled', account, instrument: instrument.id, worth, basis });
  }

  private finalPrice(instrument: Instrument): FinalPrice | null {
    const of = instrument.underlying === null ? instrument : this.instrument(instrument.underlying);
    const price = this.floor.listing(of.id).settlementNow();
    return price === null ? null : { instrument: of, price };
  }

  turnDay(venue: VenueId, time: number): void {
    this.time = time;
    const held = new Set<string>();
    for (const book of this.books.values()) for (const id of Object.keys(book.positions)) if (this.instrument(id).venue === venue) held.add(id);
    const settlements = [...held].sort().map((id) => ({ instrument: id, price: this.floor.listing(id).previousSettlement }));
    this.books.forEach((book, account) => {
      this.books.set(
        account,
        bookDayTurn(
          book,
          time,
          settlements.map((s) => ({ instrument: this.instrument(s.instrument), settlement: s.price })),
        ),
      );
      this.changedAccounts.add(account);
    });
    this.report({ seq: ++this.seq, time, kind: 'day-turn', venue, day: tradingDay(venue, time), settlements });
  }

  private instrument(id: string): Instrument {
    const found = this.instruments.get(id);
    if (!found) throw new Error(`unknown instrument ${id}`);
    return found;
  }

  private workingIn(instrument: string): Set<string> {
    let ids = this.working.get(instrument);
    if (!ids) this.working.set(instrument, (ids = new Set()));
    return ids;
  }

  private say(id: string, report: OrderReport): Order {
    const held = this.orders.get(id);
    if (!held) throw new Error(`unknown order ${id}`);
    held.order = applyReport(held.order, report, this.time);
    this.changedOrders.add(id);
    if (isFinished(held.order)) {
      this.workingIn(held.order.instrument).delete(id);
      this.nextEnd = undefined;
    }
    this.report({ seq: ++this.seq, time: this.time, kind: 'order', account: held.order.account, orderId: id, report });
    return held.order;
  }

  private accept(order: Order): void {
    if (this.orders.has(order.id)) return;
    const instrument = this.instrument(order.instrument);
    const listing = this.floor.listing(order.instrument);
    const held: HeldOrder = { order: { ...order, acknowledged: 'pending' }, handled: [], endsAt: null };
    this.orders.set(order.id, held);
    const problem = this.problemWith(order, order, instrument, listing);
    if (problem !== null) {
      this.say(order.id, { kind: 'rejected', reason: problem });
      return;
    }
    held.endsAt = this.endWithin(order, listing);
    this.workingIn(order.instrument).add(order.id);
    this.nextEnd = undefined;
    this.say(order.id, { kind: 'new' });
    if (order.reduceOnly && !this.cutToPosition(held)) return;
    if (order.pegged) this.follow(held, listing);
    else this.enter(held.order, listing);
  }

  /** Moves the pegged orders of an instrument to its best opposite price, as long as that fills them. */
  private followBest(listing: Listing): void {
    for (const id of [...this.pegged]) {
      const held = this.orders.get(id);
      if (!held || isFinished(held.order)) this.pegged.delete(id);
      else if (held.order.instrument === listing.instrument.id) this.follow(held, listing);
    }
  }

  private follow(held: HeldOrder, listing: Listing): void {
    const { book } = listing;
    const { id, side } = held.order;
    this.pegged.add(id);
    for (;;) {
      const best = book.best(side === 'sell' ? 'bid' : 'ask');
      if (isFinished(held.order)) return;
      if (best === null) {
        if (held.order.limitPrice !== null && !book.has(id)) this.enter(held.order, listing);
        return;
      }
      const moves = best !== held.order.limitPrice && (held.order.limitPrice === null || book.state === 'open');
      if (!moves && book.has(id)) return;
      book.remove(id);
      if (moves) this.say(id, { kind: 'repriced', limitPrice: best });
      this.enter(held.order, listing);
    }
  }

  /** Why the venue does not take these terms, or null. */
  private problemWith(order: Order, terms: OrderTerms, instrument: Instrument, listing: Listing): string | null {
    const { book } = listing;
    for (const price of [terms.limitPrice, terms.stopPrice])
      if (price !== null && ((book.limits.lower !== null && price < book.limits.lower) || (book.limits.upper !== null && price > book.limits.upper)))
        return `${formatPrice(instrument, price)} is outside the day's price limits.`;
    const view = { state: book.state, bid: book.best('bid'), ask: book.best('ask'), last: book.last, priceLimits: book.limits };
    const waits = order.triggeredAt === null;
    const refusal = (waits ? stopProblem(terms, order.side, instrument, view) : null) ?? restOnlyProblem(terms, order.side, instrument, view);
    return refusal?.kind === 'validation' ? (refusal.errors[0]?.message ?? 'refused') : null;
  }

  /** No order outlives its instrument. */
  private endWithin(order: Pick<Order, 'timeInForce' | 'expiresAt'>, listing: Listing): number | null {
    const end = this.endOf(order, listing);
    const last = expiryTime(listing.instrument);
    return end === null || last === null ? end : Math.min(end, last);
  }

  private endOf(order: Pick<Order, 'timeInForce' | 'expiresAt'>, listing: Listing): number | null {
    const { venue } = listing.instrument;
    switch (order.timeInForce) {
      case 'day': {
        const over = listing.openedToday && listing.book.state === 'closed';
        const day = tradingDay(venue, this.time);
        return dayStart(venue, nextTradingDay(venue, over ? nextTradingDay(venue, day) : day));
      }
      case 'gtc':
        return gtcEnd(venue, this.time);
      case 'gtd':
        return order.expiresAt;
      case 'ioc':
      case 'fok':
        return null;
      default:
        return order.timeInForce satisfies never;
    }
  }

  private enter(order: Order, listing: Listing): void {
    const entry = {
      id: order.id,
      side: order.side,
      limit: order.limitPrice,
      timeInForce: order.timeInForce,
      restOnly: order.restOnly,
      remaining: remainingQuantity(order),
    };
    if (order.stopPrice !== null && order.triggeredAt === null) listing.book.submitStop({ ...entry, stopPrice: order.stopPrice, triggerOn: order.triggerOn });
    else listing.book.submit(entry);
  }

  private filled(id: string, price: Price, quantity: Quantity, liquidity: 'added' | 'removed'): void {
    const held = this.orders.get(id);
    if (!held) throw new Error(`filled an unknown order ${id}`);
    const { order } = held;
    const instrument = this.instrument(order.instrument);
    const value = valueAt(instrument, quantity, price);
    const fee = this.feeOf(order, instrument, quantity, value);
    const book = this.books.get(order.account);
    if (!book) throw new Error(`unknown account ${order.account}`);
    const before = positionOf(book, order.instrument).quantity;
    const booked = bookFill(book, instrument, { side: order.side, price, quantity, fee, product: order.product, time: this.time });
    this.books.set(order.account, booked.book);
    this.changedAccounts.add(order.account);
    const fillId = `${id}-${this.seq + 1}`;
    this.say(id, { kind: 'trade', fillId, price, quantity, value, fee, liquidity });
    const after = positionOf(booked.book, order.instrument).quantity;
    const shrank = Math.abs(after) < Math.abs(before) || Math.sign(after) !== Math.sign(before);
    if (instrument.expiry !== null) this.nextEnd = undefined;
    if (shrank && before !== 0) this.cutReducing(order.account, order.instrument);
  }

  private feeOf(order: Order, instrument: Instrument, quantity: Quantity, value: bigint): bigint {
    const line = this.terms.get(order.account)?.commission.find((one) => one.kind === instrument.kind);
    if (!line) return 0n;
    return commissionOf(line, instrument, order.filledQuantity + quantity, order.filledValue + value) - order.fees;
  }

  private cutReducing(account: string, instrument: string): void {
    for (const id of [...this.workingIn(instrument)]) {
      const held = this.orders.get(id);
      if (held && held.order.account === account && held.order.reduceOnly) this.cutToPosition(held);
    }
  }

  /** Cuts a reducing order to the position; false where nothing of it is left. */
  private cutToPosition(held: HeldOrder): boolean {
    const { order } = held;
    const book = this.books.get(order.account);
    const position = book ? positionOf(book, order.instrument).quantity : 0;
    const reducible = order.side === 'sell' ? Math.max(0, position) : Math.max(0, -position);
    const listing = this.floor.listing(order.instrument);
    const remaining = remainingQuantity(order);
    if (remaining <= reducible) return remaining > 0;
    if (reducible === 0) {
      listing.book.remove(order.id);
      this.say(order.id, { kind: 'canceled', requestId: null, reasonCode: 'flat', reason: 'The position is flat.' });
      return false;
    }
    listing.book.lower(order.id, reducible);
    this.say(order.id, { kind: 'restated', quantity: order.filledQuantity + reducible, reasonCode: 'reduced' });
    return true;
  }

  private replace(id: string, requestId: string, terms: OrderTerms): void {
    const held = this.orders.get(id);
    if (!held || held.handled.includes(requestId)) return;
    held.handled.push(requestId);
    const { order } = held;
    if (isFinished(order)) {
      this.say(id, { kind: 'cancel-rejected', requestId, reason: 'Too late: the order is done.' });
      return;
    }
    const instrument = this.instrument(order.instrument);
    const listing = this.floor.listing(order.instrument);
    if (terms.quantity <= order.filledQuantity) {
      listing.book.remove(id);
      this.say(id, { kind: 'replaced', requestId, terms: { ...terms, quantity: order.filledQuantity } });
      return;
    }
    const moved =
      terms.type !== order.type || terms.limitPrice !== order.limitPrice || terms.stopPrice !== order.stopPrice || terms.triggerOn !== order.triggerOn;
    const rests = terms.restOnly && !order.restOnly;
    const problem = moved || rests ? this.problemWith(order, terms, instrument, listing) : null;
    if (problem !== null) {
      this.say(id, { kind: 'cancel-rejected', requestId, reason: problem });
      return;
    }
    const keeps = !moved && terms.quantity <= order.quantity && terms.timeInForce === order.timeInForce && terms.restOnly === order.restOnly;
    const after = this.say(id, { kind: 'replaced', requestId, terms });
    if (terms.timeInForce !== order.timeInForce || terms.expiresAt !== order.expiresAt) held.endsAt = this.endWithin(terms, listing);
    this.nextEnd = undefined;
    if (keeps) {
      listing.book.lower(id, remainingQuantity(after));
      return;
    }
    listing.book.remove(id);
    if (after.reduceOnly && !this.cutToPosition(held)) return;
    this.enter(held.order, listing);
  }

  private cancel(id: string, requestId: string, reasonCode: ReasonCode): void {
    const held = this.orders.get(id);
    if (!held || held.handled.includes(requestId)) return;
    held.handled.push(requestId);
    if (isFinished(held.order)) {
      this.say(id, { kind: 'cancel-rejected', requestId, reason: 'Too late: the order is done.' });
      return;
    }
    this.floor.listing(held.order.instrument).book.remove(id);
    this.say(id, { kind: 'canceled', requestId, reasonCode, reason: null });
  }

  private endDayOrders(listing: Listing): void {
    const over = dayStart(listing.instrument.venue, nextTradingDay(listing.instrument.venue, tradingDay(listing.instrument.venue, this.time)));
    for (const id of [...this.workingIn(listing.instrument.id)]) {
      const held = this.orders.get(id);
      if (held && held.order.timeInForce === 'day' && held.endsAt !== null && held.endsAt <= over) this.endByTime(held);
    }
  }

  private endByTime(held: HeldOrder): void {
    const { id, instrument, timeInForce } = held.order;
    this.floor.listing(instrument).book.remove(id);
    this.say(id, { kind: 'expired', reasonCode: timeInForce === 'gtc' ? 'gtc' : timeInForce === 'gtd' ? 'gtd' : 'day-end' });
  }
}
