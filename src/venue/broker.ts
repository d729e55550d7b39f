import { NO_QUANTITY, formatPrice, asQuantity, venueOrderTypes, type Instrument, type Price, type Quantity, type VenueId } from '../core/instrument/index.ts';
import { dayStart, expiryTime, nextTradingDay, tradingDay, type BookEvent, type MarketEvent } from '../core/market/index.ts';
import { locksAt } from '../core/risk/index.ts';
import type { BrokerCommand, BrokerReport, BrokerStatus } from '../core/desk/index.ts';
import {
  applyReport,
  completeOrder,
  isFinished,
  layOver,
  refusalText,
  remainingQuantity,
  closingOrder,
  requestedOrder,
  standingAt,
  type Order,
  type OrderChange,
  type OrderGroup,
  type OrderReport,
  type OrderTerms,
  type ReasonCode,
} from '../core/orders/index.ts';
import { NO_MONEY, type Money } from '../core/number/index.ts';
import {
  bookFill,
  bookSettlement,
  positionOf,
  reducibleBy,
  valueAt,
  worthAtExpiry,
  type AccountBook,
  type AccountTerms,
  type FinalPrice,
} from '../core/portfolio/index.ts';
import type { Listing } from './listing.ts';
import { OrderIndex } from './order-index.ts';
import { endWithin, entryOf, problemWith, sameEntry } from './at-venue.ts';
import { Customers, type Allotment } from './customers.ts';
import type { HeldAccount, HeldOrder } from './held.ts';
import type { OfferedIssue } from './new-issues.ts';

/** Where the broker finds the market: a listing is made, or woken, when it is first needed. */
export interface Floor {
  listing(instrument: string): Listing;
}

/**
 * The stand-in broker: its customers' accounts and orders, worked in the venues' books. A plain state machine:
 * time comes with each call, what the books say is worked off until they are quiet, and everything it has to say
 * goes to `report`.
 */
export class Broker {
  readonly orders = new Map<string, HeldOrder>();
  readonly customers: Customers;
  /** Orders that changed since they were last saved; one that is there no more is to be dropped. */
  readonly changed = new Set<string>();
  private readonly instruments: ReadonlyMap<string, Instrument>;
  private readonly floor: Floor;
  private readonly index = new OrderIndex();

  constructor(
    instruments: ReadonlyMap<string, Instrument>,
    accounts: readonly AccountTerms[],
    issues: readonly OfferedIssue[],
    floor: Floor,
    report: (report: BrokerReport) => void,
  ) {
    this.instruments = instruments;
    this.floor = floor;
    this.customers = new Customers(accounts, issues, (id) => this.instrument(id), report);
  }

  private get time(): number {
    return this.customers.time;
  }

  load(orders: readonly HeldOrder[], accounts: readonly HeldAccount[]): void {
    for (const account of accounts) {
      this.customers.accounts.set(account.book.account, account);
      for (const { instrument } of Object.values(account.book.positions)) this.watchExpiry(account.book, this.instrument(instrument));
    }
    for (const held of orders) {
      held.order = completeOrder(held.order);
      this.keep(held);
      if (!isFinished(held.order)) this.index.add(held.order, held.endsAt);
    }
  }

  /** Takes up what accounts already had when this world began. */
  begin(accounts: readonly HeldAccount[]): void {
    this.load([], accounts);
    for (const { book } of accounts) this.customers.changed.add(book.account);
  }

  /** Makes a book that was stored a moment earlier agree with the orders, which are stored with every report. */
  mend(listing: Listing): void {
    const { book, instrument } = listing;
    for (const there of book.places()) {
      const order = this.orders.get(there.id)?.order;
      if (!order || isFinished(order)) book.remove(there.id);
      else if (!sameEntry(there, entryOf(order, instrument))) book.remove(there.id);
      else if (remainingQuantity(order) !== there.remaining) book.lower(there.id, remainingQuantity(order));
    }
    for (const id of this.workingIn(instrument.id)) {
      const held = this.orders.get(id);
      if (!held || book.has(id)) continue;
      if (held.order.terms.type === 'following') this.follow(held, listing);
      else this.enter(held, listing);
    }
  }

