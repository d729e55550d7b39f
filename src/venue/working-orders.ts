import { asQuantity, type Instrument, type Price, type Quantity } from '../core/instrument/index.ts';
import { dayStart, expiryTime, nextTradingDay, tradingDay, type BookEvent, type MarketEvent } from '../core/market/index.ts';
import type { BrokerCommand, KnownOrder } from '../core/desk/index.ts';
import {
  applyReport,
  completeOrder,
  isFinished,
  layOver,
  refusalText,
  remainingQuantity,
  standingAt,
  type Order,
  type OrderChange,
  type OrderReport,
  type OrderTerms,
  type ReasonCode,
} from '../core/orders/index.ts';
import { NO_MONEY, type Money } from '../core/number/index.ts';
import { bookFill, positionOf, reducibleBy, valueAt, type AccountBook } from '../core/portfolio/index.ts';
import { endWithin, entryOf, problemWith, sameEntry } from './at-venue.ts';
import type { Customers } from './customers.ts';
import type { HeldOrder } from './held.ts';
import type { Listing } from './listing.ts';
import { OrderGroups, whyNotAGroup } from './order-groups.ts';
import { OrderIndex, type EndingPosition } from './order-index.ts';

/** Where the broker finds the market: a listing is made, or woken, when it is first needed. */
export interface Floor {
  listing(instrument: string): Listing;
}

/**
 * The orders that the broker works in the venues' books, and what each fill, trigger and end does to the others: to
 * those of its group, to what reduces the same position, to what follows the market. What the books say is worked off
 * until they are quiet, and all of it is said to the customers.
 */
export class WorkingOrders {
  readonly all = new Map<string, HeldOrder>();
  /** Orders that changed since they were last saved; one that is there no more is to be dropped. */
  readonly changed = new Set<string>();
  private readonly customers: Customers;
  private readonly instrument: (id: string) => Instrument;
  private readonly floor: Floor;
  private readonly index = new OrderIndex();
  private readonly groups: OrderGroups;

  constructor(customers: Customers, instrument: (id: string) => Instrument, floor: Floor) {
    this.customers = customers;
    this.instrument = instrument;
    this.floor = floor;
    this.groups = new OrderGroups({
      ofGroup: (group) => this.index.ofGroup(group).flatMap((id) => this.all.get(id) ?? []),
      leave: (held, remaining) => this.leave(held, remaining),
    });
  }

  private get time(): number {
    return this.customers.time;
  }

  load(orders: readonly HeldOrder[]): void {
    for (const held of orders) {
      held.order = completeOrder(held.order);
      this.keep(held);
      if (!isFinished(held.order)) this.index.add(held.order, held.endsAt);
    }
  }

  /** Makes a book that was stored a moment earlier agree with the orders, which are stored with every report. */
  mend(listing: Listing): void {
    const { book, instrument } = listing;
    for (const there of book.places()) {
      const order = this.all.get(there.id)?.order;
      if (!order || isFinished(order)) book.remove(there.id);
      else if (!sameEntry(there, entryOf(order, instrument))) book.remove(there.id);
      else if (remainingQuantity(order) !== there.remaining) book.lower(there.id, remainingQuantity(order));
    }
    for (const id of this.in(instrument.id)) {
      const held = this.all.get(id);
      if (!held || book.has(id)) continue;
      if (held.order.terms.type === 'following') this.follow(held, listing);
      else this.enter(held, listing);
    }
  }

  /** An account's orders, as they stand. */
  of(account: string): KnownOrder[] {
    return [...this.all.values()]
      .filter(({ order }) => order.account === account)
      .map((held) => ({ order: this.asItStands(held), handled: [...held.handled] }));
  }

  /** Where an order stands in its book just now. */
  standing(id: string): { id: string; ahead: Quantity | null; price: Price | null } {
    const held = this.all.get(id);
    if (!held || isFinished(held.order)) return { id, ahead: null, price: null };
    const ahead = this.floor.listing(held.order.instrument).book.standing(id)?.ahead ?? null;
    return { id, ahead, price: this.standingPrice(held) };
  }

  /** Forgets an account's orders that were done by this report. */
  forget(account: string, seq: number): void {
    for (const [id, { order, lastSeq }] of this.all)
      if (order.account === account && lastSeq <= seq && isFinished(order)) {
        this.all.delete(id);
        if (order.group) this.index.leave(order.group.id, id);
        this.changed.add(id);
      }
  }

  /** Instruments in which an order works. */
  instruments(): Iterable<string> {
    return this.index.instruments();
  }

  /** The ids of the orders that work in an instrument. */
  in(instrument: string): ReadonlySet<string> {
    return this.index.in(instrument);
  }

