import type { InstrumentKind } from '../instrument/index.ts';
import type { Money } from '../number/index.ts';
import { minutesCovered, type TradeWindow } from './windows.ts';

export const LOSS_ACTS = ['block', 'close-out'] as const;
export type LossAct = (typeof LOSS_ACTS)[number];
export const OPEN_RISK_ACTS = ['warn', 'refuse'] as const;

/** Quantities by kind of instrument, in 10⁻⁸ units. */
export type Caps = Readonly<Partial<Record<InstrumentKind, bigint>>>;

/** An account's rules; null is no rule. Quantities and percents in 10⁻⁸. */
export interface RiskRules {
  readonly dayLossLimit: Money | null;
  readonly onDayLoss: LossAct | null;
  readonly instrumentLossLimit: Money | null;
  readonly onInstrumentLoss: LossAct | null;
  readonly dayQuantityCap: Caps | null;
  readonly noTradeWindows: readonly TradeWindow[] | null;
  readonly maxOrderQuantity: bigint | null;
  readonly maxOrderValue: Money | null;
  readonly maxDistancePercent: bigint | null;
  readonly maxOrdersPerMinute: number | null;
  readonly maxPositionQuantity: bigint | null;
  readonly coolDownMinutes: number | null;
  readonly coolDownAfterLosses: number | null;
  readonly openRisk: (typeof OPEN_RISK_ACTS)[number] | null;
}

export type RuleName = keyof RiskRules;

export const NO_RULES: RiskRules = {
  dayLossLimit: null,
  onDayLoss: null,
  instrumentLossLimit: null,
  onInstrumentLoss: null,
  dayQuantityCap: null,
  noTradeWindows: null,
  maxOrderQuantity: null,
  maxOrderValue: null,
  maxDistancePercent: null,
  maxOrdersPerMinute: null,
  maxPositionQuantity: null,
  coolDownMinutes: null,
  coolDownAfterLosses: null,
  openRisk: null,
};

export const RULE_NAMES = Object.keys(NO_RULES) as readonly RuleName[];

/** Rules that stop an order, in the order in which the first of several is told (exact rules *Risk* 12). */
export const BLOCKING_RULES = [
  'dayLossLimit',
  'instrumentLossLimit',
  'coolDown',
  'noTradeWindows',
  'dayQuantityCap',
  'maxOrderQuantity',
  'maxOrderValue',
  'maxDistancePercent',
  'maxOrdersPerMinute',
  'maxPositionQuantity',
  'buyingPower',
  'openRisk',
] as const;
export type BlockingRule = (typeof BLOCKING_RULES)[number];

/** Rules whose use is measured by each opening order itself, in this order. */
export const MEASURED_RULES = ['maxOrderQuantity', 'maxOrderValue', 'maxDistancePercent', 'maxOrdersPerMinute', 'openRisk'] as const;
export type MeasuredRule = (typeof MEASURED_RULES)[number];

/** How far an opening order that was taken used a rule: `used` of `most`, both in 10⁻⁸ of the rule's unit. */
export interface OrderUse {
  readonly rule: MeasuredRule;
  readonly used: bigint;
  readonly most: bigint;
}

/** What a trader is told of a rule, or of what blocks, instead of its name. */
export const RULE_WORDS: Readonly<Record<RuleName | BlockingRule, string>> = {
  dayLossLimit: 'day limit',
  onDayLoss: 'what the day limit does',
  instrumentLossLimit: 'instrument limit',
  onInstrumentLoss: 'what an instrument’s limit does',
  dayQuantityCap: 'day cap',
  noTradeWindows: 'no-trade window',
  maxOrderQuantity: 'order size',
  maxOrderValue: 'order value',
  maxDistancePercent: 'distance from the market',
  maxOrdersPerMinute: 'orders a minute',
  maxPositionQuantity: 'position size',
  coolDown: 'cool-down',
  coolDownMinutes: 'length of a cool-down',
  coolDownAfterLosses: 'losses before a cool-down',
  openRisk: 'open risk',
  buyingPower: 'buying power',
};

type Larger = bigint | number;

/** How strict a value of a rule is beside another: below 0 looser, above 0 tighter, null where each is looser in some way. */
type Compare<R extends RuleName> = (from: NonNullable<RiskRules[R]>, to: NonNullable<RiskRules[R]>) => number | null;