  /** What is known of an account, for a desk that begins or comes back. */
  status(account: string): BrokerStatus {
    const { book, seq, forgotten, highest, lodged = null, cash = [], applications = [] } = this.customers.get(account);
    const orders = [...this.orders.values()]
      .filter(({ order }) => order.account === account)
      .map((held) => ({ order: this.asItStands(held), handled: [...held.handled] }));
    return {
      account,
      time: this.time,
      lastSeq: seq,
      forgotten,
      highest,
      orders,
      lodged: lodged && { ...lodged, locks: locksAt(lodged, this.time) },
      book,
      cash,
      applications,
    };
  }

  /** Where an order stands in its book just now. */
  standing(id: string): { id: string; ahead: Quantity | null; price: Price | null } {
    const held = this.orders.get(id);
    if (!held || isFinished(held.order)) return { id, ahead: null, price: null };
    const ahead = this.floor.listing(held.order.instrument).book.standing(id)?.ahead ?? null;
    return { id, ahead, price: this.standingPrice(held) };
  }

  /** The desk has these reports for good: they, and the orders that were done by then, may be forgotten. */
  acknowledge(account: string, seq: number): void {
    const held = this.customers.get(account);
    if (seq <= held.forgotten) return;
    held.forgotten = Math.min(seq, held.seq);
    this.customers.changed.add(account);
    for (const [id, { order, lastSeq }] of this.orders)
      if (order.account === account && lastSeq <= held.forgotten && isFinished(order)) {
        this.orders.delete(id);
        if (order.group) this.index.leave(order.group.id, id);
        this.changed.add(id);
      }
  }

  /** Instruments that must have a market because an order works or a position is open there. */
  needed(): Set<string> {
    const found = new Set(this.index.instruments());
    for (const { book } of this.customers.accounts.values())
      for (const { instrument, quantity } of Object.values(book.positions)) if (quantity !== 0) found.add(instrument);
    return found;
  }

  handle(command: BrokerCommand, time: number): void {
    this.customers.time = time;
    this.customers.count(command.account, command.number);
    switch (command.kind) {
      case 'new':
        if (!this.orders.has(command.order.id)) this.acceptAll([command.order]);
        break;
      case 'group':
        this.acceptAll(command.orders.filter(({ id }) => !this.orders.has(id)));
        break;
      case 'link':
        this.link(command);
        break;
      case 'replace':
        this.replace(command.account, command.orderId, command.requestId, command.change);
        break;
      case 'cancel':
        this.cancel(command.account, command.orderId, command.requestId, command.reasonCode);
        break;
      default:
        this.customers.handle(command);
    }
  }

  /** Delivers shares of a new issue: a fill at the issue price, without fee. */
  private deliver(account: string, { instrument, quantity, price }: Allotment): void {
    const id = `${account}-b${this.customers.get(account).seq + 1}`;
    const asked = { id, clientOrderId: `broker-${id}`, account, instrument: instrument.id, side: 'buy', product: 'overnight', role: 'entry' } as const;
    const plain = { heldBy: 'venue', reduceOnly: false, crossesZero: false, setup: null, plan: null, step: null, exitPlan: null, opening: true } as const;
    const terms: OrderTerms = { type: 'limit', limit: price, restOnly: false, quantity, lifetime: { kind: 'day' } };
    const order = requestedOrder({ ...asked, ...plain, createdAt: this.time }, terms);
    this.customers.say(account, { kind: 'opened', orderId: id, order });
    const held: HeldOrder = { order, handled: [], endsAt: null, lastSeq: 0, told: null };
    this.keep(held);
    this.sayOf(held, { kind: 'new' });
    this.filled(held, price, quantity, 'added', NO_MONEY);
  }

  /** The instruments whose market a command may have touched. */
  instrumentsOf(command: BrokerCommand): Set<string> {
    const of = (id: string): string[] => {
      const held = this.orders.get(id);
      return held ? [held.order.instrument] : [];
    };
    switch (command.kind) {
      case 'new':
        return new Set([command.order.instrument]);
      case 'group':
        return new Set(command.orders.map(({ instrument }) => instrument));
      case 'link':
        return new Set(command.orderIds.flatMap(of));
      case 'replace':
      case 'cancel':
        return new Set(of(command.orderId));
      case 'cash':
      case 'cash-back':
      case 'application':
      case 'application-back':
        return new Set();
      default:
        return command satisfies never;
    }
  }