  /** Takes new orders, all or none, and only then lets each meet the market: those of a group know one another by then. */
  accept(orders: readonly Order[]): void {
    const lefts = orders.map(({ group }) => (group ? this.groups.leftIn(group) : null));
    const all = orders.map((order): HeldOrder => ({ order: { ...order, acknowledged: 'pending' }, handled: [], endsAt: null, lastSeq: 0, told: null }));
    const problems = all.map(({ order }) => problemWith(order, order.terms, this.floor.listing(order.instrument)));
    const first = problems.find((problem) => problem !== null) ?? null;
    for (const [i, held] of all.entries()) {
      this.keep(held);
      if (first !== null)
        this.sayOf(held, { kind: 'rejected', reason: problems[i] ?? `Another order of its group was refused: ${first}`, reasonCode: 'venue' });
    }
    if (first !== null) return;
    for (const held of all) {
      held.endsAt = endWithin(held.order.terms, this.floor.listing(held.order.instrument), this.time);
      this.index.add(held.order, held.endsAt);
      this.sayOf(held, { kind: 'new' });
    }
    for (const [i, held] of all.entries()) {
      const left = lefts[i] ?? null;
      if (left !== null && left < remainingQuantity(held.order)) this.leave(held, left);
      if (isFinished(held.order) || (held.order.reduceOnly && !this.cutToPosition(held))) continue;
      const listing = this.floor.listing(held.order.instrument);
      if (held.order.terms.type === 'following') this.follow(held, listing);
      else this.enter(held, listing);
    }
  }

  /** An order that is filled as it comes, outside the market and without fee: shares of a new issue. */
  deliver(order: Order, price: Price): void {
    const held: HeldOrder = { order, handled: [], endsAt: null, lastSeq: 0, told: null };
    this.keep(held);
    this.sayOf(held, { kind: 'new' });
    this.filled(held, price, order.terms.quantity, 'added', NO_MONEY);
  }

  /** Makes working orders a group, unless a fill or a cancel came first. */
  link({ account, requestId, group, orderIds }: BrokerCommand & { readonly kind: 'link' }): void {
    const members = orderIds.flatMap((id) => this.all.get(id) ?? []);
    if (members.some(({ handled }) => handled.includes(requestId))) return;
    for (const held of members) {
      held.handled.push(requestId);
      this.changed.add(held.order.id);
    }
    const reason = whyNotAGroup(orderIds.length, members);
    if (reason !== null) return void this.customers.say(account, { kind: 'link-refused', requestId, groupId: group.id, reason });
    for (const held of members) {
      this.sayOf(held, { kind: 'linked', group });
      this.index.join(group.id, held.order.id);
    }
  }

  /** A change as it comes: laid over the order as it is now. */
  replace(account: string, id: string, requestId: string, change: OrderChange): void {
    const held = this.requested(account, id, requestId);
    if (!held) return;
    const refuse = (reason: string): void => void this.sayOf(held, { kind: 'cancel-rejected', requestId, reason });
    const { order } = held;
    const laid = layOver(this.asItStands(held).terms, change);
    if (!laid.ok) return refuse(refusalText(laid.refusal));
    const instrument = this.instrument(order.instrument);
    const listing = this.floor.listing(order.instrument);
    const { book } = listing;
    const terms = laid.value;
    if (terms.quantity <= order.filledQuantity) {
      this.sayOf(held, { kind: 'replaced', requestId, terms: { ...terms, quantity: order.filledQuantity } });
      book.remove(id);
      this.groups.evenOut(held);
      return;
    }
    const before = entryOf(order, instrument);
    const after = entryOf({ ...order, terms }, instrument);
    const moved = !sameEntry(before, after) || change.stop !== undefined || change.trail !== undefined;
    const problem = moved ? problemWith(order, terms, listing) : null;
    if (problem !== null) return refuse(problem);
    const keeps = !moved && terms.quantity <= order.terms.quantity;
    const trailed = order.terms.type === 'trailing-stop' && terms.type === 'trailing-stop' && order.terms.triggerOn === terms.triggerOn;
    const best = trailed ? (book.standing(id)?.best ?? null) : null;
    if (keeps) {
      this.reindex(held, listing, terms, requestId);
      book.lower(id, remainingQuantity(held.order));
      this.groups.evenOut(held);
      return;
    }
    book.remove(id);
    this.reindex(held, listing, terms, requestId);
    this.groups.evenOut(held);
    if (held.order.reduceOnly && !this.cutToPosition(held)) return;
    this.enter(held, listing, best);
  }

  cancel(account: string, id: string, requestId: string, reasonCode: ReasonCode): void {
    const held = this.requested(account, id, requestId);
    if (!held) return;
    this.sayOf(held, { kind: 'canceled', requestId, reasonCode, reason: null });
    this.floor.listing(held.order.instrument).book.remove(id);
  }

