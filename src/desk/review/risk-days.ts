import type { AccountState } from '../../core/desk/index.ts';
import { VENUES } from '../../core/instrument/index.ts';
import { formatDay, isTradingDay, previousTradingDay, tradingDay, type Day } from '../../core/market/index.ts';
import { NO_MONEY, formatMoney, plus, type Money } from '../../core/number/index.ts';
import { dayCurve, inEuro, type CurvePoint, type CurvePrice, homeVenue } from '../../core/portfolio/index.ts';
import { dayFigures } from '../../core/desk/index.ts';
import { usesOn } from '../../core/review/index.ts';
import { readRules, rulesBefore, rulesText, type BlockingRule, type RiskRules } from '../../core/risk/index.ts';
import type { risk, ShapeOf } from '../../schemas/shapes.ts';
import type { Desk } from '../desk.ts';
import { isoTime } from '../present/text.ts';
import type { Past, Stopped } from './past.ts';
import type { Review, ReviewedTrip } from './review.ts';

const MINUTE_MS = 60_000;
const MOST_BARS = 5000;

/** Today of an account as it came about: at its fills and by the minute, up to now. */
export async function riskDay(desk: Desk, past: Past, state: AccountState): Promise<ShapeOf<typeof risk.riskDay>> {
  const { day } = await past.of(state.terms.id);
  const now = desk.now();
  const ids = [...new Set([...day.start.keys(), ...day.fills.map(({ instrument }) => instrument)])];
  const prices = (await Promise.all(ids.map((id) => minutePrices(desk, id, now)))).flat().sort((a, b) => a.time - b.time);
  await desk.ensureMarks([state.terms.id]);
  const market = desk.marks();
  const curve = dayCurve(
    day.start.values(),
    day.fills,
    prices,
    (id) => desk.instrument(id),
    (sum, { settlesIn }) => inEuro(sum, settlesIn, market),
  );
  const points = [...curve, { time: now, net: dayFigures(state, market).net }];
  const say = ({ time, net }: CurvePoint): { time: string; net: string } => ({ time: isoTime(time), net: formatMoney(net, 'EUR') });
  const extreme = (lower: boolean): CurvePoint => points.reduce((best, one) => (one.net < best.net === lower && one.net !== best.net ? one : best));
  return { day: formatDay(tradingDay(homeVenue(state.terms), now)), points: points.map(say), low: say(extreme(true)), high: say(extreme(false)) };
}

/** What an instrument traded at on the present trading day: its first price, then each minute's close once that is over. */
async function minutePrices(desk: Desk, id: string, now: number): Promise<CurvePrice[]> {
  const { venue } = desk.instrument(id);
  const today = tradingDay(venue, now);
  const { items } = await desk.bars({ instrument: id, interval: '1m', from: now - 86_400_000, to: null, limit: MOST_BARS });
  const minutes = items.filter(({ time }) => tradingDay(venue, time) === today);
  const [first] = minutes;
  const closes = minutes.map(({ time, close }) => ({ time: Math.min(now, time + MINUTE_MS), instrument: id, price: close }));
  // Without it what was carried would stand at its settlement until the first minute is over.
  return first ? [{ time: first.time, instrument: id, price: first.open }, ...closes] : closes;
}

type RiskDay = ShapeOf<typeof risk.riskDayPast>;
interface Span {
  readonly from: Day;
  readonly to: Day;
}

/** A day is near its limit from so much of it on. */
const NEAR_PERCENT = 75n;

/**
 * The last days of an account against its rules: what its closed trades made, how low that ran, how far each rule was used, what
 * the rules stopped.
 */
export function riskDays(desk: Desk, review: Review, state: AccountState, count: number): Promise<RiskDay[]> {
  const venue = homeVenue(state.terms);
  const days: Day[] = [];
  for (let day = tradingDay(venue, desk.now()); days.length < count; day = previousTradingDay(venue, day)) days.unshift(day);
  return daysAgainstRules(review, state, days);
}

/** The days of a span on which an account came near its day's limit and did not reach it. */
export async function nearDays(
  desk: Desk,
  review: Review,
  state: AccountState,
  { from, to }: Span,
): Promise<{ account: string; day: string; low: string; limit: string }[]> {
  const venue = homeVenue(state.terms);
  const days: Day[] = [];
  for (let day = from; day <= Math.min(to, tradingDay(venue, desk.now())); day++) if (isTradingDay(VENUES[venue], day)) days.push(day);
  const all = await daysAgainstRules(review, state, days);
  return all.flatMap(({ near, day, low, limit }) => (near && limit !== null ? [{ account: state.terms.id, day, low, limit }] : []));
}

async function daysAgainstRules(review: Review, state: AccountState, wanted: readonly Day[]): Promise<RiskDay[]> {
  const [from, to] = [wanted[0], wanted[wanted.length - 1]];
  if (from === undefined || to === undefined) return [];
  const venue = homeVenue(state.terms);
  const account = state.terms.id;
  const dayOf = (time: number): number => tradingDay(venue, time);
  const days = new Map<Day, { net: Money; low: Money; stopped: Stopped[]; open: ReviewedTrip[] }>();
  for (const day of wanted) days.set(day, { net: NO_MONEY, low: NO_MONEY, stopped: [], open: [] });
  const span = { from, to };
  const [stopped, trips, used] = [await review.stopped([account], span), await review.trips([account], span), await review.used(account, span)];
  for (const trip of trips) {
    const last = dayOf(trip.closedAt);
    for (let at = Math.max(span.from, dayOf(trip.trip.openedAt)); at <= last; at++) days.get(at)?.open.push(trip);
    const day = days.get(last);
    if (!day) continue;
    day.net = plus(day.net, trip.net);
    if (day.net < day.low) day.low = day.net;
  }
  for (const one of stopped) days.get(dayOf(one.time))?.stopped.push(one);
  return [...days].map(([day, { net, low, stopped: by, open }]) => {
    const on = rulesOn(state, day, dayOf);
    const limit = on.dayLossLimit;
    const reached = by.some(({ rule, blocks }) => rule === 'dayLossLimit' && blocks);
    const within = (time: number): boolean => dayOf(time) === day;
    const rules = new Map<BlockingRule, { refused: number; began: number }>();
    for (const { rule, blocks } of by) {
      const known = rules.get(rule) ?? { refused: 0, began: 0 };
      rules.set(rule, blocks ? { ...known, began: known.began + 1 } : { ...known, refused: known.refused + 1 });
    }
    return {
      day: formatDay(day),
      net: formatMoney(net, 'EUR'),
      low: formatMoney(low, 'EUR'),
      limit: limit === null ? null : formatMoney(limit, 'EUR'),
      reached,
      near: !reached && limit !== null && low * -100n >= limit * NEAR_PERCENT,
      uses: usesOn(
        within,
        open,
        used.filter(({ time }) => within(time)),
        on,
      ),
      rules: [...rules].map(([rule, counts]) => ({ rule, ...counts })),
    };
  });
}

/** The rules as they stood at the end of a day. */
function rulesOn({ risk: { rules, changes } }: AccountState, day: number, dayOf: (time: number) => number): RiskRules {
  const then = rulesBefore(
    rulesText(rules),
    changes.filter(({ time }) => dayOf(time) > day),
  );
  const read = readRules(then);
  return read.ok ? read.value : rules;
}