  /** One event of an instrument's market, with all that follows from it here. */
  market(listing: Listing, event: MarketEvent, time: number): void {
    this.customers.time = time;
    this.work(listing.apply(time, event));
    if (event.event === 'state' && event.state === 'closed') this.endDayOrders(listing);
    for (const id of this.index.followingIn(listing.instrument.id)) {
      const held = this.orders.get(id);
      if (held) this.follow(held, listing);
    }
  }

  /** When the next working order or position ends by itself. */
  nextExpiry(): number | null {
    return this.index.nextEnd();
  }

  expire(time: number): void {
    this.customers.time = time;
    for (let due = this.index.takeEnding(time); due !== null; due = this.index.takeEnding(time)) {
      // Orders first: they end with their instrument, before its position is settled.
      for (const one of due) {
        const held = typeof one === 'string' ? this.orders.get(one) : undefined;
        if (held && !isFinished(held.order)) this.endByTime(held);
      }
      for (const one of due)
        if (typeof one === 'object' && positionOf(this.customers.get(one.account).book, one.instrument).quantity !== 0)
          this.settle(one.account, this.instrument(one.instrument));
    }
  }

  /** Closes intraday positions at a venue: market orders of the broker's own, or limits at the best opposite price. */
  closeIntraday(venue: VenueId, time: number): void {
    this.customers.time = time;
    for (const [account, { book }] of this.customers.accounts)
      for (const position of Object.values(book.positions)) {
        const instrument = this.instrument(position.instrument);
        if (instrument.venue === venue && position.product === 'intraday' && position.quantity !== 0) this.openClosing(account, instrument, position.quantity);
      }
  }

  turnDay(venue: VenueId, time: number): void {
    this.customers.time = time;
    for (const [account, { book }] of this.customers.accounts) {
      const there = Object.keys(book.positions).filter((id) => this.instrument(id).venue === venue);
      const settlements = there.sort().map((id) => ({ instrument: id, price: this.floor.listing(id).previousSettlement }));
      this.customers.turnDay(account, venue, settlements);
      if (!this.customers.beginDay(account, venue)) continue;
      for (const allotment of this.customers.allot(account, venue)) this.deliver(account, allotment);
      this.customers.payOut(account);
    }
  }

  private openClosing(account: string, instrument: Instrument, quantity: Quantity): void {
    const market = venueOrderTypes(instrument.venue, instrument.kind).includes('market');
    const id = `${account}-b${this.customers.get(account).seq + 1}`;
    const terms: OrderTerms = {
      ...(market ? { type: 'market' } : { type: 'following', limit: null }),
      quantity: asQuantity(Math.abs(quantity)),
      lifetime: { kind: 'day' },
    };
    const requested = closingOrder(
      {
        id,
        clientOrderId: `broker-${id}`,
        account,
        instrument: instrument.id,
        side: quantity > 0 ? 'sell' : 'buy',
        product: 'intraday',
        role: 'close',
        createdAt: this.time,
      },
      terms,
    );
    const order = { ...requested, reasonCode: 'intraday-end' as const };
    this.customers.say(account, { kind: 'opened', orderId: id, order });
    this.acceptAll([order]);
  }

  /** Settles a position whose instrument has ended, in cash, at the final price of its underlying. */
  private settle(account: string, instrument: Instrument): void {
    const final = this.finalPrice(instrument);
    const held = this.customers.get(account);
    const worth = worthAtExpiry(instrument, positionOf(held.book, instrument.id), final);
    held.book = bookSettlement(held.book, instrument, worth, this.time).book;
    const basis = final ? `at ${formatPrice(final.instrument, final.price)} of ${final.instrument.id}` : 'at its cost, for want of a price';
    this.customers.say(account, { kind: 'settled', instrument: instrument.id, worth, basis });
  }

  private finalPrice(instrument: Instrument): FinalPrice | null {
    const of = instrument.underlying === null ? instrument : this.instrument(instrument.underlying);
    const price = this.floor.listing(of.id).settlementNow();
    return price === null ? null : { instrument: of, price };
  }

  private instrument(id: string): Instrument {
    const found = this.instruments.get(id);
    if (!found) throw new Error(`unknown instrument ${id}`);
    return found;
  }

  /** The ids of the orders that work in an instrument. */
  workingIn(instrument: string): ReadonlySet<string> {
    return this.index.in(instrument);
  }

  private watchExpiry(book: AccountBook, instrument: Instrument): void {
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
      const held = this.orders.get(event.id);
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
    this.orders.set(id, held);
    if (group) this.index.join(group.id, id);
  }

