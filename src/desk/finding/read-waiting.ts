import type { ExitPlanText } from '../../core/exits/index.ts';
import { readOrder, type OrderIntent, type OrderRequest, type Refusal } from '../../core/orders/index.ts';
import { refused, type Result } from '../../core/result.ts';
import type { Desk } from '../desk.ts';
import { readPhrase } from '../phrases.ts';
import type { SavedStore } from '../saved.ts';
import type { ConditionalOrder } from './things.ts';

type Request = Omit<OrderRequest, 'clientOrderId' | 'exitPlan'> & { exitPlan?: string | ExitPlanText };

/** What an order that waited asks for, as it reads at this moment: a phrase is resolved now, a plan is the saved one as it is. */
export async function readWaiting(desk: Desk, saved: SavedStore, waiting: ConditionalOrder, clientOrderId: string): Promise<Result<OrderIntent, Refusal>> {
  const { user, order, account, instrument } = waiting;
  let request: Request | undefined;
  if (typeof order === 'string') {
    const plans = new Set((await saved.list(user, 'exit-plan')).map(({ name }) => name));
    const read = await readPhrase(desk, order, { accounts: desk.accountsOf(user), plans }, { account, instrument });
    if (!read.ok) return refused({ kind: 'validation', errors: [{ path: '/order', message: read.error.message }] });
    request = read.value.requests[0];
  } else request = order as Request;
  if (!request) return refused({ kind: 'validation', errors: [{ path: '/order', message: 'is no order' }] });
  const { exitPlan, ...plain } = request;
  const found = desk.market.find(plain.instrument);
  if (!found) return refused({ kind: 'validation', errors: [{ path: '/order/instrument', message: `${plain.instrument} is not known` }] });
  if (typeof exitPlan !== 'string') return readOrder({ ...plain, clientOrderId, ...(exitPlan ? { exitPlan } : {}) }, found);
  const plan = await saved.get(user, 'exit-plan', exitPlan);
  if (!plan) return refused({ kind: 'validation', errors: [{ path: '/order/exitPlan', message: `there is no exit plan named ${exitPlan}` }] });
  return readOrder({ ...plain, clientOrderId, exitPlan: { saved: plan.document as ExitPlanText } }, found);
}
