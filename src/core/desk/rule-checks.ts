import { legPrice, shareOut } from '../exits/index.ts';
import { asQuantity, formatQuantity, inUnits, sizeOf, type Instrument, type InstrumentKind, type Quantity } from '../instrument/index.ts';
import { dayStart, nextTradingDay, tradingDay, venueMoment } from '../market/index.ts';
import { NO_MONEY, formatMoney, formatScaled, minus, plus, type Money } from '../number/index.ts';
import { limitPriceOf, remainingQuantity, stopPriceOf, type Order, type Refusal } from '../orders/index.ts';
import { inEuro, valueAt, homeVenue } from '../portfolio/index.ts';
import { blocksAt, takenWithin, windowAt, type Block, type BlockingRule, type MeasuredRule, type OrderUse } from '../risk/index.ts';
import { dayFigures, leftOfDay, totalOpenRisk } from './day.ts';
import { fillsNow, orderValue } from './estimate.ts';
import { feeEstimate } from './exposure.ts';
import type { Facts } from './facts.ts';
import type { AccountState } from './state.ts';

/** An opening order before the rules of its account. */
export interface Judged {
  readonly state: AccountState;
  readonly order: Order;
  readonly instrument: Instrument;
  readonly position: Quantity;
  readonly opens: Quantity;
  readonly facts: Facts;
  /** It works already and is only changed: it is not counted again. */
  readonly replaces: boolean;
}

/** What a rule that is set says of an order. */
interface Measured {
  readonly rule: BlockingRule;
  readonly instrument: string | null;
  readonly until: number | null;
  readonly stops: boolean;
  /** It is told and stops nothing. */
  readonly warns: boolean;
  /** Why it stops, as a sentence; else in few words what is left of it. Put in words only where they are read. */
  readonly words: () => string;
  /** How far the order uses it, where its like is measured by the order. */
  readonly use: OrderUse | null;
}

/** Null where the rule isn't set, or has nothing to measure. */
type RuleCheck = (of: Judged) => Measured | null;

type Words = () => string;

const stopped = (rule: BlockingRule, words: Words, more: Partial<Measured> = {}): Measured => ({
  rule,
  instrument: null,
  until: null,
  warns: false,
  use: null,
  ...more,
  stops: true,
  words,
});
const passed = (rule: BlockingRule, words: Words, use: OrderUse | null = null): Measured => ({
  rule,
  instrument: null,
  until: null,
  warns: false,
  stops: false,
  words,
  use,
});
const usedOf = (rule: MeasuredRule, used: bigint, most: bigint): OrderUse => ({ rule, used, most });

const UNITS = 8;
const ONE = 10n ** 8n;
const sayUnits = (units: bigint): string => formatScaled(units, UNITS, 0);
const euro = (sum: Money): string => formatMoney(sum, 'EUR');

/** When the trading day of an account ends. */
export function dayEnd(state: AccountState, time: number): number {
  const venue = homeVenue(state.terms);
  return dayStart(venue, nextTradingDay(venue, tradingDay(venue, time)));
}

function blocked({ state, facts }: Judged, rule: BlockingRule, fits: (block: Block) => boolean): Measured | null {
  const block = blocksAt(state.risk, facts.now).find((one) => one.rule === rule && fits(one));
  return block ? stopped(rule, () => block.reason, { instrument: block.instrument, until: block.until }) : null;
}

function dayLoss(of: Judged): Measured | null {
  const { state, facts } = of;
  const limit = state.risk.rules.dayLossLimit;
  const words = (): string => `${euro(leftOfDay(state, facts) ?? NO_MONEY)} left today, of a limit of ${euro(limit ?? NO_MONEY)}`;
  return blocked(of, 'dayLossLimit', () => true) ?? (limit === null ? null : passed('dayLossLimit', words));
}

function instrumentLoss(of: Judged): Measured | null {
  const { state, facts, instrument } = of;
  const limit = state.risk.rules.instrumentLossLimit;
  const words = (): string =>
    `${euro(plus(limit ?? NO_MONEY, dayFigures(state, facts, instrument.id).net))} left in ${instrument.id}, of a limit of ${euro(limit ?? NO_MONEY)}`;
  const block = blocked(of, 'instrumentLossLimit', (one) => one.instrument === instrument.id);
  return block ?? (limit === null ? null : passed('instrumentLossLimit', words));
}

function coolDown(of: Judged): Measured | null {
  const { rules, losing } = of.state.risk;
  const after = rules.coolDownAfterLosses;
  return blocked(of, 'coolDown', () => true) ?? (after === null ? null : passed('coolDown', () => `${losing} of ${after} losing round trips in a row`));
}

/** Working opening orders of the account but the one that is judged. */
export function* openingOrders(state: AccountState, except: string | null): Generator<Order, void> {
  for (const { order } of state.working.values()) if (order.opening && order.id !== except) yield order;
}