  /** Takes new orders, all or none, and only then lets each meet the market: those of a group know one another by then. */
  private acceptAll(orders: readonly Order[]): void {
    const lefts = orders.map(({ group }) => (group ? this.leftIn(group) : null));
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

  /** The others of a group that still work. */
  private others(of: HeldOrder): HeldOrder[] {
    const { group, id } = of.order;
    if (!group) return [];
    return this.index.ofGroup(group.id).flatMap((other) => {
      const held = other === id ? undefined : this.orders.get(other);
      return held && !isFinished(held.order) ? [held] : [];
    });
  }

  /** What a group that is known here has left for one that joins it; null where it is new. */
  private leftIn(group: OrderGroup): Quantity | null {
    const members = this.index.ofGroup(group.id).flatMap((id) => this.orders.get(id) ?? []);
    if (members.length === 0) return null;
    const working = members.filter(({ order }) => !isFinished(order));
    if (working.length > 0) return asQuantity(Math.min(...working.map(({ order }) => remainingQuantity(order))));
    // All were cancelled: nothing was taken from what one of them was for.
    return members.some(({ order }) => order.ended === null && order.acknowledged !== 'rejected') ? asQuantity(0) : null;
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

  /** What a fill of one does to the others of its group. */
  private filledInGroup(held: HeldOrder, quantity: Quantity): void {
    for (const other of this.others(held)) {
      const left = held.order.group?.onPartialFill === 'cancel' ? 0 : remainingQuantity(other.order) - quantity;
      this.leave(other, asQuantity(left));
    }
  }

  /** Makes working orders a group, unless a fill or a cancel came first. */
  private link({ account, requestId, group, orderIds }: BrokerCommand & { readonly kind: 'link' }): void {
    const members = orderIds.flatMap((id) => this.orders.get(id) ?? []);
    if (members.some(({ handled }) => handled.includes(requestId))) return;
    for (const held of members) {
      held.handled.push(requestId);
      this.changed.add(held.order.id);
    }
    const first = members[0];
    const refuse = (reason: string): void => void this.customers.say(account, { kind: 'link-refused', requestId, groupId: group.id, reason });
    if (!first || members.length < orderIds.length || members.some(({ order }) => isFinished(order))) return refuse('One of the orders is done.');
    if (members.some(({ order }) => order.group !== null)) return refuse('One of the orders is in a group already.');
    if (members.some(({ order }) => remainingQuantity(order) !== remainingQuantity(first.order)))
      return refuse('The orders no longer have the same remaining quantity.');
    for (const held of members) {
      this.sayOf(held, { kind: 'linked', group });
      this.index.join(group.id, held.order.id);
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
    this.filledInGroup(held, quantity);
    const after = positionOf(account.book, order.instrument).quantity;
    if (instrument.expiry !== null) this.watchExpiry(account.book, instrument);
    if (before !== 0 && (Math.abs(after) < Math.abs(before) || Math.sign(after) !== Math.sign(before)))
      for (const id of this.index.reducingIn(order.account, order.instrument)) {
        const other = this.orders.get(id);
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

  /** A change as it comes: laid over the order as it is now. */
  private replace(account: string, id: string, requestId: string, change: OrderChange): void {
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
      for (const other of this.others(held)) this.leave(other, NO_QUANTITY);
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
      this.evenOut(held);
      return;
    }
    book.remove(id);
    this.reindex(held, listing, terms, requestId);
    this.evenOut(held);
    if (held.order.reduceOnly && !this.cutToPosition(held)) return;
    this.enter(held, listing, best);
  }

  /** A change of one member's quantity is one of all. */
  private evenOut(held: HeldOrder): void {
    const remaining = remainingQuantity(held.order);
    for (const other of this.others(held)) if (remainingQuantity(other.order) !== remaining) this.leave(other, remaining);
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

  private cancel(account: string, id: string, requestId: string, reasonCode: ReasonCode): void {
    const held = this.requested(account, id, requestId);
    if (!held) return;
    this.sayOf(held, { kind: 'canceled', requestId, reasonCode, reason: null });
    this.floor.listing(held.order.instrument).book.remove(id);
  }

  /** The order that a request is about; null where it was had before or comes too late, which is then said. */
  private requested(account: string, id: string, requestId: string): HeldOrder | null {
    const held = this.orders.get(id);
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
    for (const id of [...this.workingIn(listing.instrument.id)]) {
      const held = this.orders.get(id);
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
