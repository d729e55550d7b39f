import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, figured, resulting, worded } from '../../../kit/Table.tsx';
import { grouped, signed, signedStatistic } from '../../../kit/Figure.tsx';
import type { AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

type Span = AnswerOf<'GET /api/review/recap'>['day'];

/** The day and its week by instrument and setup, beside the four before. */
export function Recap({ day, account }: { day: string; account: readonly string[] }) {
  const { data } = useAsked('GET /api/review/recap', { query: { day, account } });
  if (!data) return null;
  return (
    <div className="grid grid-cols-2 gap-4">
      <SpanTable title="Today" span={data.day} />
      <SpanTable title="This week" span={data.week} />
    </div>
  );
}

type Made = readonly [words: string, figures: Span['all'], strong: boolean];

const COLUMNS: readonly GridColumn<Made>[] = [
  worded('what', ([words]) => words),
  resulting(
    'net',
    ([, { net }]) => net,
    (net) => signedStatistic(net),
  ),
  figured('count', ([, { count }]) => String(count)),
  figured(
    'won',
    ([, { winRate }]) => winRate,
    (rate) => `${rate} %`,
  ),
  figured('days', ([, { activeDays }]) => String(activeDays), grouped, { cellProps: () => ({ title: 'Days with a round trip that ended' }) }),
  figured(
    'a day',
    ([, { perDay }]) => perDay,
    (money) => signedStatistic(money),
  ),
];

/** A day or a week: its question first, then what it was made of, beside the four before. */
export function SpanTable({ title, span }: { title: string; span: Span }) {
  const rows: readonly Made[] = [
    ...span.byInstrument.map(({ key, figures }) => [key, figures, false] as const),
    ...span.bySetup.map(({ key, figures }) => [`setup ${key}`, figures, false] as const),
    ['all', span.all, true],
    ...span.before.map(({ from, to, figures }) => [from === to ? from : `${from} to ${to}`, figures, false] as const),
  ];
  return (
    <Section title={`${title}: ${span.from === span.to ? span.from : `${span.from} to ${span.to}`}`}>
      {span.question !== null && <p className="mb-2 text-[14px] font-semibold">{span.question}</p>}
      {span.stopped.map(({ account, time, text }) => (
        <p key={`${account} ${time}`} className="mb-1">
          <span className="plate border border-ink">{account}</span> {text}
        </p>
      ))}
      {span.near.map(({ account, day, low, limit }) => (
        <p key={`${account} ${day}`} className="mb-1">
          <span className="plate border border-ink">{account}</span> {day} came near its limit: {signed(low)} of −{limit} at its lowest.
        </p>
      ))}
      {span.missed.count > 0 && (
        <p className="mb-1">
          {span.missed.count === 1 ? '1 entry was missed' : `${span.missed.count} entries were missed`}
          {span.missed.toClose === null ? '.' : `: ${signed(span.missed.toClose)} EUR to the close, had they filled.`}
        </p>
      )}
      <Table
        name={`${title} by instrument and setup`}
        rows={rows}
        columns={COLUMNS}
        keyOf={([words]) => words}
        rowProps={([, , strong]) => (strong ? { className: 'font-semibold' } : {})}
      />
    </Section>
  );
}
