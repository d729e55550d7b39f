import type { AccountState, Answer, RefusedOrder } from '../core/desk/index.ts';
import type { RunningPlan } from '../core/exits/index.ts';
import type { Order, OrderGroup, Refusal } from '../core/orders/index.ts';
import type { Application, CashRequest } from '../core/portfolio/index.ts';
import { accepted, refused, type Result } from '../core/result.ts';
import type { RiskState } from '../core/risk/index.ts';

/** What became of what was asked. */
export type Outcome =
  | { readonly kind: 'done' }
  | { readonly kind: 'order'; readonly order: Order; readonly made: boolean }
  | { readonly kind: 'group'; readonly group: OrderGroup; readonly orders: readonly Order[]; readonly made: boolean }
  | { readonly kind: 'plan'; readonly plan: RunningPlan }
  | { readonly kind: 'cash'; readonly request: CashRequest; readonly made: boolean }
  | { readonly kind: 'application'; readonly application: Application; readonly made: boolean }
  | { readonly kind: 'risk'; readonly risk: RiskState; readonly made: boolean }
  | { readonly kind: 'orders'; readonly canceled: readonly Order[]; readonly closing: readonly Order[]; readonly refused: readonly RefusedOrder[] };

/** A decision's answer that something came of. */
export type Decided = Exclude<Answer, { readonly kind: 'waits' | 'refused' | 'many' }>;

/** What tells of the account after its decision. */
export interface Aftermath {
  readonly state: AccountState;
  find(orderId: string): Promise<Order | null>;
  /** With which words the venue refused a request, told once; undefined where it did not. */
  takeRejected(requestId: string): string | undefined;
}

/** Whether something was sent that the venue answers. */
export const isSent = (answer: Decided): boolean => (answer.kind === 'orders' ? answer.canceled.length + answer.closing.length > 0 : answer.kind !== 'done');

function known<T>(found: T | null | undefined, what: string): T {
  if (found === null || found === undefined) throw new Error(`${what} is gone`);
  return found;
}

/** What became of a decision, as everything stands now; where the venue refused, that is said. */
export async function outcomeOf(answer: Decided, after: Aftermath): Promise<Result<Outcome, Refusal>> {
  const { state } = after;
  const found = async (ids: readonly string[]): Promise<Order[]> => (await Promise.all(ids.map((id) => after.find(id)))).filter((order) => order !== null);
  switch (answer.kind) {
    case 'done':
      return accepted({ kind: 'done' });
    case 'order': {
      const order = known(await after.find(answer.orderId), `the order ${answer.orderId}`);
      const reason = answer.requestId === null ? undefined : after.takeRejected(answer.requestId);
      return reason === undefined ? accepted({ kind: 'order', order, made: answer.made }) : refused({ kind: 'venue-rejected', detail: reason });
    }
    case 'group': {
      const reason = answer.requestId === null ? undefined : after.takeRejected(answer.requestId);
      if (reason !== undefined) return refused({ kind: 'venue-rejected', detail: reason });
      return accepted({ kind: 'group', group: answer.group, orders: await found(answer.orderIds), made: answer.made });
    }
    case 'orders': {
      const failed: RefusedOrder[] = [...answer.refused];
      const went: string[] = [];
      for (const { orderId, requestId } of answer.canceled) {
        const reason = after.takeRejected(requestId);
        if (reason === undefined) went.push(orderId);
        else failed.push({ orderId, detail: reason });
      }
      return accepted({ kind: 'orders', canceled: await found(went), closing: await found(answer.closing), refused: failed });
    }
    case 'risk':
      return accepted({ kind: 'risk', risk: state.risk, made: answer.made ?? false });
    case 'plan':
      return accepted({ kind: 'plan', plan: known(state.plans.get(answer.planId), `the plan ${answer.planId}`) });
    case 'cash': {
      const { request } = known(state.cash.get(answer.requestId), `the request ${answer.requestId}`);
      return accepted({ kind: 'cash', request, made: answer.made });
    }
    case 'application': {
      const { application } = known(state.applications.get(answer.applicationId), `the application ${answer.applicationId}`);
      return accepted({ kind: 'application', application, made: answer.made });
    }
    default:
      return answer satisfies never;
  }
}
