import { useStore } from '@nanostores/react';
import { RULE_WORDS, type BlockingRule } from '../../../core/risk/index.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { $clock, $orders, $positions, type ApiRisk, type ApiRules } from '../../../live/index.ts';
import { useRiskDays } from '../../act/risk-days.ts';

/** From so much of a rule on its use asks for a look. */
export const NEAR = 0.75;

/** What a use is drawn in: used up, near it, or neither. */
export const inkOfUse = (share: number): string => (share >= 1 ? 'var(--crimson)' : share >= NEAR ? 'var(--heather)' : 'var(--quiet)');

/** What figures of a rule are followed by: most tell their unit by their name. */
export const unitOf = (rule: BlockingRule): string => (rule === 'maxDistancePercent' ? ' %' : '');

/** How much of a rule today has used. */
export interface Use {
  readonly words: string;
  readonly used: number;
  readonly of: number;
  readonly unit: string;
}

export const shareOf = ({ used, of }: Use): number => (of > 0 ? used / of : used > 0 ? 1 : 0);
export const percentOf = (use: Use): string => `${Math.round(shareOf(use) * 100)} %`;

export const usedWords = ({ used, of, unit }: Use): string => `${grouped(String(Number(used.toFixed(2))))} of ${grouped(String(of))}${unit}`;

const MINUTE_MS = 60_000;
/** What single orders are measured by: today’s largest use is told. */
const OF_AN_ORDER = ['maxOrderQuantity', 'maxOrderValue', 'maxDistancePercent'] as const;

/** What today has used of each rule that is set; of rules about single orders the largest. */
export function useRuleUses(account: string, rules: ApiRules, state: ApiRisk): readonly Use[] {
  const positions = Object.values(useStore($positions)).filter((one) => one.account === account);
  const { all } = useStore($orders);
  const today = useRiskDays(account)?.at(-1)?.uses ?? [];
  const now = Date.parse(useStore($clock)?.time ?? '');
  const uses: Use[] = [];
  const use = (words: string, used: number, of: string | number | null, unit = ''): void =>
    void (of !== null && uses.push({ words, used: Math.max(0, used), of: Number(of), unit }));
  use('day loss', -Number(state.netToday), rules.dayLossLimit);
  const worst = positions.reduce((least, { instrument, day }) => (Number(day.net) < least.net ? { instrument, net: Number(day.net) } : least), {
    instrument: '',
    net: 0,
  });
  use(worst.instrument === '' ? 'loss of one instrument' : `loss of one instrument: ${worst.instrument}`, -worst.net, rules.instrumentLossLimit);
  for (const [kind, cap] of Object.entries(rules.dayQuantityCap ?? {})) use(`${kind} units today`, Number(state.quantityUsed[kind] ?? 0), String(cap));
  const largest = Math.max(0, ...positions.map(({ quantity }) => Math.abs(Number(quantity))));
  use('largest position', largest, rules.maxPositionQuantity);
  const lately = [...all.values()].filter((order) => order.account === account && order.opening && now - Date.parse(order.createdAt) < MINUTE_MS).length;
  for (const rule of OF_AN_ORDER) {
    const top = today.find((one) => one.rule === rule);
    use(top?.of ? `largest ${RULE_WORDS[rule]}: ${top.of}` : RULE_WORDS[rule], Number(top?.used ?? 0), rules[rule], unitOf(rule));
  }
  use('opening orders this minute', lately, rules.maxOrdersPerMinute);
  use('losing round trips in a row', state.losingInARow, rules.coolDownAfterLosses);
  if (rules.openRisk !== null) use('risk of stops against what is left', Number(state.openRisk), state.left);
  return uses;
}
