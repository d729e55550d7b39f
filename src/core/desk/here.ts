import { asQuantity, type Quantity } from '../instrument/index.ts';
import { applyReport, isFinished, isHere, remainingQuantity, trailedTo, type Order, type OrderReport, type OrderTerms } from '../orders/index.ts';
import { reducibleBy } from '../portfolio/index.ts';
import { draft } from './decision.ts';
import type { Draft } from './entries.ts';
import type { Facts } from './facts.ts';
import { heldHere, type AccountState } from './state.ts';
import { reportHistory, reportText } from './words.ts';

/** Terms that are held here from now on: what trails begins at the present price of what triggers it (exact rule *Exits* 9). */
export function seenFirst(terms: OrderTerms, { side, instrument }: Pick<Order, 'side' | 'instrument'>, facts: Facts): OrderTerms {
  const price = terms.type === 'trailing-stop' ? facts.view(instrument)[terms.triggerOn] : null;
  return terms.type === 'trailing-stop' && price !== null ? trailedTo(terms, side, facts.instrument(instrument), price, facts.now) : terms;
}

/** Changed terms of what is held here: a new trail counts at once, from the best so far. */
export function seenAgain(terms: OrderTerms, order: Order, facts: Facts): OrderTerms {
  const before = order.terms;
  if (terms.type !== 'trailing-stop' || before.type !== 'trailing-stop' || before.triggerOn !== terms.triggerOn || !before.seen)
    return seenFirst(terms, order, facts);
  return trailedTo(terms, order.side, facts.instrument(order.instrument), before.seen.best, facts.now);
}

/** Up to when an order that waits here has been held against the trades: what it missed came after. */
export const judgedUpTo = ({ terms, updatedAt }: Order, cutOffSince: number | null): number =>
  (terms.type === 'trailing-stop' && terms.triggerOn === 'last' ? terms.seen?.at : undefined) ?? cutOffSince ?? updatedAt;

/** What a report says of where a trailing stop stands. */
export const standingOf = (terms: OrderTerms): Pick<OrderReport, 'standing' | 'seen'> =>
  terms.type === 'trailing-stop' && terms.seen ? { ...(terms.stop === null ? {} : { standing: terms.stop }), seen: terms.seen } : {};

/** Where a decision's entries come together. */
interface Gathered {
  readonly state: AccountState;
  readonly facts: Facts;
  readonly entries: Draft[];
}

/** An order that is held here after Kavix said of it what a venue would say, and the entry that says so. */
export interface Adjusted {
  readonly order: Order;
  readonly entry: Draft;
}

/** Says of an order that is held here what a venue would say of one that is held there. */
export function adjusted(state: AccountState, order: Order, report: OrderReport, facts: Facts): Adjusted {
  const instrument = facts.instrument(order.instrument);
  const after = applyReport(order, report, facts.now);
  const data = { kind: 'order-adjusted', orderId: order.id, report } as const;
  const history = reportHistory(after, instrument, report);
  const causedBy = state.working.get(order.id)?.askedBy ?? null;
  return { order: after, entry: draft(state, facts.now, reportText(after, report, instrument), data, { order, by: 'desk', causedBy, history }) };
}

/** The same among the entries of a decision. */
export function adjust(drafts: Gathered, order: Order, report: OrderReport): Order {
  const { order: after, entry } = adjusted(drafts.state, order, report, drafts.facts);
  drafts.entries.push(entry);
  return after;
}

/** The others of an order's group that wait here, as `known` has them by now. */
function beside(state: AccountState, { id, group }: Order, known: (order: Order) => Order): Order[] {
  if (!group) return [];
  return heldHere(state)
    .filter((other) => other.id !== id && other.group?.id === group.id)
    .map(known)
    .filter((other) => isHere(other) && !isFinished(other));
}

const BY_ANOTHER = 'Another order of its group was filled.';

const leaving = (order: Order, left: number): OrderReport =>
  left <= 0
    ? { kind: 'canceled', requestId: null, reasonCode: 'oco', reason: BY_ANOTHER }
    : { kind: 'restated', quantity: asQuantity(order.filledQuantity + left), reasonCode: 'oco' };

/** What a fill does to those of its group that wait here (exact rule *Orders* 5). */
export function filledInGroup(state: AccountState, order: Order, filled: Quantity, facts: Facts, known: (order: Order) => Order): Adjusted[] {
  return beside(state, order, known).map((other) =>
    adjusted(state, other, leaving(other, order.group?.onPartialFill === 'cancel' ? 0 : remainingQuantity(other) - filled), facts),
  );
}

/** A change of a member's quantity changes all that wait here alike (exact rule *Exits* 16). */
export function resizedInGroup(state: AccountState, order: Order, facts: Facts): Draft[] {
  const left = remainingQuantity(order);
  return beside(state, order, (other) => other)
    .filter((other) => remainingQuantity(other) !== left)
    .map((other) => adjusted(state, other, leaving(other, left), facts).entry);
}

/** What reduces and waits here is never larger than the position, and ends with it (exact rule *Orders* 2). */
export function cutHere(drafts: Gathered, instruments: ReadonlySet<string>): void {
  const { state } = drafts;
  for (const order of heldHere(state)) {
    if (!order.reduceOnly || !instruments.has(order.instrument) || isFinished(order)) continue;
    const most = reducibleBy(state.book, order.instrument, order.side);
    if (remainingQuantity(order) <= most) continue;
    const report: OrderReport =
      most === 0
        ? { kind: 'canceled', requestId: null, reasonCode: 'flat', reason: 'The position is flat.' }
        : { kind: 'restated', quantity: asQuantity(order.filledQuantity + most), reasonCode: 'reduced' };
    adjust(drafts, order, report);
  }
}
