import { useStore } from '@nanostores/react';
import { RULE_WORDS } from '../../../core/risk/index.ts';
import { grouped } from '../../../kit/Figure.tsx';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, figured, worded } from '../../../kit/Table.tsx';
import { $clock, $orders, $positions, type ApiRisk, type ApiRules } from '../../../live/index.ts';
import { useRiskDays } from '../../act/risk-days.ts';
import { Section } from '../settings/Section.tsx';
import { NEAR, inkOfUse, unitOf } from './use.ts';

interface Use {
  readonly words: string;
  readonly used: number;
  readonly of: number;
  readonly unit: string;
}

const shareOf = ({ used, of }: Use): number => (of > 0 ? used / of : used > 0 ? 1 : 0);
const percentOf = (use: Use): string => `${Math.round(shareOf(use) * 100)} %`;

const COLUMNS: readonly GridColumn<Use>[] = [
  worded('rule', ({ words }) => words),
  {
    id: 'bar',
    head: 'as a bar',
    unseen: true,
    cell: (use) => (
      <span className="block h-[8px] w-[180px] bg-well" aria-hidden="true">
        <span className="block h-full" style={{ width: `${Math.min(100, shareOf(use) * 100)}%`, background: inkOfUse(shareOf(use)) }} />
      </span>
    ),
  },
  figured('used', ({ used }) => String(Number(used.toFixed(2))), grouped, {
    cell: ({ used, of, unit }) => `${grouped(String(Number(used.toFixed(2))))} of ${grouped(String(of))}${unit}`,
  }),
  figured('share', (use) => String(Math.round(shareOf(use) * 100)), grouped, {
    cell: (use) => (shareOf(use) >= NEAR ? <span className="plate heather">{percentOf(use)}</span> : percentOf(use)),
  }),
];

const MINUTE_MS = 60_000;
/** What single orders are measured by: today’s largest use is told. */
const OF_AN_ORDER = ['maxOrderQuantity', 'maxOrderValue', 'maxDistancePercent'] as const;

/** How much of each rule that is set today has used. */
export function RuleUse({ account, rules, state }: { account: string; rules: ApiRules; state: ApiRisk }) {
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
  if (uses.length === 0) return null;
  return (
    <Section title="Used today">
      <Table name="Used today" rows={uses} columns={COLUMNS} keyOf={({ words }) => words} />
    </Section>
  );
}