  /** One event of an instrument's market, with all that follows from it here. */
  market(listing: Listing, event: MarketEvent): void {
    this.work(listing.apply(this.time, event));
    if (event.event === 'state' && event.state === 'closed') this.endDayOrders(listing);
    for (const id of this.index.followingIn(listing.instrument.id)) {
      const held = this.all.get(id);
      if (held) this.follow(held, listing);
    }
  }

  /** When the next working order or position ends by itself. */
  nextEnd(): number | null {
    return this.index.nextEnd();
  }

  /** Ends the orders that end first, if that is by now, and gives the positions that end with them; null where none are due. */
  endDue(): EndingPosition[] | null {
    const due = this.index.takeEnding(this.time);
    // Orders first: they end with their instrument, before its position is settled.
    for (const one of due ?? []) {
      const held = typeof one === 'string' ? this.all.get(one) : undefined;
      if (held && !isFinished(held.order)) this.endByTime(held);
    }
    return due && due.filter((one) => typeof one === 'object');
  }

  /** A position that is open ends with its instrument. */
  watchExpiry(book: AccountBook, instrument: Instrument): void {
    const expiry = expiryTime(instrument);
    if (expiry !== null && positionOf(book, instrument.id).quantity !== 0) this.index.watch({ account: book.account, instrument: instrument.id }, expiry);
  }

  /** Says something of an order, and where it stands by now. */
  private sayOf(held: HeldOrder, about: OrderReport): Order {
    const standing = this.standingPrice(held);
    const report = standing !== null && standing !== held.told ? { ...about, standing } : about;
    held.told = standing;
    held.order = applyReport(held.order, report, this.time);
    this.changed.add(held.order.id);
    if (isFinished(held.order)) this.index.remove(held.order, held.endsAt);
    held.lastSeq = this.customers.say(held.order.account, { kind: 'order', orderId: held.order.id, report });
    return held.order;
  }

  /** Where a following or trailing order stands; null for all others. */
  private standingPrice({ order }: HeldOrder): Price | null {
    const { terms, id } = order;
    if (terms.type === 'following') return terms.limit;
    if (terms.type !== 'trailing-stop' || order.triggeredAt !== null) return null;
    return this.floor.listing(order.instrument).book.standing(id)?.stopPrice ?? terms.stop;
  }

  private asItStands(held: HeldOrder): Order {
    const price = isFinished(held.order) ? null : this.standingPrice(held);
    return price === null ? held.order : { ...held.order, terms: standingAt(held.order.terms, price) };
  }

  /** Works off what a book says, one thing after the other, until it is quiet. */
  private work(happened: Iterable<BookEvent>): void {
    for (const event of happened) {
      const held = this.all.get(event.id);
      if (!held) throw new Error(`the book tells of an unknown order ${event.id}`);
      switch (event.kind) {
        case 'filled':
          this.filled(held, event.price, event.quantity, event.liquidity);
          break;
        case 'canceled': {
          const reason = event.reason === 'venue' ? 'It would have traded at the open and was asked only to rest.' : null;
          this.sayOf(held, { kind: 'canceled', requestId: null, reasonCode: event.reason, reason });
          break;
        }
        case 'triggered':
          held.order = { ...held.order, terms: standingAt(held.order.terms, event.stopPrice) };
          this.sayOf(held, { kind: 'triggered' });
          break;
        default:
          event satisfies never;
      }
    }
  }

  private keep(held: HeldOrder): void {
    const { id, group } = held.order;
    this.all.set(id, held);
    if (group) this.index.join(group.id, id);
  }

  /** Lets a member of a group have this much left, in its place where it can keep it; nothing cancels it. */
  private leave(held: HeldOrder, remaining: Quantity): void {
    const { order } = held;
    const listing = this.floor.listing(order.instrument);
    const { book } = listing;
    if (remaining <= 0) {
      this.sayOf(held, { kind: 'canceled', requestId: null, reasonCode: 'oco', reason: 'Another order of its group was filled.' });
      book.remove(order.id);
      return;
    }
    const grows = remaining > remainingQuantity(order);
    this.sayOf(held, { kind: 'restated', quantity: asQuantity(order.filledQuantity + remaining), reasonCode: 'oco' });
    if (!grows) book.lower(order.id, remaining);
    else if (book.has(order.id)) {
      const best = book.standing(order.id)?.best ?? null;
      book.remove(order.id);
      this.enter(held, listing, best);
    }
  }

  /** Moves a following order to the best opposite price, as long as that fills it; no version, no word for each move. */
  private follow(held: HeldOrder, listing: Listing): void {
    const { book } = listing;
    for (;;) {
      const { terms, id, side } = held.order;
      if (terms.type !== 'following' || isFinished(held.order)) return;
      const best = book.best(side === 'sell' ? 'bid' : 'ask');
      if (best === null) {
        if (terms.limit !== null && !book.has(id)) this.enter(held, listing);
        return;
      }
      const moves = best !== terms.limit && (terms.limit === null || book.state === 'open');
      if (!moves && book.has(id)) return;
      book.remove(id);
      if (moves) held.order = { ...held.order, terms: { ...terms, limit: best } };
      this.enter(held, listing);
    }
  }