function workingOfKind({ state, order, facts }: Pick<Judged, 'state' | 'facts'> & { order: Order | null }, kind: InstrumentKind): bigint {
  let sum = 0n;
  for (const one of openingOrders(state, order?.id ?? null)) {
    const instrument = facts.instrument(one.instrument);
    if (instrument.kind === kind) sum += inUnits(remainingQuantity(one), instrument);
  }
  return sum;
}

function quantityCap(of: Judged): Measured | null {
  const { state, order, instrument, facts } = of;
  const { kind } = instrument;
  const usedUp = blocked(of, 'dayQuantityCap', (block) => block.kind === kind);
  const cap = state.risk.rules.dayQuantityCap?.[kind];
  if (usedUp || cap === undefined) return usedUp;
  const used = state.risk.used[kind] ?? 0n;
  const working = workingOfKind(of, kind);
  const wants = inUnits(order.terms.quantity - order.filledQuantity, instrument);
  const left = cap - used - working - wants;
  if (left >= 0n) return passed('dayQuantityCap', () => `${sayUnits(left)} of ${sayUnits(cap)} ${kind} units of the day left after it`);
  const words = (): string =>
    `Of ${sayUnits(cap)} ${kind} units for the day ${sayUnits(used)} are used and ${sayUnits(working)} are in working orders; ${sayUnits(wants)} more is over the cap.`;
  return stopped('dayQuantityCap', words, { until: dayEnd(state, facts.now) });
}

function orderQuantity({ state, order, instrument }: Judged): Measured | null {
  const most = state.risk.rules.maxOrderQuantity;
  if (most === null) return null;
  const own = (): string => formatQuantity(instrument, order.terms.quantity);
  const units = inUnits(order.terms.quantity, instrument);
  if (units <= most) return passed('maxOrderQuantity', () => `${own()} of at most ${sayUnits(most)} in one order`, usedOf('maxOrderQuantity', units, most));
  return stopped('maxOrderQuantity', () => `An order is at most ${sayUnits(most)}; this one is for ${own()}.`);
}

function valueInEuro({ order, instrument, facts }: Judged): Money | null {
  const price = limitPriceOf(order.terms, order.side, instrument) ?? stopPriceOf(order.terms);
  const fills = price === null ? fillsNow(order, instrument, facts.book(instrument.id)) : [];
  const value = orderValue(order, order.terms.quantity, instrument, fills, facts);
  return value === null ? null : inEuro(value, instrument.settlesIn, facts);
}

function orderWorth(of: Judged): Measured | null {
  const most = of.state.risk.rules.maxOrderValue;
  const value = most === null ? null : valueInEuro(of);
  if (most === null || value === null) return null;
  if (value <= most) return passed('maxOrderValue', () => `worth ${euro(value)} of at most ${euro(most)}`, usedOf('maxOrderValue', value, most));
  return stopped('maxOrderValue', () => `An order is worth at most ${euro(most)}; this one is worth ${euro(value)}.`);
}

function distance({ state, order, instrument, facts }: Judged): Measured | null {
  const most = state.risk.rules.maxDistancePercent;
  const price = limitPriceOf(order.terms, order.side, instrument) ?? stopPriceOf(order.terms);
  const mark = facts.mark(instrument.id);
  if (most === null || price === null || mark === null) return null;
  const away = BigInt(Math.abs(2 * price - mark));
  const percent = (): string => formatScaled((away * 10n ** 4n) / BigInt(mark), 2);
  // |price − mark| ÷ mark × 100 in 10⁻⁸, without a division.
  if (away * 10n ** 10n <= most * BigInt(mark)) {
    const words = (): string => `${percent()} % of at most ${sayUnits(most)} % from the market`;
    return passed('maxDistancePercent', words, usedOf('maxDistancePercent', (away * 10n ** 10n) / BigInt(mark), most));
  }
  return stopped('maxDistancePercent', () => `Its price is ${percent()} % from the market; ${sayUnits(most)} % is the most.`);
}

function perMinute({ state, facts, replaces }: Judged): Measured | null {
  const most = state.risk.rules.maxOrdersPerMinute;
  if (most === null || replaces) return null;
  const taken = takenWithin(state.risk, facts.now);
  if (taken < most) {
    const use = usedOf('maxOrdersPerMinute', BigInt(taken + 1) * ONE, BigInt(most) * ONE);
    return passed('maxOrdersPerMinute', () => `${taken} of ${most} opening orders within the last minute`, use);
  }
  return stopped('maxOrdersPerMinute', () => `${most} opening orders were taken within the last minute, which is the most.`);
}

