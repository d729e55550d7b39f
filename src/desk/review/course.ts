import type { Entry } from '../../core/desk/index.ts';
import { exitLevels, type ExitLevel, type RoundTrip } from '../../core/review/index.ts';
import type { Desk } from '../desk.ts';

const AT_ONCE = 1000;
/** A round trip of more entries than these is told as far as they go. */
const MOST_ENTRIES = 10_000;
const MINUTE = 60_000;

/** How a round trip went: what was asked and answered for it, and where its exits stood meanwhile. */
export interface Course {
  readonly entries: readonly Entry[];
  readonly levels: readonly ExitLevel[];
}

/** Reads the course of a round trip from the activity, from its first order on. */
export async function courseOf(desk: Desk, trip: RoundTrip): Promise<Course> {
  const { account, instrument, openedAt, closedAt, fills } = trip;
  const own = new Set(fills.map(({ orderId }) => orderId));
  const [first] = await desk.entries({ accounts: [account], orderId: fills[0]?.orderId ?? '', limit: AT_ONCE });
  const all: Entry[] = [];
  for (let after = (first?.seq ?? 1) - 1; all.length < MOST_ENTRIES;) {
    const found = await desk.entries({ accounts: [account], instrument, after, limit: AT_ONCE });
    all.push(...found.filter(({ time }) => time <= closedAt + MINUTE));
    const last = found[found.length - 1];
    if (found.length < AT_ONCE || !last || last.time > closedAt + MINUTE) break;
    after = last.seq;
  }
  return {
    entries: all.filter(({ orderId, time }) => orderId !== null && (own.has(orderId) || time >= openedAt - MINUTE)),
    levels: exitLevels(desk.instrument(instrument), all, openedAt, closedAt),
  };
}
