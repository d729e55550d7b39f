import { VENUES, type Instrument, type VenueId } from '../instrument/index.ts';
import { formatDay, localHour, tradingDay, weekday, type Day } from '../market/index.ts';
import { NO_MONEY, divideHalfEven, minus, moneyOf, negated, plus, sumOf, type Money } from '../number/index.ts';

/** A round trip as it counts: money in EUR, base asset results at the mark of the last fill's moment. */
export interface CountedTrip {
  readonly instrument: Instrument;
  readonly account: string;
  readonly setup: string | null;
  readonly long: boolean;
  readonly closedAt: number;
  readonly heldSeconds: number;
  /** Decimal string. */
  readonly quantity: string;
  readonly gross: Money;
  readonly fees: Money;
  readonly net: Money;
  /** Net ÷ first risk at 8 decimals, as 10⁻⁸; null without one. */
  readonly r: bigint | null;
}

/** Quotients are at 8 decimals as 10⁻⁸, half to even, null where there is nothing to divide by. */
export interface Figures {
  readonly count: number;
  readonly wins: number;
  readonly losses: number;
  readonly flat: number;
  /** Percent at 2 decimals, as 10⁻². */
  readonly winRate: bigint | null;
  readonly gross: Money;
  readonly fees: Money;
  readonly net: Money;
  readonly averageNet: Money | null;
  readonly averageWin: Money | null;
  readonly averageLoss: Money | null;
  readonly expectancyR: bigint | null;
  readonly profitFactor: bigint | null;
  /** The largest fall of the running net from its high, which begins at 0; never negative. */
  readonly drawdown: Money;
  readonly largestWin: Money | null;
  readonly largestLoss: Money | null;
  readonly winStreak: number;
  readonly lossStreak: number;
  readonly averageHeldSeconds: bigint | null;
  readonly quantity: string;
  readonly days: number;
  readonly activeDays: number;
  readonly perDay: Money | null;
  readonly perActiveDay: Money | null;
}

const UNIT = 10n ** 8n;
const mean = (sum: bigint, count: number): bigint | null => (count === 0 ? null : divideHalfEven(sum, BigInt(count)));
const money = (value: bigint | null): Money | null => (value === null ? null : moneyOf(value));

export const dayOf = (trip: Pick<CountedTrip, 'instrument' | 'closedAt'>): Day => tradingDay(trip.instrument.venue, trip.closedAt);

/**
 * The figures of round trips, which are given by the time they closed.
 *
 * @param days trading days of the period up to and with today
 */
export function figuresOf(trips: readonly CountedTrip[], days: number): Figures {
  let [gross, fees, net, won, lost, running, high, drawdown] = Array<Money>(8).fill(NO_MONEY) as [Money, Money, Money, Money, Money, Money, Money, Money];
  let [wins, losses, winRun, lossRun, winStreak, lossStreak, withR] = [0, 0, 0, 0, 0, 0, 0];
  let largestWin: Money | null = null;
  let largestLoss: Money | null = null;
  let held = 0n;
  let rs = 0n;
  const active = new Set<Day>();
  for (const trip of trips) {
    gross = plus(gross, trip.gross);
    fees = plus(fees, trip.fees);
    net = plus(net, trip.net);
    running = plus(running, trip.net);
    if (running > high) high = running;
    const fall = minus(high, running);
    if (fall > drawdown) drawdown = fall;
    held += BigInt(trip.heldSeconds);
    active.add(dayOf(trip));
    if (trip.r !== null) {
      rs += trip.r;
      withR++;
    }
    winRun = trip.net > 0n ? winRun + 1 : 0;
    lossRun = trip.net < 0n ? lossRun + 1 : 0;
    winStreak = Math.max(winStreak, winRun);
    lossStreak = Math.max(lossStreak, lossRun);
    if (trip.net > 0n) {
      wins++;
      won = plus(won, trip.net);
      if (largestWin === null || trip.net > largestWin) largestWin = trip.net;
    } else if (trip.net < 0n) {
      losses++;
      lost = plus(lost, trip.net);
      if (largestLoss === null || trip.net < largestLoss) largestLoss = trip.net;
    }
  }
  const count = trips.length;
  return {
    count,
    wins,
    losses,
    flat: count - wins - losses,
    winRate: count === 0 ? null : divideHalfEven(BigInt(wins) * 10_000n, BigInt(count)),
    gross,
    fees,
    net,
    averageNet: money(mean(net, count)),
    averageWin: money(mean(won, wins)),
    averageLoss: money(mean(lost, losses)),
    expectancyR: mean(rs, withR),
    profitFactor: losses === 0 ? null : divideHalfEven(won * UNIT, negated(lost)),
    drawdown,
    largestWin,
    largestLoss,
    winStreak,
    lossStreak,
    averageHeldSeconds: mean(held * UNIT, count),
    quantity: sumOf(trips.map(({ quantity }) => quantity)),
    days,
    activeDays: active.size,
    perDay: money(mean(net, days)),
    perActiveDay: money(mean(net, active.size)),
  };
}

