import { VENUES, type VenueId } from '../core/instrument/index.ts';
import { isTradingDay, localDay, nextDayTurn, nextIntradayEnd, nextTradingDay, sessionTimes } from '../core/market/index.ts';

/** What comes next for an account, and when. Times are market time, in milliseconds. */
export interface NextEvent {
  readonly words: string;
  readonly at: number;
}

interface Ask {
  /** Where the account has positions or orders, or would place one. */
  readonly venues: readonly VenueId[];
  /** Those of them where it holds something only until the broker's intraday close. */
  readonly intraday: readonly VenueId[];
  /** Blocks of the account's rules, and when a no-trade window begins next. */
  readonly blocked?: readonly { readonly rule: string; readonly until: string }[];
  readonly nextWindow?: string | null;
  /** When working orders expire by themselves. */
  readonly expiries?: readonly string[];
}

/** What ends with a block that ends by itself within a day. */
const BLOCK_ENDS: Readonly<Record<string, string>> = { noTradeWindows: 'window ends', coolDown: 'cooled' };

function ofVenue(venue: VenueId, now: number, intraday: boolean): NextEvent[] {
  const { zone, session } = VENUES[venue];
  if (session === null) return [{ words: `${venue} turns`, at: nextDayTurn(venue, now) }];
  const day = localDay(zone, now);
  const today = isTradingDay(VENUES[venue], day) ? sessionTimes(venue, day) : null;
  if (today && now < today.open) return [{ words: `${venue} opens`, at: today.open }];
  if (!today || now >= today.close) return [{ words: `${venue} opens`, at: sessionTimes(venue, nextTradingDay(venue, day)).open }];
  const ends = intraday ? nextIntradayEnd(venue, now) : null;
  return [{ words: `${venue} closes`, at: today.close }, ...(ends === null ? [] : [{ words: 'intraday ends', at: ends }])];
}

/**
 * The nearest of what comes: a no-trade window or its end, the end of a cool-down, a working order's expiry, the
 * broker's intraday close, a session's end or opening, a day's turn.
 */
export function nextEvent(now: number, { venues, intraday, blocked = [], nextWindow = null, expiries = [] }: Ask): NextEvent | null {
  const moments = [
    ...[...new Set(venues)].flatMap((venue) => ofVenue(venue, now, intraday.includes(venue))),
    ...blocked.flatMap(({ rule, until }) => (BLOCK_ENDS[rule] === undefined ? [] : [{ words: BLOCK_ENDS[rule], at: Date.parse(until) }])),
    ...(nextWindow === null ? [] : [{ words: 'no-trade', at: Date.parse(nextWindow) }]),
    ...expiries.map((at) => ({ words: 'order ends', at: Date.parse(at) })),
  ];
  const all = moments.filter(({ at }) => at > now);
  return all.reduce<NextEvent | null>((nearest, one) => (nearest === null || one.at < nearest.at ? one : nearest), null);
}

const SOON_MS = 5 * 60_000;

/** An event in words: its time, and when it is near how long it is until then. */
export function eventWords({ words, at }: NextEvent, now: number, clock: (time: number) => string): string {
  const left = Math.max(0, Math.ceil((at - now) / 1000));
  if (at - now >= SOON_MS) return `${words} ${clock(at)}`;
  return `${words} in ${Math.floor(left / 60)}:${String(left % 60).padStart(2, '0')}`;
}
