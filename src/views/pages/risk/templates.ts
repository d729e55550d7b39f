import { RULE_NAMES, isLooser, readRules, type RuleName, type RulesText } from '../../../core/risk/index.ts';

interface Template {
  readonly name: string;
  readonly about: string;
  readonly rules: Partial<RulesText>;
}

export const NO_RULES_TEXT = Object.fromEntries(RULE_NAMES.map((name) => [name, null])) as unknown as RulesText;

/** Sets of rules that come along to begin from; every figure is the trader's to change. What one does not name is no rule. */
export const TEMPLATES: readonly Template[] = [
  {
    name: 'first month',
    about: 'small, closed out, with pauses',
    rules: {
      dayLossLimit: '150.00',
      onDayLoss: 'close-out',
      instrumentLossLimit: '75.00',
      onInstrumentLoss: 'close-out',
      coolDownMinutes: 30,
      coolDownAfterLosses: 2,
      maxOrdersPerMinute: 6,
      maxDistancePercent: '3',
      openRisk: 'refuse',
      noTradeWindows: [{ from: '09:00', to: '09:05' }],
    },
  },
  {
    name: 'steady',
    about: 'a day limit that closes, a cool-down after three losses',
    rules: { dayLossLimit: '300.00', onDayLoss: 'close-out', coolDownMinutes: 15, coolDownAfterLosses: 3, maxDistancePercent: '5', openRisk: 'warn' },
  },
  {
    name: 'evaluation account',
    about: 'a hard day limit and a small position',
    rules: { dayLossLimit: '500.00', onDayLoss: 'close-out', maxPositionQuantity: '5', coolDownMinutes: 15, coolDownAfterLosses: 3 },
  },
];

const ACTS = { dayLossLimit: 'onDayLoss', instrumentLossLimit: 'onInstrumentLoss' } as const;

/**
 * What a template comes to over the rules that are set: it counts whole, but for locked rules that it would loosen, which
 * stay as they are.
 *
 * @param locked the rules that are locked now
 */
export function takenUp(
  template: Partial<RulesText>,
  set: RulesText,
  locked: Iterable<RuleName>,
): { readonly rules: RulesText; readonly stayed: readonly RuleName[] } {
  const wanted: RulesText = { ...NO_RULES_TEXT, ...template };
  const [from, to] = [readRules(set), readRules(wanted)];
  const kept = from.ok && to.ok ? [...locked].filter((name) => isLooser(name, from.value, to.value)) : [];
  // An act goes with its limit.
  const limits = (['dayLossLimit', 'instrumentLossLimit'] as const).filter((name) => wanted[name] === null && kept.includes(ACTS[name]));
  const stayed = [...new Set([...kept, ...limits])];
  return { rules: { ...wanted, ...Object.fromEntries(stayed.map((name) => [name, set[name]])) }, stayed };
}
