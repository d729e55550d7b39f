import { useState } from 'react';
import { Choice } from '../../../kit/Choice.tsx';
import { statistic, signedStatistic } from '../../../kit/Figure.tsx';
import type { AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';
import { PERIODS, daysIn, type Period } from './period.ts';

type Figures = AnswerOf<'GET /api/review/figures'>['all'];
const EVERY = '';

const LINES: readonly (readonly [words: string, of: (figures: Figures) => string])[] = [
  ['net', ({ net }) => signedStatistic(net)],
  ['round trips', ({ count }) => String(count)],
  ['won', ({ winRate }) => (winRate === null ? '–' : `${winRate} %`)],
  ['a day', ({ perDay }) => (perDay === null ? '–' : signedStatistic(perDay))],
  ['average win', ({ averageWin }) => (averageWin === null ? '–' : signedStatistic(averageWin))],
  ['average loss', ({ averageLoss }) => (averageLoss === null ? '–' : signedStatistic(averageLoss))],
  ['expectancy', ({ expectancyR }) => (expectancyR === null ? 'no R' : `${signedStatistic(expectancyR)} R`)],
  ['profit factor', ({ profitFactor }) => (profitFactor === null ? '–' : statistic(profitFactor))],
  ['largest fall', ({ drawdown }) => statistic(drawdown)],
  ['costs', ({ fees }) => statistic(fees)],
];

/** Two setups or two periods beside one another. */
export function Compare({ today, setups, account }: { today: string; setups: readonly string[]; account: readonly string[] }) {
  const [left, setLeft] = useState<Side>({ period: 'all', setup: setups[0] ?? EVERY });
  const [right, setRight] = useState<Side>({ period: 'all', setup: setups[1] ?? EVERY });
  const [one, other] = [useFigures(left, today, account), useFigures(right, today, account)];
  return (
    <Section title="Beside one another">
      <table className="list w-full" aria-label="Compared">
        <thead>
          <tr>
            <th scope="col">
              <span className="sr-only">what</span>
            </th>
            <th scope="col" className="text-right">
              <Sides name="Left" side={left} setups={setups} onPick={setLeft} />
            </th>
            <th scope="col" className="text-right">
              <Sides name="Right" side={right} setups={setups} onPick={setRight} />
            </th>
          </tr>
        </thead>
        <tbody>
          {LINES.map(([words, of]) => (
            <tr key={words}>
              <th scope="row" className="static text-left font-normal text-quiet">
                {words}
              </th>
              <td className="figure">{one ? of(one) : '–'}</td>
              <td className="figure">{other ? of(other) : '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

interface Side {
  readonly period: Period;
  readonly setup: string;
}

function useFigures({ period, setup }: Side, today: string, account: readonly string[]): Figures | null {
  const { from, to } = daysIn(period, today);
  const { data } = useAsked('GET /api/review/figures', { query: { from, to, account, setup: setup === EVERY ? undefined : setup, points: 4 } });
  return data?.all ?? null;
}

const Sides = ({ name, side, setups, onPick }: { name: string; side: Side; setups: readonly string[]; onPick: (side: Side) => void }) => (
  <span className="inline-flex gap-1">
    <Choice
      label={`${name}, setup`}
      value={side.setup}
      options={[{ value: EVERY, words: 'all setups' }, ...setups.map((value) => ({ value, words: value }))]}
      onPick={(setup) => onPick({ ...side, setup })}
    />
    <Choice
      label={`${name}, period`}
      value={side.period}
      options={PERIODS.map((value) => ({ value, words: value }))}
      onPick={(period) => onPick({ ...side, period })}
    />
  </span>
);
