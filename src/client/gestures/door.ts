import {
  problemWords,
  request,
  type Answer,
  type ApiBasketRun,
  type ApiFlattened,
  type ApiOrder,
  type ApiRunningPlan,
  type ApiWaiting,
} from '../../live/index.ts';
import { localClock } from '../../core/market/index.ts';
import { answer } from '../answers.ts';
import type { HereLeg } from '../exit-plans.ts';
import { orderWords, type OrderWish, type PhrasedOrder, type RunAct } from './intent.ts';

const LOOK_AGAIN_MS = 1000;
const clientId = (): string => `w-${crypto.randomUUID()}`;
/** In this machine's time: the call is of this machine. */
const clock = (at: number): string => localClock(Intl.DateTimeFormat().resolvedOptions().timeZone, at);

/**
 * Says in a pane what became of a call. What is unanswered is looked up until it is known, and never sent again:
 * `look` answers in words, or null while nobody answers it either.
 */
async function told<T>(pane: string, called: Promise<Answer<T>>, done: (value: T) => string, look: () => Promise<string | null>): Promise<Answer<T>> {
  const at = Date.now();
  const got = await called;
  if (got.ok) answer(pane, 'done', done(got.value));
  else if (got.problem.status !== 0) answer(pane, 'refused', problemWords(got.problem));
  else {
    answer(pane, 'unknown', `asked ${clock(at)}, no answer: not known whether it went`);
    void (async () => {
      for (;;) {
        await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
        const words = await look();
        if (words !== null) return answer(pane, 'found', words);
      }
    })();
  }
  return got;
}

/** The order of a client order id, once somebody answers: in words, what became of it. */
async function lookUp(account: string, clientOrderId: string): Promise<string | null> {
  const found = await request('GET /api/orders', { query: { account, clientOrderId } });
  if (!found.ok) return found.problem.status === 0 ? null : problemWords(found.problem);
  const [order] = found.value.items;
  return order ? `it went: ${orderWords(order)}, ${order.state}` : 'it did not go; nothing was sent';
}

async function standing(id: string): Promise<string | null> {
  const found = await request('GET /api/orders/{id}', { path: { id } });
  if (!found.ok) return found.problem.status === 0 ? null : problemWords(found.problem);
  return `it stands: ${orderWords(found.value)}, ${found.value.state}`;
}

async function whatWorks(account: string, instrument: string | null): Promise<string | null> {
  const query = { account, ...(instrument === null ? {} : { instrument }) };
  const [orders, positions] = await Promise.all([
    request('GET /api/orders', { query: { ...query, state: 'working', limit: 1000 } }),
    request('GET /api/positions', { query }),
  ]);
  if (!orders.ok || !positions.ok) return null;
  const open = positions.value.items.filter(({ quantity }) => quantity !== '0').length;
  return `now ${orders.value.items.length} orders work and ${open} positions are open`;
}

export function place(pane: string, wish: OrderWish): Promise<Answer<ApiOrder>> {
  const clientOrderId = clientId();
  const sent = request('POST /api/orders', { body: { clientOrderId, ...wish } });
  return told(
    pane,
    sent,
    (order) => `sent ${orderWords(order)}`,
    () => lookUp(wish.account, clientOrderId),
  );
}

/** Both legs of a breakout pair, or neither: the one that fills cancels the other. */
export function placePair(pane: string, pair: readonly [OrderWish, OrderWish]) {
  const orders = pair.map((wish) => ({ clientOrderId: clientId(), ...wish }));
  const sent = request('POST /api/order-groups', { body: { kind: 'oco', orders, onPartialFill: 'cancel' } });
  return told(
    pane,
    sent,
    (group) => `sent the pair: ${group.orders.map(orderWords).join(', ')}`,
    () => lookUp(pair[0].account, orders[0]?.clientOrderId ?? ''),
  );
}

const inFlight = new Map<string, Readonly<Record<string, string | number>> | null>();

/** Changes an order. One change is in flight per order; of those that come meanwhile the newest waits. */
export async function change(pane: string, order: ApiOrder, to: Readonly<Record<string, string | number>>): Promise<void> {
  const { id } = order;
  if (inFlight.has(id)) {
    inFlight.set(id, to);
    return;
  }
  inFlight.set(id, null);
  const sent = request('PATCH /api/orders/{id}', { path: { id }, body: { ...to, clientOrderId: clientId() } });
  await told(
    pane,
    sent,
    (now) => `moved ${orderWords({ ...now, ...to })}`,
    () => standing(id),
  );
  const next = inFlight.get(id);
  inFlight.delete(id);
  if (next) await change(pane, order, next);
}

