import { inState, type LegName, type RunningPlan } from '../exits/index.ts';
import { asQuantity, venueOrderTypes, type Instrument, type Quantity } from '../instrument/index.ts';
import {
  orderSentence,
  requestReplace,
  closingOrder,
  type Order,
  type OrderChange,
  type OrderGroup,
  type OrderTerms,
  type ReasonCode,
} from '../orders/index.ts';
import { positionOf } from '../portfolio/index.ts';
import { cancelEntry } from './change.ts';
import { draft } from './decision.ts';
import type { Draft, EntryBy, EntryData, WithUses } from './entries.ts';
import type { Facts } from './facts.ts';
import { orderEntry } from './place.ts';
import type { AccountState } from './state.ts';
import { historyLine } from './words.ts';

/** The entries of one decision as they come together: requests numbered on from the account's, each with what caused it. */
export class Drafts {
  readonly entries: Draft[] = [];
  private taken = 0;
  readonly state: AccountState;
  readonly facts: Facts;
  private readonly by: EntryBy;
  private readonly cause: Draft['causedBy'];

  constructor(state: AccountState, facts: Facts, by: EntryBy, cause: Draft['causedBy'] = null) {
    this.state = state;
    this.facts = facts;
    this.by = by;
    this.cause = cause;
  }

  /** The number of the next request. */
  get next(): number {
    return this.state.count + this.taken + 1;
  }

  take(): number {
    this.taken++;
    return this.state.count + this.taken;
  }

  say(text: string, data: EntryData, of: { order?: Order | null; instrument?: string | null; by?: EntryBy } = {}): void {
    this.entries.push(draft(this.state, this.facts.now, text, data, { by: this.by, causedBy: this.cause, ...of }));
  }

  order(order: Order, content: string, { grouped = false, uses = {} }: { grouped?: boolean; uses?: WithUses } = {}): void {
    const entry = orderEntry(this.state, this.facts, order, this.take(), content, { causedBy: this.cause, by: this.by, uses });
    this.entries.push(grouped ? { ...entry, data: { ...entry.data, grouped: true } as EntryData } : entry);
  }

  /** Names orders that were said before as one group: with it they go. */
  group(group: OrderGroup, orders: readonly Order[]): void {
    const orderIds = orders.map(({ id }) => id);
    const text = `One of ${orders.length}: a fill of one ${group.onPartialFill === 'cancel' ? 'cancels' : 'lowers'} the others.`;
    this.say(text, { kind: 'orders-grouped', number: this.take(), group, orderIds }, { instrument: orders[0]?.instrument ?? null });
  }

  replace(order: Order, change: OrderChange, terms: OrderTerms): void {
    const { state, facts } = this;
    const number = this.take();
    const requestId = `${order.id}/r${number}`;
    const instrument = facts.instrument(order.instrument);
    const pending = requestReplace(order, { requestId, change }, facts.now);
    const data = { kind: 'replace-requested', number, orderId: order.id, requestId, change, asked: null } as const;
    const history = historyLine(pending, instrument, 'pending-replace', null, null);
    const text = `Change ${orderSentence({ ...order, terms }, instrument)}`;
    this.entries.push(draft(state, facts.now, text, data, { order, history, by: this.by, causedBy: this.cause }));
  }

  cancel(order: Order, reasonCode: ReasonCode): string {
    const number = this.take();
    this.entries.push({ ...cancelEntry(this.state, this.facts, order, number, reasonCode, this.cause), by: this.by });
    return `${order.id}/c${number}`;
  }

  plan(plan: RunningPlan, text: string): void {
    this.say(text, { kind: 'plan', plan: { ...plan, judgedUpTo: this.facts.now } }, { instrument: plan.instrument, by: this.by });
  }

  /** Ends plans, with the orders of theirs that work where those are not cancelled anyway. */
  stopPlans(plans: readonly RunningPlan[], why: string): RunningPlan[] {
    const stopped = plans.map((plan) => inState(plan, 'stopped', this.facts.now, why));
    for (const plan of stopped) this.plan(plan, `Exit plan ${plan.id} of ${plan.instrument}: stopped, ${why}`);
    return stopped;
  }
}

/** An order of a plan's, that closes part of what it leaves. */
export function legOrder(drafts: Drafts, plan: RunningPlan, step: number, role: LegName, terms: OrderTerms, ahead = 0): Order {
  const { state, facts } = drafts;
  const number = drafts.next + ahead;
  return closingOrder(
    {
      id: `${plan.account}-${number}`,
      clientOrderId: `kavix.plan.${number}`,
      account: plan.account,
      instrument: plan.instrument,
      side: plan.long ? 'sell' : 'buy',
      product: positionOf(state.book, plan.instrument).product,
      plan: plan.id,
      step,
      role,
      createdAt: facts.now,
    },
    terms,
  );
}

/** Terms that close at once: by market, or where that is not taken by a limit at the best opposite price that moves with it. */
export function closingTerms(instrument: Instrument, sells: boolean, quantity: Quantity, facts: Pick<Facts, 'view'>, lifetime: 'day' | 'gtc'): OrderTerms {
  const market = venueOrderTypes(instrument.venue, instrument.kind).includes('market');
  const { bid, ask } = facts.view(instrument.id);
  return { ...(market ? { type: 'market' } : { type: 'following', limit: sells ? bid : ask }), quantity: asQuantity(quantity), lifetime: { kind: lifetime } };
}
