import type { Act } from '../../../demo/habits.ts';
import type { TapeRow } from '../../core/market/index.ts';
import {
  armedInstruments,
  causeOf,
  commandOf,
  decide,
  foldEntry,
  hasRules,
  keepFollowing,
  keepPlan,
  newAccountState,
  nextWake,
  followedInstruments,
  type AccountEvent,
  type AccountState,
  type Asked,
  type Draft,
  type Entry,
  type Facts,
  type Intent,
  type Working,
} from '../../core/desk/index.ts';
import { parsePrice, type Instrument } from '../../core/instrument/index.ts';
import { markInHalves } from '../../core/market/index.ts';
import { money } from '../../core/number/index.ts';
import { isFinished, readOrder } from '../../core/orders/index.ts';
import type { AccountTerms } from '../../core/portfolio/index.ts';
import type { HeldAccount } from '../../venue/held.ts';
import { Exchange } from '../../venue/exchange.ts';
import type { StreamItem } from '../../venue/messages.ts';
import { TapeSource } from '../../venue/tape-source.ts';

/** Levels of the book that an order is valued by: a past shows one. */
const DEPTH = 2;

/**
 * Trading played through in one go, with nobody waiting: the venue's own exchange on a tape, and every decision made
 * by the core. What comes of it are the entries of the activity, and what the broker has at the end.
 */
export class Rehearsal {
  readonly entries: Entry[] = [];
  private readonly exchange: Exchange;
  private readonly states = new Map<string, AccountState>();
  private readonly waitsOn = new Map<string, ReadonlySet<string>>();
  private readonly past = new Map<string, Working>();
  private readonly asked = new Map<string, { orderId: string; asked: Asked }>();
  private readonly tripOf = new Map<string, string>();
  private readonly instruments: ReadonlyMap<string, Instrument>;

  constructor(instruments: ReadonlyMap<string, Instrument>, accounts: readonly AccountTerms[], rows: readonly TapeRow[]) {
    this.instruments = instruments;
    this.exchange = new Exchange(instruments, accounts, new TapeSource(rows, instruments), 0, null, 0);
    for (const terms of accounts) {
      this.states.set(terms.id, newAccountState(terms));
      this.note(terms);
    }
  }

  /** Does what was done, in the order of its times, and lets time pass up to and including `end`. */
  play(acts: readonly Act[], end: number): void {
    for (const act of [...acts].sort((a, b) => a.at - b.at)) {
      this.runTo(act.at);
      const state = this.state(act.account);
      const intent = this.intentOf(act, state);
      if (!intent) continue;
      this.follow(state, this.perform(state, { kind: 'asked', intent }));
      this.hear();
    }
    this.runTo(end);
  }

  /** What the broker has of an account, with nothing under way. */
  held(account: string): HeldAccount {
    const { broker } = this.exchange;
    broker.acknowledge(account, this.state(account).lastReport);
    const found = broker.customers.accounts.get(account);
    if (!found) throw new Error(`unknown account ${account}`);
    return found;
  }

  private state(account: string): AccountState {
    const found = this.states.get(account);
    if (!found) throw new Error(`unknown account ${account}`);
    return found;
  }

  private instrument(id: string): Instrument {
    const found = this.instruments.get(id);
    if (!found) throw new Error(`unknown instrument ${id}`);
    return found;
  }

  /** The account's first entry: what it began with. */
  private note({ id }: AccountTerms): void {
    const state = this.state(id);
    this.write(state, [
      {
        time: this.exchange.time,
        account: id,
        by: 'desk',
        instrument: null,
        orderId: null,
        causedBy: null,
        text: 'The account was opened.',
        data: { kind: 'account-opened', book: state.book },
        history: null,
      },
    ]);
  }

  private runTo(time: number): void {
    while (!this.exchange.run(time, () => this.exchange.untold.length > 0)) this.hear();
    this.hear();
  }

  /** Hears what the venue has said until it says no more. */
  private hear(): void {
    for (let items = this.exchange.takeStream(); items.length > 0; items = this.exchange.takeStream())
      for (const item of items) for (const state of this.states.values()) this.hearOne(state, item);
  }

  private hearOne(state: AccountState, item: StreamItem): void {
    const { id } = state.terms;
    if (item.kind === 'report' && item.report.account === id) this.follow(state, this.perform(state, { kind: 'reported', reports: [item.report] }));
    if (item.kind === 'price' && this.waitsOn.get(id)?.has(item.row.instrument)) this.follow(state, this.perform(state, { kind: 'priced', row: item.row }));
    if (item.kind === 'timer') this.follow(state, this.perform(state, { kind: 'timer' }));
  }

  /** Lets exit plans and rules follow what happened, until nothing more comes of it. */
  private follow(state: AccountState, entries: readonly Entry[]): void {
    for (let more = entries, first = true; first || more.length > 0; first = false) {
      const instruments = followedInstruments(state, more);
      const arranged = instruments.length > 0 ? this.perform(state, { kind: 'arranged', instruments }) : [];
      more = [...arranged, ...(hasRules(state) ? this.perform(state, { kind: 'judged' }) : [])];
    }
  }

