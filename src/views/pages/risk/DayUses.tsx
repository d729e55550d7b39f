import { RULE_WORDS } from '../../../core/risk/index.ts';
import type { RiskDay } from './days.ts';
import { inkOfUse, unitOf } from './use.ts';

const [USE_WIDTH, USE_HEIGHT] = [12, 24];
const share = ({ used, most }: { readonly used: string; readonly most: string }): number => (Number(used) === 0 ? 0 : Number(used) / Number(most));

/** How much of each rule the days used, a bar each; the line is the rule itself. */
export function DayUses({ days }: { days: readonly Pick<RiskDay, 'day' | 'uses'>[] }) {
  const rows = new Map<string, (RiskDay['uses'][number] & { readonly day: string })[]>();
  for (const { day, uses } of days)
    for (const use of uses) {
      const name = use.rule === 'dayQuantityCap' ? `${RULE_WORDS[use.rule]}, ${use.of ?? ''}` : RULE_WORDS[use.rule];
      rows.set(name, [...(rows.get(name) ?? []), { ...use, day }]);
    }
  if (rows.size === 0) return null;
  return (
    <table className="list mt-2 w-full" aria-label="Use of each rule">
      <tbody>
        {[...rows].map(([name, uses]) => {
          const top = uses.reduce((most, one) => (share(one) > share(most) ? one : most));
          return (
            <tr key={name}>
              <th scope="row" className="static w-[200px] text-left font-normal text-quiet">
                {name}
              </th>
              <td>
                <svg width={days.length * USE_WIDTH} height={USE_HEIGHT} className="block bg-well" aria-hidden="true">
                  {days.map(({ day }, i) => {
                    const use = uses.find((one) => one.day === day);
                    const tall = use === undefined ? 0 : Math.min(1, share(use)) * (USE_HEIGHT - 4);
                    return (
                      <rect
                        key={day}
                        x={i * USE_WIDTH + 2}
                        width={USE_WIDTH - 4}
                        y={USE_HEIGHT - tall}
                        height={tall}
                        fill={inkOfUse(use === undefined ? 0 : share(use))}
                      />
                    );
                  })}
                  <line x1={0} x2={days.length * USE_WIDTH} y1={3.5} y2={3.5} stroke="var(--line)" />
                </svg>
              </td>
              <td className="whitespace-normal">
                {Number(top.used) === 0
                  ? 'not used'
                  : `at most ${top.used} of ${top.most}${unitOf(top.rule)} on ${top.day}${top.of === null || top.rule === 'dayQuantityCap' ? '' : ` in ${top.of}`}`}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
