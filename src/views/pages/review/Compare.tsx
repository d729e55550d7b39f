import { useState } from 'react';
import { Choice } from '../../../kit/Choice.tsx';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, worded } from '../../../kit/Table.tsx';
import { statistic, signedStatistic } from '../../../kit/Figure.tsx';
import type { AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';
import { PERIODS, daysIn, type Period } from './period.ts';

type Figures = AnswerOf<'GET /api/review/figures'>['all'];
const EVERY = '';

type Line = readonly [words: string, of: (figures: Figures) => string];
const LINES: readonly Line[] = [
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
  const sideColumn = (id: string, side: Side, figures: Figures | null): GridColumn<Line> => ({
    id,
    head: `${side.setup === EVERY ? 'all setups' : side.setup}, ${side.period}`,
    figure: true,
    cell: ([, of]) => (figures ? of(figures) : '–'),
  });
  const columns = [worded<Line>('what', ([words]) => words), sideColumn('left', left, one), sideColumn('right', right, other)];
  return (
    <Section title="Beside one another">
      <p className="mb-2 flex flex-wrap items-center gap-2">
        <Sides name="Left" side={left} setups={setups} onPick={setLeft} /> beside <Sides name="Right" side={right} setups={setups} onPick={setRight} />
      </p>
      <Table name="Compared" plain rows={LINES} columns={columns} keyOf={([words]) => words} />
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