function positionSize({ state, order, instrument, position, opens }: Judged): Measured | null {
  const most = state.risk.rules.maxPositionQuantity;
  if (most === null) return null;
  const crosses = position !== 0 && (order.side === 'sell') === position > 0;
  let sum = crosses ? 0n : inUnits(sizeOf(position), instrument);
  for (const one of openingOrders(state, order.id))
    if (one.instrument === order.instrument && one.side === order.side) sum += inUnits(remainingQuantity(one), instrument);
  sum += inUnits(crosses ? opens : order.terms.quantity - order.filledQuantity, instrument);
  if (sum <= most) return passed('maxPositionQuantity', () => `position of up to ${sayUnits(sum)}, at most ${sayUnits(most)}`);
  return stopped('maxPositionQuantity', () => `With what works on that side the position could be ${sayUnits(sum)}; ${sayUnits(most)} is the most.`);
}

/**
 * What an order would lose if its stops filled at their prices, with their estimated fees, in EUR: from its limit or
 * stop price, at market from the estimated fill.
 *
 * @returns null where some of it has no stop
 */
export function openRiskOfOrder(state: AccountState, order: Order, opens: Quantity, instrument: Instrument, facts: Facts): Money | null {
  const plan = order.exitPlan;
  if (!plan || opens === 0) return null;
  const fills = fillsNow(order, instrument, facts.book(instrument.id));
  const cost = orderValue(order, opens, instrument, fills, facts);
  if (cost === null) return null;
  const long = order.side === 'buy';
  const quantities = shareOut(
    opens,
    plan.steps.map(({ share }) => share),
  );
  let lost = NO_MONEY;
  for (const [i, step] of plan.steps.entries()) {
    const part = quantities[i] ?? asQuantity(0);
    if (part === 0) continue;
    const stop = step.stop && legPrice(instrument, long, 'stop', step.stop.distance, { quantity: opens, cost }, part);
    if (!stop) return null;
    const entered = ((cost * BigInt(part)) / BigInt(opens)) as Money;
    const left = valueAt(instrument, part, stop);
    const worse = long === (instrument.kind !== 'inverse') ? minus(entered, left) : minus(left, entered);
    lost = plus(lost, worse, feeEstimate(state, instrument, part, left));
  }
  return inEuro(lost, instrument.settlesIn, facts);
}

/** What working opening orders would lose at their stops, as far as they have some. */
export function openRiskOfWorking(state: AccountState, except: string | null, facts: Facts): Money {
  let sum = NO_MONEY;
  for (const order of openingOrders(state, except))
    sum = plus(sum, openRiskOfOrder(state, order, remainingQuantity(order), facts.instrument(order.instrument), facts) ?? NO_MONEY);
  return sum;
}

function openRiskLeft(of: Judged): Measured | null {
  const { state, order, opens, instrument, facts } = of;
  const act = state.risk.rules.openRisk;
  const left = act === null ? null : leftOfDay(state, facts);
  if (act === null || left === null) return null;
  const own = openRiskOfOrder(state, order, opens, instrument, facts);
  const known = plus(totalOpenRisk(state, facts, (id) => facts.standing(id)).known, openRiskOfWorking(state, order.id, facts));
  const use = own === null ? null : usedOf('openRisk', plus(known, own), left);
  if (own !== null && plus(known, own) <= left)
    return passed('openRisk', () => `${euro(plus(known, own))} at the stops, of ${euro(left)} left of the day`, use);
  const words = (): string =>
    own === null
      ? `It has no stop, so what it could lose is more than the ${euro(left)} that are left of the day.`
      : `If every stop filled, ${euro(plus(known, own))} would be lost; ${euro(left)} are left of the day.`;
  return stopped('openRisk', words, { warns: act === 'warn', use });
}

function inWindow({ state, instrument, facts }: Judged): Measured | null {
  const windows = state.risk.rules.noTradeWindows;
  if (windows === null) return null;
  const window = windowAt(windows, instrument.venue, facts.now);
  if (!window) return passed('noTradeWindows', () => 'no no-trade window now');
  return stopped('noTradeWindows', () => `No opening orders before ${venueMoment(instrument.venue, window.until)}: a no-trade window.`, {
    until: window.until,
  });
}

const RULES: readonly RuleCheck[] = [
  dayLoss,
  instrumentLoss,
  coolDown,
  inWindow,
  quantityCap,
  orderQuantity,
  orderWorth,
  distance,
  perMinute,
  positionSize,
  openRiskLeft,
];

/** What each rule that is set says of an opening order; reducing ones pass them all. */
export const measuredBy = (of: Judged): Measured[] => (of.order.opening ? RULES.flatMap((rule) => rule(of) ?? []) : []);

export const ruleRefusal = ({ rule, instrument, until, words }: Measured): Refusal => ({
  kind: 'risk-blocked',
  rule,
  rules: [rule],
  instrument,
  until: until === null ? null : new Date(until).toISOString(),
  detail: words(),
});
