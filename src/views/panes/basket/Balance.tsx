import { grouped, signed } from '../../../kit/Figure.tsx';
import { NO_MONEY, inCents } from '../../../core/number/index.ts';
import { dayResult } from '../../../core/portfolio/index.ts';
import { $accounts, $positions } from '../../../live/index.ts';
import type { DraftRow } from '../../../client/baskets.ts';
import type { ApiCheck } from './use-basket.ts';

/** The beam is never steeper than this. */
const STEEPEST = 14;
const [WIDTH, HEIGHT] = [150, 64];
/** Where the beam turns: a weight at its raised end stays inside. */
const BEAM_Y = 36;

const money = (value: number): string => grouped(value.toFixed(2));

/** A whole basket as a balance: what it buys and what it sells as two weights, and what that asks of each account. */
export function Balance({ rows, check }: { rows: readonly DraftRow[]; check: ApiCheck }) {
  const worth = (side: DraftRow['side']): number =>
    check.rows.reduce((sum, row) => {
      const of = rows.find(({ id }) => id === row.id);
      const value = row.estimate?.value;
      return row.ok && of?.side === side && value !== undefined ? sum + Math.abs(Number(value)) : sum;
    }, 0);
  const [buys, sells] = [worth('buy'), worth('sell')];
  const tilt = buys + sells === 0 ? 0 : (STEEPEST * (buys - sells)) / (buys + sells);
  const most = Math.max(buys, sells, 1);
  const weight = (value: number): number => 4 + 18 * Math.sqrt(value / most);
  const { value: _value, fees, margin, openRisk, buyingPowerAfter } = check.total;
  const accounts = Object.keys(buyingPowerAfter);
  const used = accounts.reduce((sum, account) => sum + Number($accounts.get()[account]?.marginUsed ?? 0), 0);
  const days = accounts.map((account) => dayResult(Object.values($positions.get()), account));
  const known = days.every((day) => day !== null && day.withoutStop.length === 0);
  const before = known ? days.reduce((sum, day) => sum + Number(inCents(day?.openRisk ?? NO_MONEY)), 0) : null;
  const risk = (value: number | null): string => (value === null ? 'no end' : signed((-value).toFixed(2)));
  const refused = check.rows.filter(({ ok }) => !ok).length;
  return (
    <section className="flex shrink-0 items-center gap-4 border-b border-hair px-2" aria-label="The basket as a whole">
      <svg width={WIDTH} height={HEIGHT} role="img" aria-label={`Buys for ${money(buys)} EUR, sells for ${money(sells)} EUR`}>
        <path d={`M${WIDTH / 2} ${BEAM_Y} l-7 ${HEIGHT - BEAM_Y - 3} h14 z`} fill="none" stroke="var(--line)" />
        <g transform={`rotate(${-tilt} ${WIDTH / 2} ${BEAM_Y})`}>
          <line x1={20} x2={WIDTH - 20} y1={BEAM_Y} y2={BEAM_Y} stroke="var(--ink)" strokeWidth={1.5} />
          <rect x={20 - weight(buys) / 2 + 4} y={BEAM_Y - weight(buys)} width={weight(buys)} height={weight(buys)} fill="var(--weed)" />
          <rect x={WIDTH - 24 - weight(sells) / 2} y={BEAM_Y - weight(sells)} width={weight(sells)} height={weight(sells)} fill="var(--copper)" />
        </g>
      </svg>
      <dl className="grid grid-cols-[auto_auto] gap-x-2 leading-[16px]">
        <dt className="text-quiet">buys</dt>
        <dd className="figure text-right">{money(buys)}</dd>
        <dt className="text-quiet">sells</dt>
        <dd className="figure text-right">{money(sells)}</dd>
        <dt className="text-quiet">fees</dt>
        <dd className="figure text-right">{grouped(fees)}</dd>
      </dl>
      <dl className="grid grid-cols-[auto_auto_auto_auto] gap-x-2 leading-[16px]">
        <dt className="text-quiet">margin</dt>
        <dd className="figure text-right">{money(used)}</dd>
        <dd className="text-quiet">then</dd>
        <dd className="figure text-right">{money(used + Number(margin))}</dd>
        <dt className="text-quiet">open risk</dt>
        <dd className="figure text-right">{risk(before)}</dd>
        <dd className="text-quiet">then</dd>
        <dd className="figure text-right">{risk(before === null || openRisk === null ? null : before + Number(openRisk))}</dd>
      </dl>
      <dl className="grid grid-cols-[auto_auto_auto_auto] gap-x-2 leading-[16px]">
        {Object.entries(buyingPowerAfter as Record<string, string>).map(([account, after]) => (
          <div key={account} className="contents">
            <dt className="text-quiet">{account} can buy</dt>
            <dd className="figure text-right">{grouped($accounts.get()[account]?.buyingPower ?? '–')}</dd>
            <dd className="text-quiet">then</dd>
            <dd className="figure text-right">{grouped(after)}</dd>
          </div>
        ))}
      </dl>
      {refused > 0 && (
        <span className="plate heather">
          {refused} of {check.rows.length} would be refused
        </span>
      )}
    </section>
  );
}
