import { dayStart, tradingDay } from '../core/market/index.ts';
import { request, type AnswerOf } from '../live/index.ts';

type Entry = AnswerOf<'GET /api/activity'>['items'][number];

/** How far back the record is looked at. */
export const SPANS = ['newest', 'today', 'week', 'all'] as const;
export type Span = (typeof SPANS)[number];

const PAGE = 1000;
/** More than that no table holds at once: what is older is exported from the server. */
const MOST_ENTRIES = 50_000;
const WEEK_DAYS = 7;

/** When a span begins, by the market's clock: its trading day, or that of a week ago; null for what the window has anyhow. */
export function beginsAt(span: Span, now: number): number | null {
  if (span === 'newest') return null;
  if (span === 'all') return -Infinity;
  const today = tradingDay('HALM', now);
  return dayStart('HALM', span === 'today' ? today : today - WEEK_DAYS + 1);
}

/**
 * Reads the record back from an entry to a time, a page at a time, oldest first.
 *
 * @param before number of the entry from which on the window has them
 * @param since market time, in milliseconds
 * @param goesOn asked before each page, so that nobody reads on who is gone
 * @returns what was read, and whether there is more that was not
 */
export async function readBack(before: number, since: number, goesOn: () => boolean): Promise<{ entries: readonly Entry[]; more: boolean }> {
  const pages: (readonly Entry[])[] = [];
  let count = 0;
  for (let from = before; goesOn();) {
    const page = await request('GET /api/activity', { query: { before: from, limit: PAGE } });
    if (!page.ok) return { entries: pages.flat(), more: true };
    const { items } = page.value;
    const wanted = items.filter(({ time }) => Date.parse(time) >= since);
    pages.unshift(wanted);
    count += wanted.length;
    const [oldest] = items;
    if (oldest === undefined || wanted.length < items.length || items.length < PAGE) return { entries: pages.flat(), more: false };
    if (count >= MOST_ENTRIES) return { entries: pages.flat(), more: true };
    from = oldest.seq;
  }
  return { entries: pages.flat(), more: true };
}

/** Entries read back with those that came since, each once; `window` holds the newest alone. */
export function joined(before: readonly Entry[], window: readonly Entry[]): readonly Entry[] {
  const last = before[before.length - 1]?.seq ?? -1;
  const fresh = window.filter(({ seq }) => seq > last);
  return fresh.length === 0 ? before : [...before, ...fresh].slice(-MOST_ENTRIES);
}