export function cancel(pane: string, { id }: ApiOrder): Promise<Answer<ApiOrder>> {
  return told(
    pane,
    request('DELETE /api/orders/{id}', { path: { id } }),
    (order) => `cancelled ${orderWords(order)}`,
    () => standing(id),
  );
}

export function close(
  pane: string,
  account: string,
  instrument: string,
  part: { readonly percent?: string; readonly quantity?: string },
): Promise<Answer<ApiOrder>> {
  const clientOrderId = clientId();
  const body = { clientOrderId, ...part };
  const sent = request('POST /api/positions/{account}/{instrument}/close', { path: { account, instrument }, body });
  return told(
    pane,
    sent,
    (order) => `closing ${order.quantity} ${instrument}`,
    () => lookUp(account, clientOrderId),
  );
}

export function reverse(pane: string, account: string, instrument: string): Promise<Answer<ApiOrder>> {
  const clientOrderId = clientId();
  const sent = request('POST /api/positions/{account}/{instrument}/reverse', { path: { account, instrument }, body: { clientOrderId } });
  return told(
    pane,
    sent,
    (order) => `reversing: ${orderWords(order)}`,
    () => lookUp(account, clientOrderId),
  );
}

export function link(pane: string, orders: readonly ApiOrder[]) {
  const sent = request('POST /api/order-groups', { body: { kind: 'oco', orderIds: orders.map(({ id }) => id) } });
  return told(
    pane,
    sent,
    (group) => `linked ${group.orders.length}: a fill of one ${group.onPartialFill === 'cancel' ? 'cancels' : 'lowers'} the others`,
    () => standing(orders[0]?.id ?? ''),
  );
}

async function planStands(account: string, instrument: string): Promise<string | null> {
  const found = await request('GET /api/running-plans', { query: { account } });
  if (!found.ok) return found.problem.status === 0 ? null : problemWords(found.problem);
  const plan = found.value.items.filter((one) => one.instrument === instrument).at(-1);
  return plan ? `the exit plan of ${instrument} is ${plan.state}` : `there is no exit plan on ${instrument}`;
}

export function putPlan(pane: string, account: string, instrument: string, plan: string | object): Promise<Answer<ApiRunningPlan>> {
  const sent = request('POST /api/positions/{account}/{instrument}/exit-plan', { path: { account, instrument }, body: { plan } });
  return told(
    pane,
    sent,
    (now) => `exit plan ${now.name ?? ''} on ${instrument}: ${now.state}`,
    () => planStands(account, instrument),
  );
}

export function stopPlan(pane: string, { id, account, instrument }: ApiRunningPlan): Promise<Answer<ApiRunningPlan>> {
  const sent = request('DELETE /api/running-plans/{id}', { path: { id } });
  return told(
    pane,
    sent,
    (now) => `exit plan of ${instrument} ${now.state}; the position stays`,
    () => planStands(account, instrument),
  );
}

export function moveLeg(pane: string, { plan: { id, account, instrument }, step, name }: HereLeg, price: string): Promise<Answer<ApiRunningPlan>> {
  const sent = request('PATCH /api/running-plans/{id}', { path: { id }, body: { step, leg: name, price } });
  return told(
    pane,
    sent,
    () => `${name} of ${instrument}, held here, to ${price}`,
    () => planStands(account, instrument),
  );
}

export function answerPlan(pane: string, { id, account, instrument }: ApiRunningPlan, act: 'fire' | 'resume'): Promise<Answer<ApiRunningPlan>> {
  const sent = request('POST /api/running-plans/{id}/answer', { path: { id }, body: { act } });
  return told(
    pane,
    sent,
    () => (act === 'fire' ? `exit plan of ${instrument}: fires` : `exit plan of ${instrument}: waits until the level is passed anew`),
    () => planStands(account, instrument),
  );
}

const refusedWords = (refused: ApiFlattened['refused']): string =>
  refused.length === 0 ? '' : `; refused: ${refused.map((one) => `${one.orderId} ${one.detail}`).join('; ')}`;

