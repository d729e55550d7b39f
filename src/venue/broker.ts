import { asQuantity, formatPrice, venueOrderTypes, type Instrument, type Quantity, type VenueId } from '../core/instrument/index.ts';
import type { MarketEvent } from '../core/market/index.ts';
import { locksAt } from '../core/risk/index.ts';
import type { BrokerCommand, BrokerReport, BrokerStatus } from '../core/desk/index.ts';
import { closingOrder, requestedOrder, type OrderTerms } from '../core/orders/index.ts';
import { bookSettlement, positionOf, worthAtExpiry, type AccountTerms, type FinalPrice } from '../core/portfolio/index.ts';
import { Customers, type Allotment } from './customers.ts';
import type { HeldAccount, HeldOrder } from './held.ts';
import type { Listing } from './listing.ts';
import type { OfferedIssue } from './new-issues.ts';
import { WorkingOrders, type Floor } from './working-orders.ts';

/**
 * The stand-in broker: its customers' accounts, the orders it works for them, and what a day brings to both. A plain
 * state machine: time comes with each call, and everything it has to say goes to `report`.
 */
export class Broker {
  readonly customers: Customers;
  readonly orders: WorkingOrders;
  private readonly instruments: ReadonlyMap<string, Instrument>;
  private readonly floor: Floor;

  constructor(
    instruments: ReadonlyMap<string, Instrument>,
    accounts: readonly AccountTerms[],
    issues: readonly OfferedIssue[],
    floor: Floor,
    report: (report: BrokerReport) => void,
  ) {
    this.instruments = instruments;
    this.floor = floor;
    const instrument = (id: string): Instrument => this.instrument(id);
    this.customers = new Customers(accounts, issues, instrument, report);
    this.orders = new WorkingOrders(this.customers, instrument, floor);
  }

  load(orders: readonly HeldOrder[], accounts: readonly HeldAccount[]): void {
    for (const account of accounts) {
      this.customers.accounts.set(account.book.account, account);
      for (const { instrument } of Object.values(account.book.positions)) this.orders.watchExpiry(account.book, this.instrument(instrument));
    }
    this.orders.load(orders);
  }

  /** Takes up what accounts already had when this world began. */
  begin(accounts: readonly HeldAccount[]): void {
    this.load([], accounts);
    for (const { book } of accounts) this.customers.changed.add(book.account);
  }

  /** What is known of an account, for a desk that begins or comes back. */
  status(account: string): BrokerStatus {
    const { time } = this.customers;
    const { book, seq, forgotten, highest, lodged = null, cash = [], applications = [] } = this.customers.get(account);
    return {
      account,
      time,
      lastSeq: seq,
      forgotten,
      highest,
      orders: this.orders.of(account),
      lodged: lodged && { ...lodged, locks: locksAt(lodged, time) },
      book,
      cash,
      applications,
    };
  }

  /** The desk has these reports for good: they, and the orders that were done by then, may be forgotten. */
  acknowledge(account: string, seq: number): void {
    const held = this.customers.get(account);
    if (seq <= held.forgotten) return;
    held.forgotten = Math.min(seq, held.seq);
    this.customers.changed.add(account);
    this.orders.forget(account, held.forgotten);
  }

  /** Instruments that must have a market because an order works or a position is open there. */
  needed(): Set<string> {
    const found = new Set(this.orders.instruments());
    for (const { book } of this.customers.accounts.values())
      for (const { instrument, quantity } of Object.values(book.positions)) if (quantity !== 0) found.add(instrument);
    return found;
  }

  handle(command: BrokerCommand, time: number): void {
    this.customers.time = time;
    this.customers.count(command.account, command.number);
    switch (command.kind) {
      case 'new':
        if (!this.orders.all.has(command.order.id)) this.orders.accept([command.order]);
        break;
      case 'group':
        this.orders.accept(command.orders.filter(({ id }) => !this.orders.all.has(id)));
        break;
      case 'link':
        this.orders.link(command);
        break;
      case 'replace':
        this.orders.replace(command.account, command.orderId, command.requestId, command.change);
        break;
      case 'cancel':
        this.orders.cancel(command.account, command.orderId, command.requestId, command.reasonCode);
        break;
      default:
        this.customers.handle(command);
    }
  }

  /** The instruments whose market a command may have touched. */
  instrumentsOf(command: BrokerCommand): Set<string> {
    const of = (id: string): string[] => {
      const held = this.orders.all.get(id);
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
    this.orders.market(listing, event);
  }

  expire(time: number): void {
    this.customers.time = time;
    for (let due = this.orders.endDue(); due !== null; due = this.orders.endDue())
      for (const { account, instrument } of due)
        if (positionOf(this.customers.get(account).book, instrument).quantity !== 0) this.settle(account, this.instrument(instrument));
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
        createdAt: this.customers.time,
      },
      terms,
    );
    const order = { ...requested, reasonCode: 'intraday-end' as const };
    this.customers.say(account, { kind: 'opened', orderId: id, order });
    this.orders.accept([order]);
  }

  /** Delivers shares of a new issue: a fill at the issue price, without fee. */
  private deliver(account: string, { instrument, quantity, price }: Allotment): void {
    const id = `${account}-b${this.customers.get(account).seq + 1}`;
    const asked = { id, clientOrderId: `broker-${id}`, account, instrument: instrument.id, side: 'buy', product: 'overnight', role: 'entry' } as const;
    const plain = { heldBy: 'venue', reduceOnly: false, crossesZero: false, setup: null, plan: null, step: null, exitPlan: null, opening: true } as const;
    const terms: OrderTerms = { type: 'limit', limit: price, restOnly: false, quantity, lifetime: { kind: 'day' } };
    const order = requestedOrder({ ...asked, ...plain, createdAt: this.customers.time }, terms);
    this.customers.say(account, { kind: 'opened', orderId: id, order });
    this.orders.deliver(order, price);
  }

  /** Settles a position whose instrument has ended, in cash, at the final price of its underlying. */
  private settle(account: string, instrument: Instrument): void {
    const final = this.finalPrice(instrument);
    const held = this.customers.get(account);
    const worth = worthAtExpiry(instrument, positionOf(held.book, instrument.id), final);
    held.book = bookSettlement(held.book, instrument, worth, this.customers.time).book;
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
}