  private perform(state: AccountState, event: AccountEvent): readonly Entry[] {
    const decision = decide(state, event, this.facts());
    if (decision.lodge) this.exchange.broker.customers.lodge(state.terms.id, decision.lodge);
    const entries = this.write(state, decision.entries);
    for (const plan of decision.following ?? []) keepPlan(state, plan);
    for (const order of decision.followingOrders ?? []) keepFollowing(state, order);
    if (entries.length === 0) return entries;
    this.arm(state);
    this.exchange.send(entries.flatMap((entry) => commandOf(entry, state) ?? []));
    return entries;
  }

  private write(state: AccountState, drafts: readonly Draft[]): Entry[] {
    const first = this.entries.length + 1;
    const entries = drafts.map((draft, at): Entry => ({ ...draft, seq: first + at, causedBy: causeOf(draft, first), hash: '' }));
    for (const entry of entries) {
      this.entries.push(entry);
      const touched = foldEntry(state, entry, { instrument: (id) => this.instrument(id), past: (id) => this.past.get(id) ?? null });
      for (const working of touched.orders) this.past.set(working.order.id, working);
      if (touched.asked) this.asked.set(touched.asked.asked.clientOrderId, touched.asked);
      for (const fill of touched.fills) if (!this.tripOf.has(fill.clientOrderId)) this.tripOf.set(fill.clientOrderId, fill.id);
    }
    return entries;
  }

  private arm(state: AccountState): void {
    this.waitsOn.set(state.terms.id, armedInstruments(state));
    const wakes = [...this.states.values()].flatMap((one) => nextWake(one, (id) => this.instrument(id), this.exchange.time) ?? []);
    this.exchange.arm({
      instruments: [...new Set([...this.waitsOn.values()].flatMap((ids) => [...ids]))],
      wakeAt: wakes.length === 0 ? null : Math.min(...wakes),
    });
  }

  private facts(): Facts {
    const { exchange } = this;
    const quote = (id: string) => exchange.listing(id).quote(exchange.time);
    return {
      now: exchange.time,
      link: 'up',
      data: 'up',
      consent: true,
      instrument: (id) => this.instrument(id),
      mark: (id) => (this.instruments.has(id) ? markInHalves(quote(id)) : null),
      view: (id) => {
        const { state, bid, ask, lastEver: last, priceLimits } = quote(id);
        return { state, bid, ask, last, priceLimits };
      },
      book: (id) => exchange.depth(id, DEPTH),
      asked: (clientOrderId) => this.asked.get(clientOrderId) ?? null,
      past: (orderId) => this.past.get(orderId) ?? null,
      standing: () => null,
      tradesAfter: () => [],
    };
  }

  /** What an act asks for; null where there is nothing to do it to any more. */
  private intentOf(act: Act, state: AccountState): Intent | null {
    const isOpen = (instrument: string): boolean => (state.book.positions[instrument]?.quantity ?? 0) !== 0;
    switch (act.kind) {
      case 'place': {
        if (act.order.reduceOnly && !isOpen(act.order.instrument)) return null;
        const read = readOrder({ ...act.order, account: act.account }, this.instrument(act.order.instrument));
        if (!read.ok) throw new Error(`the past has an order that can't be: ${JSON.stringify([act.order, read.refusal])}`);
        return { kind: 'place', order: read.value };
      }
      case 'cancel': {
        const orderId = this.asked.get(act.clientOrderId)?.orderId;
        const order = orderId === undefined ? undefined : state.working.get(orderId)?.order;
        return order && !isFinished(order) ? { kind: 'cancel', orderId: order.id } : null;
      }
      case 'close':
        return isOpen(act.instrument) ? { kind: 'close', instrument: act.instrument, amount: { kind: 'all' }, clientOrderId: null } : null;
      case 'move-stop': {
        const stop = [...state.working.values()].find(({ order }) => order.instrument === act.instrument && order.role === 'stop')?.order;
        const price = parsePrice(this.instrument(act.instrument), act.stopPrice);
        if (!stop || price === null) return null;
        return { kind: 'replace', orderId: stop.id, change: { stop: price }, version: null, clientOrderId: null };
      }
      case 'note': {
        const trip = this.tripOf.get(act.clientOrderId);
        return trip !== undefined && !isOpen(act.instrument) ? { kind: 'mark-trip', trip, instrument: act.instrument, note: act.note } : null;
      }
      case 'cash':
        return { kind: 'cash', cashKind: act.cashKind, amount: money(act.amount), clientRequestId: null };
      case 'lock':
        return { kind: 'lock', until: act.until, rules: [act.rule] };
      default:
        return act satisfies never;
    }
  }
}