/** A point of the running result. */
export interface CurvePoint {
  readonly time: number;
  readonly net: Money;
}

/** Of a stretch of a curve these are kept, so that it is drawn as the whole would be. */
const KEPT_OF_STRETCH = 4;

/**
 * The running sum of net, a point a round trip.
 *
 * @param most about so many points at most: of each of equally long stretches the first, the last, the highest and the lowest
 */
export function curveOf(trips: readonly Pick<CountedTrip, 'closedAt' | 'net'>[], most: number): CurvePoint[] {
  let net = NO_MONEY;
  const nets = trips.map((trip) => (net = plus(net, trip.net)));
  const point = (at: number): CurvePoint => ({ time: (trips[at] as CountedTrip).closedAt, net: nets[at] as Money });
  if (trips.length <= most) return trips.map((_, at) => point(at));
  const stretches = Math.max(1, Math.floor(most / KEPT_OF_STRETCH));
  return Array.from({ length: stretches }, (_, i) => {
    const [from, end] = [Math.floor((i * trips.length) / stretches), Math.floor(((i + 1) * trips.length) / stretches)];
    let [low, high] = [from, from];
    for (let at = from; at < end; at++) {
      if ((nets[at] as Money) < (nets[low] as Money)) low = at;
      if ((nets[at] as Money) > (nets[high] as Money)) high = at;
    }
    return [...new Set([from, low, high, end - 1])].sort((a, b) => a - b).map(point);
  }).flat();
}

export const GROUPINGS = ['instrument', 'setup', 'account', 'kind', 'side', 'day', 'week', 'month', 'weekday', 'hour'] as const;
export type Grouping = (typeof GROUPINGS)[number];

/** What stands for having none; no setup may be named so. */
export const NONE = '(none)';
const WEEKDAYS = ['mon', 'tue', 'wed', 'thu', 'fri', 'sat', 'sun'] as const;
/** Days as they are written: round trips share few of them. */
const dayNames = new Map<Day, string>();
function nameOfDay(day: Day): string {
  let name = dayNames.get(day);
  if (name === undefined) dayNames.set(day, (name = formatDay(day)));
  return name;
}
const fromMonday = (day: Day): number => (weekday(day) + 6) % 7;

/** The Monday of a day's week. */
export const mondayOf = (day: Day): Day => day - fromMonday(day);

/** In which group of a grouping a round trip counts. */
export function groupKey(trip: CountedTrip, by: Grouping): string {
  switch (by) {
    case 'instrument':
      return trip.instrument.id;
    case 'setup':
      return trip.setup ?? NONE;
    case 'account':
      return trip.account;
    case 'kind':
      return trip.instrument.kind;
    case 'side':
      return trip.long ? 'long' : 'short';
    case 'day':
      return nameOfDay(dayOf(trip));
    case 'week':
      return nameOfDay(mondayOf(dayOf(trip)));
    case 'month':
      return nameOfDay(dayOf(trip)).slice(0, 7);
    case 'weekday':
      return WEEKDAYS[fromMonday(dayOf(trip))] as string;
    case 'hour':
      return hourOf(trip.instrument.venue, trip.closedAt);
    default:
      return by satisfies never;
  }
}

/** The hour of a venue's own time, `09`. */
export const hourOf = (venue: VenueId, time: number): string => String(localHour(VENUES[venue].zone, time)).padStart(2, '0');

/** Round trips by their groups, in the order of the keys; weekdays from Monday. */
export function grouped(trips: readonly CountedTrip[], by: Grouping): { readonly key: string; readonly trips: readonly CountedTrip[] }[] {
  const groups = new Map<string, CountedTrip[]>();
  for (const trip of trips) {
    const key = groupKey(trip, by);
    const there = groups.get(key);
    if (there) there.push(trip);
    else groups.set(key, [trip]);
  }
  const order = (key: string): string => (by === 'weekday' ? String(WEEKDAYS.indexOf(key as (typeof WEEKDAYS)[number])) : key);
  const before = (a: string, b: string): number => Number(order(a) > order(b)) - Number(order(a) < order(b));
  return [...groups].sort(([a], [b]) => before(a, b)).map(([key, of]) => ({ key, trips: of }));
}
