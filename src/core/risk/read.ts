import { INSTRUMENT_KINDS, type InstrumentKind } from '../instrument/index.ts';
import { minutesOf } from '../market/index.ts';
import { formatScaled, moneyOf, parseScaled, type Money } from '../number/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import { NO_RULES, type Caps, type RiskRules, type RuleName } from './rules.ts';
import type { TradeWindow, Weekday } from './windows.ts';

export interface WindowText {
  readonly from: string;
  readonly to: string;
  readonly days?: readonly Weekday[] | null;
}

/** Rules as they come and are told: decimal strings, their shape already checked by the schema. */
export interface RulesText {
  readonly dayLossLimit: string | null;
  readonly onDayLoss: RiskRules['onDayLoss'];
  readonly instrumentLossLimit: string | null;
  readonly onInstrumentLoss: RiskRules['onInstrumentLoss'];
  readonly dayQuantityCap: Readonly<Partial<Record<InstrumentKind, string>>> | null;
  readonly noTradeWindows: readonly WindowText[] | null;
  readonly maxOrderQuantity: string | null;
  readonly maxOrderValue: string | null;
  readonly maxDistancePercent: string | null;
  readonly maxOrdersPerMinute: number | null;
  readonly maxPositionQuantity: string | null;
  readonly coolDownMinutes: number | null;
  readonly coolDownAfterLosses: number | null;
  readonly openRisk: RiskRules['openRisk'];
}

export interface RuleProblem {
  readonly path: string;
  readonly message: string;
}

const CLOCK = /^([01]\d|2[0-3]):[0-5]\d$/;

/** Reads rules; all problems at once. What is left out is no rule. */
export function readRules(text: Partial<RulesText>): Result<RiskRules, readonly RuleProblem[]> {
  const problems: RuleProblem[] = [];
  const note = (path: string, message: string): void => void problems.push({ path, message });
  const figure = (path: string, given: string | null | undefined): bigint | null => {
    if (given === null || given === undefined) return null;
    const value = parseScaled(given, 8);
    if (value !== null && value > 0n) return value;
    note(path, 'must be above 0 with at most 8 decimals');
    return null;
  };
  const money = (path: string, given: string | null | undefined): Money | null => {
    const value = figure(path, given);
    return value === null ? null : moneyOf(value);
  };
  const rules: RiskRules = {
    ...NO_RULES,
    dayLossLimit: money('/dayLossLimit', text.dayLossLimit),
    onDayLoss: text.onDayLoss ?? null,
    instrumentLossLimit: money('/instrumentLossLimit', text.instrumentLossLimit),
    onInstrumentLoss: text.onInstrumentLoss ?? null,
    dayQuantityCap: readCaps(text.dayQuantityCap ?? null, figure),
    noTradeWindows: text.noTradeWindows?.map((window, i) => readWindow(window, `/noTradeWindows/${i}`, note)) ?? null,
    maxOrderQuantity: figure('/maxOrderQuantity', text.maxOrderQuantity),
    maxOrderValue: money('/maxOrderValue', text.maxOrderValue),
    maxDistancePercent: figure('/maxDistancePercent', text.maxDistancePercent),
    maxOrdersPerMinute: text.maxOrdersPerMinute ?? null,
    maxPositionQuantity: figure('/maxPositionQuantity', text.maxPositionQuantity),
    coolDownMinutes: text.coolDownMinutes ?? null,
    coolDownAfterLosses: text.coolDownAfterLosses ?? null,
    openRisk: text.openRisk ?? null,
  };
  if (text.onDayLoss && !text.dayLossLimit) note('/onDayLoss', 'an act goes with a limit; dayLossLimit has none');
  if (text.onInstrumentLoss && !text.instrumentLossLimit) note('/onInstrumentLoss', 'an act goes with a limit; instrumentLossLimit has none');
  return problems.length > 0 ? refused(problems) : accepted(rules);
}

function readCaps(given: RulesText['dayQuantityCap'], figure: (path: string, text: string) => bigint | null): Caps | null {
  if (given === null) return null;
  const caps: Partial<Record<InstrumentKind, bigint>> = {};
  for (const kind of INSTRUMENT_KINDS) {
    const text = given[kind];
    const cap = text === undefined ? null : figure(`/dayQuantityCap/${kind}`, text);
    if (cap !== null) caps[kind] = cap;
  }
  return caps;
}

function readWindow({ from, to, days = null }: WindowText, path: string, note: (path: string, message: string) => void): TradeWindow {
  for (const [name, text] of [
    ['from', from],
    ['to', to],
  ] as const)
    if (!CLOCK.test(text)) note(`${path}/${name}`, 'must be a time of the day, 00:00 to 23:59');
  if (from === to) note(`${path}/to`, 'must differ from the beginning');
  return { from: minutesOf(from), to: minutesOf(to), days };
}

const clockText = (minutes: number): string => `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
const plain = (value: bigint | null): string | null => (value === null ? null : formatScaled(value, 8, 0));
const inMoney = (value: Money | null): string | null => (value === null ? null : formatScaled(value, 8, 2));

/** Rules as they are told; {@link readRules} reads them back. */
export const rulesText = (rules: RiskRules): RulesText => ({
  dayLossLimit: inMoney(rules.dayLossLimit),
  onDayLoss: rules.onDayLoss,
  instrumentLossLimit: inMoney(rules.instrumentLossLimit),
  onInstrumentLoss: rules.onInstrumentLoss,
  dayQuantityCap: rules.dayQuantityCap && Object.fromEntries(Object.entries(rules.dayQuantityCap).map(([kind, cap]) => [kind, plain(cap)])),
  noTradeWindows: rules.noTradeWindows?.map(({ from, to, days }) => ({ from: clockText(from), to: clockText(to), ...(days ? { days } : {}) })) ?? null,
  maxOrderQuantity: plain(rules.maxOrderQuantity),
  maxOrderValue: inMoney(rules.maxOrderValue),
  maxDistancePercent: plain(rules.maxDistancePercent),
  maxOrdersPerMinute: rules.maxOrdersPerMinute,
  maxPositionQuantity: plain(rules.maxPositionQuantity),
  coolDownMinutes: rules.coolDownMinutes,
  coolDownAfterLosses: rules.coolDownAfterLosses,
  openRisk: rules.openRisk,
});

/** One rule as it is told. */
export const ruleText = (name: RuleName, rules: RiskRules): unknown => rulesText(rules)[name] ?? null;

/** What a change of one rule says of before. */
interface Changed {
  readonly rule: RuleName;
  readonly kind: string;
  readonly old: unknown;
}

/**
 * Rules as they stood before some changes of them: each as the first change of it says that it was.
 *
 * @param changes the last ones, oldest first; those of locks change no rule
 */
export const rulesBefore = (now: RulesText, changes: readonly Changed[]): RulesText => ({
  ...now,
  ...Object.fromEntries(
    changes
      .filter(({ kind }) => kind === 'set')
      .reverse()
      .map(({ rule, old }) => [rule, old]),
  ),
});
