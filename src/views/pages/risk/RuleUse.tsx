import { grouped } from '../../../kit/Figure.tsx';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, figured, worded } from '../../../kit/Table.tsx';
import type { ApiRisk, ApiRules } from '../../../live/index.ts';
import { Section } from '../settings/Section.tsx';
import { NEAR, inkOfUse, percentOf, shareOf, useRuleUses, usedWords, type Use } from './rule-uses.ts';

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
    cell: usedWords,
  }),
  figured('share', (use) => String(Math.round(shareOf(use) * 100)), grouped, {
    cell: (use) => (shareOf(use) >= NEAR ? <span className="plate heather">{percentOf(use)}</span> : percentOf(use)),
  }),
];

/** How much of each rule that is set today has used. */
export function RuleUse({ account, rules, state }: { account: string; rules: ApiRules; state: ApiRisk }) {
  const uses = useRuleUses(account, rules, state);
  if (uses.length === 0) return null;
  return (
    <Section title="Used today">
      <Table name="Used today" rows={uses} columns={COLUMNS} keyOf={({ words }) => words} />
    </Section>
  );
}
