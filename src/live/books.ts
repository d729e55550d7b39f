import { atom, map } from 'nanostores';
import type { ApiAccount, ApiClock, ApiFill, ApiLink, ApiOrder, ApiPosition, ApiSession } from './shapes.ts';
import { request, setCsrf } from './api.ts';
import { loadInstruments } from './instruments.ts';
import { follow, openStream } from './stream.ts';

/** Who is signed in, and everything of theirs that the views show. */
export const $session = atom<ApiSession | null>(null);
export const $accounts = map<Record<string, ApiAccount>>({});
export const $orders = map<Record<string, ApiOrder>>({});
export const $positions = map<Record<string, ApiPosition>>({});
export const $fills = atom<readonly ApiFill[]>([]);
export const $clock = atom<ApiClock | null>(null);
export const $link = atom<ApiLink | null>(null);
export const $ready = atom(false);

const KEPT_FILLS = 500;
const TERMINAL = new Set(['filled', 'canceled', 'rejected', 'expired']);

export const isWorking = (order: ApiOrder): boolean => !TERMINAL.has(order.state);
export const positionKey = (account: string, instrument: string): string => `${account} ${instrument}`;

export async function refreshAccounts(): Promise<void> {
  const answer = await request('GET /api/accounts');
  if (answer.ok) $accounts.set(Object.fromEntries(answer.value.items.map((account) => [account.id, account])));
}

/** Signs this window in to the stream and begins to follow the books. */
export async function begin(): Promise<boolean> {
  const session = await request('GET /api/session');
  if (!session.ok) return false;
  setCsrf(session.value.csrf);
  $session.set(session.value);
  await Promise.all([loadInstruments(), refreshAccounts()]);
  openStream(session.value.csrf);
  followBooks();
  $ready.set(true);
  return true;
}

function followBooks(): void {
  follow<ApiOrder | ApiOrder[]>('orders', (data, snapshot) => {
    if (snapshot && Array.isArray(data)) $orders.set(Object.fromEntries(data.map((order) => [order.id, order])));
    else $orders.setKey((data as ApiOrder).id, data as ApiOrder);
  });
  follow<ApiPosition | ApiPosition[]>('positions', (data, snapshot) => {
    const key = (position: ApiPosition): string => positionKey(position.account, position.instrument);
    if (snapshot && Array.isArray(data)) $positions.set(Object.fromEntries(data.map((position) => [key(position), position])));
    else $positions.setKey(key(data as ApiPosition), data as ApiPosition);
  });
  follow<ApiFill | ApiFill[]>('fills', (data, snapshot) => {
    if (snapshot && Array.isArray(data)) $fills.set(data);
    else {
      $fills.set([...$fills.get(), data as ApiFill].slice(-KEPT_FILLS));
      void refreshAccounts();
    }
  });
  follow<ApiClock>('clock', (data) => $clock.set(data));
  follow<ApiLink>('link', (data) => $link.set(data));
}