/** Of limits the smaller is tighter. */
const smaller = (from: Larger, to: Larger): number => (to < from ? 1 : to > from ? -1 : 0);
const larger = (from: number, to: number): number => (to > from ? 1 : to < from ? -1 : 0);
const rank =
  <V>(...loosestFirst: readonly V[]): ((from: V, to: V) => number) =>
  (from, to) =>
    Math.sign(loosestFirst.indexOf(to) - loosestFirst.indexOf(from));

const bothWays = (looser: boolean, tighter: boolean): number | null => (looser ? (tighter ? null : -1) : tighter ? 1 : 0);

function compareCaps(from: Caps, to: Caps): number | null {
  const kinds = new Set([...Object.keys(from), ...Object.keys(to)] as InstrumentKind[]);
  let looser = false;
  let tighter = false;
  for (const kind of kinds) {
    const [before, after] = [from[kind], to[kind]];
    if (before === after) continue;
    if (after === undefined || (before !== undefined && after > before)) looser = true;
    else tighter = true;
  }
  return bothWays(looser, tighter);
}

/** Windows are compared by the minutes of the week that they cover. */
function compareWindows(from: readonly TradeWindow[], to: readonly TradeWindow[]): number | null {
  const [before, after] = [minutesCovered(from), minutesCovered(to)];
  return bothWays(
    before.some((covered, minute) => covered && !after[minute]),
    after.some((covered, minute) => covered && !before[minute]),
  );
}

const COMPARE: { readonly [R in RuleName]: Compare<R> } = {
  dayLossLimit: smaller,
  onDayLoss: rank<LossAct>('block', 'close-out'),
  instrumentLossLimit: smaller,
  onInstrumentLoss: rank<LossAct>('block', 'close-out'),
  dayQuantityCap: compareCaps,
  noTradeWindows: compareWindows,
  maxOrderQuantity: smaller,
  maxOrderValue: smaller,
  maxDistancePercent: smaller,
  maxOrdersPerMinute: smaller,
  maxPositionQuantity: smaller,
  coolDownMinutes: larger,
  coolDownAfterLosses: smaller,
  openRisk: rank<'warn' | 'refuse'>('warn', 'refuse'),
};

/** What an act is where none is said: a limit without one blocks. */
const withDefaults = (rules: RiskRules): RiskRules => ({
  ...rules,
  onDayLoss: rules.onDayLoss ?? (rules.dayLossLimit === null ? null : 'block'),
  onInstrumentLoss: rules.onInstrumentLoss ?? (rules.instrumentLossLimit === null ? null : 'block'),
});

function compare(name: RuleName, from: RiskRules, to: RiskRules): number | null {
  const before = withDefaults(from)[name];
  const after = withDefaults(to)[name];
  if (before === null) return after === null ? 0 : 1;
  if (after === null) return -1;
  return (COMPARE[name] as Compare<RuleName>)(before, after);
}

/** Whether a rule lets anything through by a change that it stopped before (exact rules *Risk* 13). */
export const isLooser = (name: RuleName, from: RiskRules, to: RiskRules): boolean => {
  const way = compare(name, from, to);
  return way === null || way < 0;
};

export const isTighter = (name: RuleName, from: RiskRules, to: RiskRules): boolean => {
  const way = compare(name, from, to);
  return way === null || way > 0;
};

const sameValue = (a: unknown, b: unknown): boolean => textOf(a) === textOf(b);
const textOf = (value: unknown): string => JSON.stringify(value, (_key, part: unknown) => (typeof part === 'bigint' ? `${part}n` : part));

/** The rules that differ between two sets. */
export const changedRules = (from: RiskRules, to: RiskRules): RuleName[] => RULE_NAMES.filter((name) => !sameValue(from[name], to[name]));

/** The tighter of two values of a rule; where each stops something that the other does not, what stops both. */
export function tighterOf(name: RuleName, a: RiskRules, b: RiskRules): RiskRules[RuleName] {
  const way = compare(name, a, b);
  if (way !== null) return way > 0 ? b[name] : a[name];
  if (name === 'noTradeWindows') return [...(a.noTradeWindows ?? []), ...(b.noTradeWindows ?? [])];
  const caps = { ...a.dayQuantityCap } as Record<string, bigint>;
  for (const [kind, cap] of Object.entries(b.dayQuantityCap ?? {})) caps[kind] = caps[kind] !== undefined && caps[kind] < cap ? caps[kind] : cap;
  return caps;
}

/** Rules with one of them set. */
export const withRule = (rules: RiskRules, name: RuleName, value: RiskRules[RuleName]): RiskRules => ({ ...rules, [name]: value });
