import { inUnits, type Instrument } from '../instrument/index.ts';
import { NO_MONEY, formatMoney, formatScaled, negated, plus, type Money } from '../number/index.ts';
import { MEASURED_RULES, type MeasuredRule, type OrderUse, type RiskRules } from '../risk/index.ts';
import type { RoundTrip } from './trips.ts';

/** A round trip as it counts against rules: its net in EUR. */
export interface UsedTrip {
  readonly instrument: Instrument;
  readonly closedAt: number;
  readonly net: Money;
  readonly trip: Pick<RoundTrip, 'fills'>;
}

/** How far a rule was used on a day: `used` of `most`, as decimal strings of the rule's own unit. */
export interface RuleUse {
  readonly rule: 'dayLossLimit' | 'instrumentLossLimit' | 'dayQuantityCap' | 'maxPositionQuantity' | 'coolDown' | MeasuredRule;
  /** The instrument, or the kind, that used most of it; null where it is the account's. */
  readonly of: string | null;
  readonly used: string;
  readonly most: string;
}

/** What an opening order used of a rule that each is measured by. */
export interface MeasuredUse extends OrderUse {
  /** Its instrument; null where the rule counts the account's orders together. */
  readonly instrument: string | null;
}

/** Whether a use is a larger share of its rule than another. */
export const usedMore = (one: OrderUse, other: OrderUse): boolean => one.used * other.most > other.used * one.most;

const UNITS = 8;
const lossText = (net: Money): string => formatMoney(net < 0n ? negated(net) : NO_MONEY, 'EUR');

function lowest(trips: readonly UsedTrip[]): Money {
  let [net, low] = [NO_MONEY, NO_MONEY];
  for (const trip of trips) {
    net = plus(net, trip.net);
    if (net < low) low = net;
  }
  return low;
}

const byInstrument = (trips: readonly UsedTrip[]): Map<string, UsedTrip[]> => {
  const groups = new Map<string, UsedTrip[]>();
  for (const trip of trips) groups.set(trip.instrument.id, [...(groups.get(trip.instrument.id) ?? []), trip]);
  return groups;
};

/** The longest row of losing round trips. */
function losses(trips: readonly UsedTrip[]): number {
  let [row, most] = [0, 0];
  for (const { net } of trips) {
    row = net < 0n ? row + 1 : 0;
    most = Math.max(most, row);
  }
  return most;
}

/** The largest position that a round trip came to on a day. */
function largest({ trip }: UsedTrip, within: Used['within']): number {
  let [held, most] = [0, 0];
  for (const { time, side, quantity } of trip.fills) {
    held += (side === 'buy' ? 1 : -1) * quantity;
    if (within(time)) most = Math.max(most, Math.abs(held));
  }
  return most;
}

/** What a day's uses follow from: round trips by the time they closed, and those of them that ended that day. */
interface Used {
  /** Whether a moment is of the day. */
  readonly within: (time: number) => boolean;
  readonly trips: readonly UsedTrip[];
  readonly ended: readonly UsedTrip[];
  readonly orders: readonly MeasuredUse[];
  readonly rules: RiskRules;
}

const units = (of: bigint): string => formatScaled(of, UNITS, 0);
const percent = (of: bigint): string => formatScaled(of / 10n ** 6n, UNITS - 6);
const euro = (of: Money): string => formatMoney(of, 'EUR');

function dayLoss({ ended, rules: { dayLossLimit: most } }: Used): RuleUse[] {
  return most === null ? [] : [{ rule: 'dayLossLimit', of: null, used: lossText(lowest(ended)), most: euro(most) }];
}

function instrumentLoss({ ended, rules: { instrumentLossLimit: most } }: Used): RuleUse[] {
  if (most === null) return [];
  let worst: { readonly of: string | null; readonly low: Money } = { of: null, low: NO_MONEY };
  for (const [of, its] of byInstrument(ended)) {
    const low = lowest(its);
    if (low < worst.low) worst = { of, low };
  }
  return [{ rule: 'instrumentLossLimit', of: worst.of, used: lossText(worst.low), most: euro(most) }];
}

function quantityCaps({ within, trips, rules }: Used): RuleUse[] {
  return Object.entries(rules.dayQuantityCap ?? {}).map(([kind, cap]) => {
    let used = 0n;
    for (const { instrument, trip } of trips)
      if (instrument.kind === kind) for (const { time, quantity } of trip.fills) if (within(time)) used += inUnits(quantity, instrument);
    return { rule: 'dayQuantityCap', of: kind, used: units(used), most: units(cap) };
  });
}

function position({ within, trips, rules: { maxPositionQuantity: most } }: Used): RuleUse[] {
  if (most === null) return [];
  let top: { readonly of: string | null; readonly held: bigint } = { of: null, held: 0n };
  for (const one of trips) {
    const held = inUnits(largest(one, within), one.instrument);
    if (held > top.held) top = { of: one.instrument.id, held };
  }
  return [{ rule: 'maxPositionQuantity', of: top.of, used: units(top.held), most: units(most) }];
}

function coolDown({ ended, rules: { coolDownAfterLosses: most } }: Used): RuleUse[] {
  return most === null ? [] : [{ rule: 'coolDown', of: null, used: String(losses(ended)), most: String(most) }];
}

/** Of what each order is measured by: the order that used most of it, at what the rule was then. */
function byOrder({ orders }: Used): RuleUse[] {
  return MEASURED_RULES.flatMap((rule) => {
    const most = orders.filter((one) => one.rule === rule).reduce<MeasuredUse | null>((top, one) => (top === null || usedMore(one, top) ? one : top), null);
    if (!most) return [];
    const say = rule === 'maxOrderQuantity' || rule === 'maxOrdersPerMinute' ? units : rule === 'maxDistancePercent' ? percent : euro;
    return [{ rule, of: most.instrument, used: say(most.used as Money), most: say(most.most as Money) }];
  });
}

const USES = [dayLoss, instrumentLoss, quantityCaps, position, coolDown, byOrder];

/**
 * How far the rules of a day were used. By round trips that are over: losses by those that ended that day, units and
 * positions by what was filled that day. By opening orders that were taken: what each is measured by. A rule that is not
 * set is not told.
 *
 * @param within whether a moment is of the day
 * @param trips those that were open at some time of the day, by the time they closed
 * @param orders what opening orders of the day used
 */
export function usesOn(within: (time: number) => boolean, trips: readonly UsedTrip[], orders: readonly MeasuredUse[], rules: RiskRules): RuleUse[] {
  const of = { within, trips, ended: trips.filter(({ closedAt }) => within(closedAt)), orders, rules };
  return USES.flatMap((use) => use(of));
}
