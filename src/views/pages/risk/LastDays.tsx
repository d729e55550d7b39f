import { NO_MONEY, formatMoney, minus, money } from '../../../core/number/index.ts';
import { RULE_WORDS } from '../../../core/risk/index.ts';
import { signed } from '../../../kit/Figure.tsx';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, figured, worded } from '../../../kit/Table.tsx';
import { Section } from '../settings/Section.tsx';
import { DAYS, useRiskDays, type RiskDay } from '../../act/risk-days.ts';
import { DayUses } from './DayUses.tsx';

const [WIDTH, HEIGHT, GAP] = [36, 96, 4];

const rulesText = ({ rules }: RiskDay): string =>
  rules
    .map(({ rule, refused, began }) =>
      [`${RULE_WORDS[rule]}:`, began > 0 ? `blocked ${began}×` : '', refused > 0 ? `refused ${refused}` : ''].filter(Boolean).join(' '),
    )
    .join(' · ');

const COLUMNS: readonly GridColumn<RiskDay>[] = [
  worded('day', ({ day }) => day, { cellProps: () => ({ className: 'figure left' }) }),
  worded('limit', ({ reached, near }) => (reached ? 'limit reached' : near ? 'near its limit' : ''), {
    cell: ({ reached, near }) =>
      reached ? <span className="plate crimson">limit reached</span> : near ? <span className="plate heather">near its limit</span> : '',
  }),
  figured('lowest', ({ low }) => low, signed, { cell: ({ low, limit }) => `${signed(low)}${limit === null ? '' : ` of −${limit}`}${pastLimit(low, limit)}` }),
  worded('what the rules stopped', rulesText, { cellProps: () => ({ className: 'whitespace-normal' }) }),
];

/** What closed trades made on each of the last days, how low that ran, and what the rules stopped: breaches and near misses. */
export function LastDays({ account }: { account: string }) {
  const items = useRiskDays(account);
  if (!items) return null;
  const days = items.map((one) => ({ ...one, made: Number(one.net), lowest: Number(one.low), most: one.limit === null ? null : Number(one.limit) }));
  const scale = Math.max(1, ...days.flatMap(({ made, lowest, most }) => [Math.abs(made), -lowest, most ?? 0]));
  const middle = HEIGHT / 2;
  const y = (value: number): number => middle - (value / scale) * (middle - 4);
  const words = days.map(({ day, net, low }) => `${day} ${signed(net)}, lowest ${signed(low)}`).join('; ');
  const told = days.filter(({ reached, near, rules }) => reached || near || rules.length > 0).reverse();
  return (
    <Section title="The last 20 days" about="What closed trades made, in EUR, and how low it ran (the thin line), held against the day’s limit of that day.">
      <svg width={DAYS * WIDTH} height={HEIGHT} className="max-w-full bg-well" role="img" aria-label={words}>
        <line x1={0} x2={DAYS * WIDTH} y1={middle} y2={middle} stroke="var(--line)" />
        {days.map(({ day, net, made, lowest, most, reached }, i) => (
          <g key={day}>
            <title>{`${day}: ${signed(net)}`}</title>
            {most !== null && <line x1={i * WIDTH} x2={(i + 1) * WIDTH} y1={y(-most)} y2={y(-most)} stroke="var(--ink)" strokeWidth={2} />}
            <rect
              x={i * WIDTH + GAP}
              y={Math.min(middle, y(made))}
              width={WIDTH - 2 * GAP}
              height={Math.max(made === 0 ? 0 : 1, Math.abs(y(made) - middle))}
              fill={reached ? 'var(--crimson)' : made < 0 ? 'var(--copper)' : 'var(--weed)'}
            />
            <line x1={(i + 0.5) * WIDTH} x2={(i + 0.5) * WIDTH} y1={middle} y2={y(lowest)} stroke="var(--ink)" />
          </g>
        ))}
      </svg>
      <Table
        name="Days that came near a limit"
        rows={told}
        columns={COLUMNS}
        keyOf={({ day }) => day}
        empty="No day came near its limit, and no rule stopped anything."
        className="mt-1"
      />
      <DayUses days={days} />
    </Section>
  );
}

/** How far past the day's limit it ran: what closing cost beyond it. */
function pastLimit(low: string, limit: string | null): string {
  const past = limit === null ? NO_MONEY : minus(NO_MONEY, money(low), money(limit));
  return past > 0n ? `, ${formatMoney(past, 'EUR')} past it` : '';
}
