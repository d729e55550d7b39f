import { call, $positions, positionKey, type Answer, type ApiFlattened, type ApiOrder, type Problem } from '../../live/index.ts';
import { answer } from './answers.ts';

/** The fields of an order request besides its client order id. */
export interface OrderWish {
  readonly account: string;
  readonly instrument: string;
  readonly side: 'buy' | 'sell';
  readonly type: 'market' | 'limit' | 'stop' | 'stop-limit';
  readonly quantity: string;
  readonly limitPrice?: string;
  readonly limitOffsetTicks?: number;
  readonly stopPrice?: string;
  readonly timeInForce?: string;
  readonly restOnly?: boolean;
  readonly reduceOnly?: boolean;
  readonly crossesZero?: boolean;
}

const LOOK_AGAIN_MS = 1000;
const clientId = (): string => `w-${crypto.randomUUID()}`;
const clock = (at: number): string => new Date(at).toISOString().slice(11, 23);

/** A problem in one line of words. */
export const problemWords = (problem: Problem): string => problem.errors?.map((error) => error.message).join('; ') ?? problem.detail;

const words = (order: ApiOrder): string => {
  const price = order.limitPrice ?? order.stopPrice;
  const at = price === null ? 'at market' : `${order.stopPrice !== null ? 'stop ' : ''}${price}`;
  return `${order.side === 'buy' ? 'B' : 'S'} ${order.quantity} ${at}`;
};

/** What the order reduces, or null where it opens. */
export function reduces(wish: Pick<OrderWish, 'account' | 'instrument' | 'side' | 'quantity'>): boolean {
  const held = Number($positions.get()[positionKey(wish.account, wish.instrument)]?.quantity ?? 0);
  return held !== 0 && (wish.side === 'sell') === held > 0 && Number(wish.quantity) <= Math.abs(held);
}

/** Why an order would turn the position over, or null. */
export function crossing(wish: Pick<OrderWish, 'account' | 'instrument' | 'side' | 'quantity'>): string | null {
  const held = Number($positions.get()[positionKey(wish.account, wish.instrument)]?.quantity ?? 0);
  if (held === 0 || (wish.side === 'sell') !== held > 0 || Number(wish.quantity) <= Math.abs(held)) return null;
  return `it would cross zero: ${Math.abs(held)} held, ${wish.quantity} asked; close ${Math.abs(held)} first`;
}

/** Sends an order, and says in the pane what became of it. An unanswered one is looked up until it is known. */
export async function sendOrder(pane: string, wish: OrderWish): Promise<Answer<ApiOrder>> {
  const clientOrderId = clientId();
  const at = Date.now();
  const sent = await call<ApiOrder>('POST', '/api/orders', { clientOrderId, ...wish });
  if (sent.ok) answer(pane, 'done', `sent ${words(sent.value)}`);
  else if (sent.problem.status === 0) {
    answer(pane, 'unknown', `asked ${clock(at)}, no answer: not known whether it went`);
    void lookUp(pane, wish.account, clientOrderId);
  } else answer(pane, 'refused', problemWords(sent.problem));
  return sent;
}

async function lookUp(pane: string, account: string, clientOrderId: string): Promise<void> {
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
    const found = await call<{ items: ApiOrder[] }>('GET', `/api/orders?account=${account}&limit=1000`);
    if (!found.ok) continue;
    const order = found.value.items.find((item) => item.clientOrderId === clientOrderId);
    answer(pane, order ? 'done' : 'refused', order ? `it went: ${words(order)}` : 'it did not go; nothing was sent');
    return;
  }
}

const inFlight = new Map<string, Record<string, unknown> | null>();

/** Changes an order. One change is in flight per order; of those that come meanwhile the newest waits. */
export async function changeOrder(pane: string, order: ApiOrder, change: Record<string, unknown>): Promise<void> {
  if (inFlight.has(order.id)) {
    inFlight.set(order.id, change);
    return;
  }
  inFlight.set(order.id, null);
  const done = await call<ApiOrder>('PATCH', `/api/orders/${order.id}`, { ...change, clientOrderId: clientId() });
  const next = inFlight.get(order.id);
  inFlight.delete(order.id);
  if (done.ok) answer(pane, 'done', `moved ${words({ ...done.value, ...change })}`);
  else answer(pane, done.problem.status === 0 ? 'unknown' : 'refused', problemWords(done.problem));
  if (next) await changeOrder(pane, order, next);
}

export async function cancelOrder(pane: string, order: ApiOrder): Promise<void> {
  const done = await call<ApiOrder>('DELETE', `/api/orders/${order.id}`);
  if (done.ok) answer(pane, 'done', `cancelled ${words(done.value)}`);
  else answer(pane, done.problem.status === 0 ? 'unknown' : 'refused', problemWords(done.problem));
}

export async function closePosition(pane: string, account: string, instrument: string): Promise<void> {
  const done = await call<ApiOrder>('POST', `/api/positions/${account}/${instrument}/close`, { clientOrderId: clientId() });
  if (done.ok) answer(pane, 'done', `closing ${done.value.quantity} ${instrument}`);
  else answer(pane, done.problem.status === 0 ? 'unknown' : 'refused', problemWords(done.problem));
}

export async function flatten(pane: string, account: string, instrument?: string): Promise<void> {
  const done = await call<ApiFlattened>('POST', '/api/flatten', { account, ...(instrument ? { instrument } : {}) });
  if (!done.ok) answer(pane, done.problem.status === 0 ? 'unknown' : 'refused', problemWords(done.problem));
  else answer(pane, done.value.refused.length > 0 ? 'refused' : 'done', flattenWords(done.value));
}

function flattenWords({ canceled, closing, refused }: ApiFlattened): string {
  const done = `cancelled ${canceled.length}, closing ${closing.length}`;
  return refused.length === 0 ? done : `${done}; refused: ${refused.map((one) => `${one.orderId} ${one.detail}`).join('; ')}`;
}

export async function cancelMany(pane: string, account: string, instrument: string, side?: 'buy' | 'sell'): Promise<void> {
  const done = await call<{ canceled: ApiOrder[] }>('POST', '/api/orders/cancel', { account, instrument, ...(side ? { side } : {}) });
  if (done.ok) answer(pane, 'done', `cancelled ${done.value.canceled.length}`);
  else answer(pane, done.problem.status === 0 ? 'unknown' : 'refused', problemWords(done.problem));
}
