import { atom } from 'nanostores';
import { MONEY_DECIMALS, NO_MONEY, formatScaled, inCents, minus, money, plus } from '../core/number/index.ts';
import { dayResult } from '../core/portfolio/index.ts';
import { $positions, positionKey, request, type ApiPosition } from '../live/index.ts';
import type { OrderWish } from './gestures/index.ts';

/** What all stops of an account would lose in EUR if what is aimed or dragged were done; null for `after` where a stop would lack. */
export interface WouldRisk {
  readonly account: string;
  readonly after: string | null;
}

export const $wouldRisk = atom<WouldRisk | null>(null);

type Held = Pick<ApiPosition, 'account' | 'instrument'>;

/**
 * A stop is dragged: the rail shows where the day would stand if it filled there.
 *
 * @param makes what its units would make from the mark to it, in what the position is settled in; null when it is let go
 * @param whole it is the stop of all of it; otherwise what the other stops would lose stays
 */
export function dragsStop({ account, instrument }: Held, makes: string | null, whole: boolean, before = '0'): void {
  if (makes === null) {
    if ($wouldRisk.get()?.account === account) $wouldRisk.set(null);
    return;
  }
  const key = positionKey(account, instrument);
  const position = $positions.get()[key];
  if (!position) return;
  const lost = minus(whole ? NO_MONEY : plus(money(position.openRisk ?? '0'), money(before)), money(makes));
  const as: ApiPosition = { ...position, openRisk: formatScaled(lost, MONEY_DECIMALS, MONEY_DECIMALS), ...(whole ? { unitsWithoutStop: '0' } : {}) };
  const day = dayResult(Object.values({ ...$positions.get(), [key]: as }), account);
  $wouldRisk.set(day && { account, after: day.withoutStop.length > 0 ? null : inCents(day.openRisk) });
}

const STANDS_MS = 150;
let aimedAt: string | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;

/** An order is aimed at: once the aim stands still the server is asked what all stops could lose with it. */
export function aimsAt(wish: OrderWish | null): void {
  const key = wish && JSON.stringify(wish);
  if (key === aimedAt) return;
  clearTimeout(timer);
  if (aimedAt !== null) $wouldRisk.set(null);
  aimedAt = key;
  if (wish === null) return;
  timer = setTimeout(() => {
    void request('POST /api/orders/preview', { body: wish }).then((found) => {
      if (aimedAt === key && found.ok && found.value.ok) $wouldRisk.set({ account: wish.account, after: found.value.openRisk.after });
    });
  }, STANDS_MS);
}