export function cancelMany(pane: string, account: string, instrument: string | null, side?: 'buy' | 'sell') {
  const sent = request('POST /api/orders/cancel', { body: { account, ...(instrument === null ? {} : { instrument }), ...(side ? { side } : {}) } });
  return told(
    pane,
    sent,
    ({ canceled, refused }) => `cancelled ${canceled.length}${refusedWords(refused)}`,
    () => whatWorks(account, instrument),
  );
}

export function flatten(pane: string, account: string, instrument: string | null): Promise<Answer<ApiFlattened>> {
  const sent = request('POST /api/flatten', { body: { account, ...(instrument === null ? {} : { instrument }) } });
  return told(
    pane,
    sent,
    ({ canceled, closing, refused }) => `cancelled ${canceled.length}, closing ${closing.length}${refusedWords(refused)}`,
    () => whatWorks(account, instrument),
  );
}

/** How far a run is, in words. */
const runWords = ({ basket, state, progress }: ApiBasketRun): string => `${basket}: ${state}, ${progress.orders.done} of ${progress.orders.all} orders done`;

async function lookUpRun(basket: string, clientRunId: string): Promise<string | null> {
  const found = await request('GET /api/basket-runs', { query: { basket } });
  if (!found.ok) return found.problem.status === 0 ? null : problemWords(found.problem);
  const run = found.value.items.find((one) => one.clientRunId === clientRunId);
  return run ? `it went: ${runWords(run)}` : 'it did not go; nothing was sent';
}

export function sendBasket(pane: string, basket: string, percent: string, pace: 'at-once' | 'one-by-one'): Promise<Answer<ApiBasketRun>> {
  const clientRunId = clientId();
  const sent = request('POST /api/baskets/{name}/send', { path: { name: basket }, body: { percent, pace, clientRunId } });
  return told(pane, sent, runWords, () => lookUpRun(basket, clientRunId));
}

export function steerRun(pane: string, id: string, act: RunAct): Promise<Answer<ApiBasketRun>> {
  return told(pane, request(`POST /api/basket-runs/{id}/${act}`, { path: { id } }), runWords, async () => {
    const found = await request('GET /api/basket-runs/{id}', { path: { id } });
    if (!found.ok) return found.problem.status === 0 ? null : problemWords(found.problem);
    return runWords(found.value);
  });
}

async function lookUpWaiting(account: string, clientOrderId: string): Promise<string | null> {
  const found = await request('GET /api/conditional-orders');
  if (!found.ok) return found.problem.status === 0 ? null : problemWords(found.problem);
  const one = found.value.items.find((waiting) => waiting.account === account && waiting.clientOrderId === clientOrderId);
  return one ? `it is ${one.state}` : 'it did not go; nothing waits';
}

function waitFor(pane: string, when: string, order: OrderWish | PhrasedOrder): Promise<Answer<ApiWaiting>> {
  const clientOrderId = clientId();
  const { account, instrument } = order;
  const body = { clientOrderId, account, when, instrument, order: 'phrase' in order ? order.phrase : order };
  return told(
    pane,
    request('POST /api/conditional-orders', { body }),
    (waiting) => `waits until ${waiting.when}`,
    () => lookUpWaiting(account, clientOrderId),
  );
}

export function endWait(pane: string, { id, account, clientOrderId }: ApiWaiting): Promise<Answer<ApiWaiting>> {
  return told(
    pane,
    request('DELETE /api/conditional-orders/{id}', { path: { id } }),
    (waiting) => `no longer waits: ${waiting.when}`,
    () => lookUpWaiting(account, clientOrderId),
  );
}

/** Leaves several orders to wait for the same, all or none: where one is refused, those before it no longer wait. */
export async function waitForAll(pane: string, when: string, orders: readonly (OrderWish | PhrasedOrder)[]): Promise<Answer<readonly ApiWaiting[]>> {
  const taken: ApiWaiting[] = [];
  for (const order of orders) {
    const done = await waitFor(pane, when, order);
    if (done.ok) {
      taken.push(done.value);
      continue;
    }
    for (const one of taken) await endWait(pane, one);
    if (taken.length > 0) answer(pane, 'refused', `${problemWords(done.problem)}; none of them waits`);
    return done;
  }
  return { ok: true, status: 201, value: taken };
}