  private enter(held: HeldOrder, { book, instrument }: Listing, best: Price | null = null): void {
    const entry = entryOf(held.order, instrument);
    if ('triggerOn' in entry) book.submitStop({ ...entry, best });
    else this.work(book.submit(entry));
  }

  /** @param agreedFee the fee where it is not what the commission says */
  private filled(held: HeldOrder, price: Price, quantity: Quantity, liquidity: 'added' | 'removed', agreedFee: Money | null = null): void {
    const { order } = held;
    const instrument = this.instrument(order.instrument);
    const account = this.customers.get(order.account);
    const value = valueAt(instrument, quantity, price);
    const fee = agreedFee ?? this.customers.feeOf(order, instrument, quantity, value);
    const before = positionOf(account.book, order.instrument).quantity;
    account.book = bookFill(account.book, instrument, { side: order.side, price, quantity, fee, product: order.product, time: this.time }).book;
    this.sayOf(held, { kind: 'trade', fillId: `${order.id}-${account.seq + 1}`, price, quantity, value, fee, liquidity });
    this.groups.filled(held, quantity);
    const after = positionOf(account.book, order.instrument).quantity;
    if (instrument.expiry !== null) this.watchExpiry(account.book, instrument);
    if (before !== 0 && (Math.abs(after) < Math.abs(before) || Math.sign(after) !== Math.sign(before)))
      for (const id of this.index.reducingIn(order.account, order.instrument)) {
        const other = this.all.get(id);
        if (other) this.cutToPosition(other);
      }
  }

  /** Cuts a reducing order to the position; false where nothing of it is left. */
  private cutToPosition(held: HeldOrder): boolean {
    const { order } = held;
    const reducible = reducibleBy(this.customers.get(order.account).book, order.instrument, order.side);
    const { book } = this.floor.listing(order.instrument);
    const remaining = remainingQuantity(order);
    if (remaining <= reducible) return remaining > 0;
    if (reducible === 0) {
      this.sayOf(held, { kind: 'canceled', requestId: null, reasonCode: 'flat', reason: 'The position is flat.' });
      book.remove(order.id);
      return false;
    }
    book.lower(order.id, reducible);
    this.sayOf(held, { kind: 'restated', quantity: asQuantity(order.filledQuantity + reducible), reasonCode: 'reduced' });
    return true;
  }

  /** New terms, said and found again by what they can meet. */
  private reindex(held: HeldOrder, listing: Listing, terms: OrderTerms, requestId: string): void {
    const { lifetime } = held.order.terms;
    const lives =
      lifetime.kind !== terms.lifetime.kind || (terms.lifetime.kind === 'gtd' && lifetime.kind === 'gtd' && lifetime.until !== terms.lifetime.until);
    this.index.remove(held.order, held.endsAt);
    if (lives) held.endsAt = endWithin(terms, listing, this.time);
    this.sayOf(held, { kind: 'replaced', requestId, terms });
    this.index.add(held.order, held.endsAt);
  }

  /** The order that a request is about; null where it was had before or comes too late, which is then said. */
  private requested(account: string, id: string, requestId: string): HeldOrder | null {
    const held = this.all.get(id);
    if (!held) {
      this.customers.say(account, {
        kind: 'order',
        orderId: id,
        report: { kind: 'cancel-rejected', requestId, reason: 'The broker does not have this order.' },
      });
      return null;
    }
    if (held.handled.includes(requestId)) return null;
    held.handled.push(requestId);
    if (!isFinished(held.order)) return held;
    this.sayOf(held, { kind: 'cancel-rejected', requestId, reason: 'Too late: the order is done.' });
    return null;
  }

  private endDayOrders(listing: Listing): void {
    const { venue } = listing.instrument;
    const over = dayStart(venue, nextTradingDay(venue, tradingDay(venue, this.time)));
    for (const id of [...this.in(listing.instrument.id)]) {
      const held = this.all.get(id);
      if (held && held.order.terms.lifetime.kind === 'day' && held.endsAt !== null && held.endsAt <= over) this.endByTime(held);
    }
  }

  private endByTime(held: HeldOrder): void {
    const { id, instrument, terms } = held.order;
    const { kind } = terms.lifetime;
    this.sayOf(held, { kind: 'expired', reasonCode: kind === 'gtc' || kind === 'gtd' ? kind : 'day-end' });
    this.floor.listing(instrument).book.remove(id);
  }
}
