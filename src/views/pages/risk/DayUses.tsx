import { RULE_WORDS } from '../../../core/risk/index.ts';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, worded } from '../../../kit/Table.tsx';
import type { RiskDay } from '../../act/risk-days.ts';
import { inkOfUse, unitOf } from './rule-uses.ts';

const [USE_WIDTH, USE_HEIGHT] = [12, 24];
const share = ({ used, most }: { readonly used: string; readonly most: string }): number => (Number(used) === 0 ? 0 : Number(used) / Number(most));

type Use = RiskDay['uses'][number] & { readonly day: string };

interface Used {
  readonly name: string;
  readonly uses: readonly Use[];
  readonly top: Use;
}

function topText({ used, most, rule, day, of }: Use): string {
  if (Number(used) === 0) return 'not used';
  return `at most ${used} of ${most}${unitOf(rule)} on ${day}${of === null || rule === 'dayQuantityCap' ? '' : ` in ${of}`}`;
}

const Bars = ({ days, uses }: { days: readonly Pick<RiskDay, 'day'>[]; uses: readonly Use[] }) => (
  <svg width={days.length * USE_WIDTH} height={USE_HEIGHT} className="block bg-well" aria-hidden="true">
    {days.map(({ day }, i) => {
      const use = uses.find((one) => one.day === day);
      const tall = use === undefined ? 0 : Math.min(1, share(use)) * (USE_HEIGHT - 4);
      return (
        <rect key={day} x={i * USE_WIDTH + 2} width={USE_WIDTH - 4} y={USE_HEIGHT - tall} height={tall} fill={inkOfUse(use === undefined ? 0 : share(use))} />
      );
    })}
    <line x1={0} x2={days.length * USE_WIDTH} y1={3.5} y2={3.5} stroke="var(--line)" />
  </svg>
);

/** How much of each rule the days used, a bar each; the line is the rule itself. */
export function DayUses({ days }: { days: readonly Pick<RiskDay, 'day' | 'uses'>[] }) {
  const rows = new Map<string, Use[]>();
  for (const { day, uses } of days)
    for (const use of uses) {
      const name = use.rule === 'dayQuantityCap' ? `${RULE_WORDS[use.rule]}, ${use.of ?? ''}` : RULE_WORDS[use.rule];
      rows.set(name, [...(rows.get(name) ?? []), { ...use, day }]);
    }
  if (rows.size === 0) return null;
  const columns: readonly GridColumn<Used>[] = [
    worded('rule', ({ name }) => name),
    { id: 'days', head: 'day by day', cell: ({ uses }) => <Bars days={days} uses={uses} /> },
    worded('most of it', ({ top }) => topText(top), { cellProps: () => ({ className: 'whitespace-normal' }) }),
  ];
  const used = [...rows].map(([name, uses]) => ({ name, uses, top: uses.reduce((most, one) => (share(one) > share(most) ? one : most)) }));
  return <Table name="Use of each rule" rows={used} columns={columns} keyOf={({ name }) => name} className="mt-2" />;
}
