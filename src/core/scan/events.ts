import { LONGEST_PHRASE, type Compare, type EventName } from '../language/index.ts';
import { barEnd, barStart, type Interval } from '../market/index.ts';
import type { MarketColumns } from './columns.ts';
import { FALSE, TRUE, UNKNOWN, plain, truth, type Cursor, type Node, type Scope, type Test, type Truth } from './evaluation.ts';

type Series = NonNullable<ReturnType<MarketColumns['bars']>>;

/** Which bar is the present one: the newest, or as of a closed bar the one that was closed with it. */
export function indexIn(series: Series, interval: Interval, cursor: Cursor | null): number {
  if (!cursor) return series.length - 1;
  if (interval === cursor.interval) {
    const own = series.time[cursor.index] === cursor.start ? cursor.index : series.indexAt(cursor.start + 1) - 1;
    return own;
  }
  return series.closedBy(barEnd(series.venue, cursor.interval, cursor.start));
}

export function compared(compare: Compare, left: Node, right: Node): Test {
  const exact = left.exact && right.exact;
  return (scope, i) => {
    const a = exact ? left.get(scope, i, null) : plain(left, scope, i, null);
    const b = exact ? right.get(scope, i, null) : plain(right, scope, i, null);
    if (Number.isNaN(a) || Number.isNaN(b)) return UNKNOWN;
    const slack = scope.slack ? scope.slack * Math.abs(b) : 0;
    switch (compare) {
      case '<':
        return truth(a < b + slack);
      case '<=':
        return truth(a <= b + slack);
      case '>':
        return truth(a > b - slack);
      case '>=':
        return truth(a >= b - slack);
      case '=':
      case 'is':
        return truth(a === b);
      case 'is not':
        return truth(a !== b);
      default:
        return compare satisfies never;
    }
  };
}

export const within = (apart: number, far: number): Truth => (Number.isNaN(apart) || Number.isNaN(far) ? UNKNOWN : truth(apart <= far));

/** Whether a value went over another between two looks; `before` and `now` are value less other, `earlier` the look before that. */
function happened(event: EventName, before: number, now: number): boolean {
  switch (event) {
    case 'rises above':
      return before <= 0 && now > 0;
    case 'falls below':
      return before >= 0 && now < 0;
    case 'crosses':
      return (before <= 0 && now > 0) || (before >= 0 && now < 0);
    case 'returns from below':
      return before < 0 && now >= 0;
    case 'returns from above':
      return before > 0 && now <= 0;
    case 'turns up':
      return before < 0 && now > 0;
    case 'turns down':
      return before > 0 && now < 0;
    default:
      return event satisfies never;
  }
}

/** An event judged from one evaluation to the next; the first is none. */
export function passingEvent(event: EventName, value: Node, other: Node, place: number): Test {
  const turns = event === 'turns up' || event === 'turns down';
  return (scope, i) => {
    const now = plain(value, scope, i, null);
    const side = difference(value, other, scope, i, null);
    if (!scope.memory) return UNKNOWN;
    const key = i * LONGEST_PHRASE + place;
    const before = scope.memory.get(key);
    if (Number.isNaN(side)) return UNKNOWN;
    const trend = before ? Math.sign(now - before.value) : 0;
    scope.memory.set(key, { side: Math.sign(side), value: now, trend });
    if (!before) return FALSE;
    return truth(turns ? happened(event, before.trend, trend) : happened(event, before.side, side));
  };
}

function difference(value: Node, other: Node, scope: Scope, i: number, cursor: Cursor | null): number {
  if (value.exact && other.exact) return value.get(scope, i, cursor) - other.get(scope, i, cursor);
  const [a, b] = [plain(value, scope, i, cursor), plain(other, scope, i, cursor)];
  return a === b ? 0 : a - b;
}

/** An event on closed bars: true from a bar's close until so many of the intervals after it are over. */
export function barEvent(event: EventName, value: Node, other: Node, interval: Interval, bars: number, subject: string | null): Test {
  const turns = event === 'turns up' || event === 'turns down';
  return (scope, i) => {
    const { columns } = scope;
    const place = subject === null ? i : (columns.place.get(subject) ?? -1);
    const series = columns.bars(place, interval);
    const last = series?.closedBy(columns.now) ?? -1;
    if (!series || last < 0) return UNKNOWN;
    const at = (index: number): Cursor => ({ interval, index, start: series.time[index] as number });
    const side = (index: number): number => (index < 0 ? NaN : difference(value, other, scope, i, at(index)));
    const trend = (index: number): number => (index < 1 ? NaN : plain(value, scope, i, at(index)) - plain(value, scope, i, at(index - 1)));
    const measure = turns ? trend : side;
    let found: Truth = FALSE;
    let passed = intervalsUntil(series, series.end(last), columns.now, bars);
    for (let index = last; index >= 0 && passed < bars; index--) {
      const [before, now] = [measure(index - 1), measure(index)];
      if (Number.isNaN(before) || Number.isNaN(now)) found = UNKNOWN;
      else if (happened(event, before, now)) return TRUE;
      if (index > 0) passed += intervalsUntil(series, series.end(index - 1), series.end(index), bars);
    }
    return found;
  };
}

/** How many whole intervals lie between two moments, the first a bar's end; at most so many are counted. */
function intervalsUntil({ venue, interval }: Series, from: number, to: number, most: number): number {
  let count = 0;
  for (let end = nextEnd(venue, interval, from); end <= to && count < most; end = nextEnd(venue, interval, end)) count++;
  return count;
}

const nextEnd = (venue: Series['venue'], interval: Interval, end: number): number => barEnd(venue, interval, barStart(venue, interval, end));
