import { atom, map } from 'nanostores';
import type { ApiAccount, ApiClock, ApiFill, ApiLink, ApiOrder, ApiPosition, ApiRisk, ApiRunningPlan, ApiSession } from './shapes.ts';
import { request, setCsrf } from './api.ts';
import { tradingDay } from '../core/market/index.ts';
import { followAlerts } from './alerts.ts';
import { loadInstruments } from './instruments.ts';
import { takeOrder, takeOrders } from './orders.ts';
import { readFill, readPosition, type LiveFill, type LivePosition } from './read.ts';
import { follow, openStream } from './stream.ts';

/** Who is signed in, and everything of theirs that the views show. */
export const $session = atom<ApiSession | null>(null);
export const $accounts = map<Record<string, ApiAccount>>({});
export const $positions = map<Record<string, LivePosition>>({});
/** Exit plans that run, and those that ended today. */
export const $plans = map<Record<string, ApiRunningPlan>>({});
/** What the rules of each account have come to. */
export const $risk = map<Record<string, ApiRisk>>({});
export const $fills = atom<readonly LiveFill[]>([]);
export const $clock = atom<ApiClock | null>(null);
export const $link = atom<ApiLink | null>(null);
export const $ready = atom(false);

/** Fills that a window keeps: more than a day of the busiest hands. */
const MOST_FILLS = 20_000;
const PAGE = 1000;
const AGAIN_MS = 1000;

export const positionKey = (account: string, instrument: string): string => `${account} ${instrument}`;

/** @returns false where they could not be read */
async function loadAccounts(): Promise<boolean> {
  const answer = await request('GET /api/accounts');
  if (answer.ok) $accounts.set(Object.fromEntries(answer.value.items.map((account) => [account.id, account])));
  return answer.ok;
}

/** Asks until it is answered: without it nothing could be traded. */
async function untilDone(ask: () => Promise<boolean>): Promise<void> {
  while (!(await ask())) await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
}

/** Signs this window in to the stream and begins to follow the books. */
export async function begin(): Promise<boolean> {
  const session = await request('GET /api/session');
  if (!session.ok) return false;
  setCsrf(session.value.csrf);
  $session.set(session.value);
  await Promise.all([untilDone(loadInstruments), untilDone(loadAccounts)]);
  openStream(session.value.csrf);
  followBooks();
  $ready.set(true);
  return true;
}

/** Each fill once, in the order they came. */
function addFills(told: readonly ApiFill[]): void {
  const more = told.map((fill) => readFill(fill));
  const known = $fills.get();
  const newest = known[known.length - 1]?.seq ?? -1;
  // Nearly always what comes is newer than all there is.
  if (more.every(({ seq }, i) => seq > (more[i - 1]?.seq ?? newest))) $fills.set([...known, ...more].slice(-MOST_FILLS));
  else {
    const all = new Map([...known, ...more].map((fill) => [fill.seq, fill]));
    $fills.set([...all.values()].sort((a, b) => a.seq - b.seq).slice(-MOST_FILLS));
  }
}

/** The day's fills from before what a snapshot holds. */
async function loadDayFills(): Promise<void> {
  for (let oldest = $fills.get()[0]; oldest !== undefined && $fills.get().length < MOST_FILLS;) {
    const { seq, time } = oldest;
    const now = $clock.get()?.time;
    if (now !== undefined && tradingDay('HALM', Date.parse(time)) < tradingDay('HALM', Date.parse(now))) return;
    const page = await request('GET /api/fills', { query: { before: seq, limit: PAGE } });
    if (!page.ok || page.value.items.length === 0) return;
    addFills(page.value.items);
    oldest = $fills.get()[0];
    if (oldest?.seq === seq) return;
  }
}

function followBooks(): void {
  follow<ApiOrder | ApiOrder[]>('orders', (data, snapshot) => {
    if (snapshot && Array.isArray(data)) takeOrders(data);
    else takeOrder(data as ApiOrder);
  });
  follow<ApiPosition | ApiPosition[]>('positions', (data, snapshot) => {
    const key = (position: ApiPosition): string => positionKey(position.account, position.instrument);
    if (snapshot && Array.isArray(data)) $positions.set(Object.fromEntries(data.map((position) => [key(position), readPosition(position)])));
    else $positions.setKey(key(data as ApiPosition), readPosition(data as ApiPosition));
  });
  follow<ApiRunningPlan | ApiRunningPlan[]>('plans', (data, snapshot) => {
    if (snapshot && Array.isArray(data)) $plans.set(Object.fromEntries(data.map((plan) => [plan.id, plan])));
    else $plans.setKey((data as ApiRunningPlan).id, data as ApiRunningPlan);
  });
  follow<ApiAccount | ApiAccount[]>('accounts', (data) => {
    for (const account of Array.isArray(data) ? data : [data]) $accounts.setKey(account.id, account);
  });
  follow<ApiRisk | ApiRisk[]>('risk', (data) => {
    for (const state of Array.isArray(data) ? data : [data]) $risk.setKey(state.account, state);
  });
  follow<ApiFill | ApiFill[]>('fills', (data, snapshot) => {
    addFills(Array.isArray(data) ? data : [data]);
    if (snapshot) void loadDayFills();
  });
  followAlerts();
  follow<ApiClock>('clock', (data) => $clock.set(data));
  follow<ApiLink>('link', (data) => $link.set(data));
}
