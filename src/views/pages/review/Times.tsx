import { Table } from '../../../kit/Table.tsx';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';
import { groupColumns, largestOf } from './Pictures.tsx';

const TIMES = [
  ['hour', 'By hour', 'Exchange time of the last fill.'],
  ['weekday', 'By weekday', 'Trading day of the last fill.'],
] as const;

type Query = Readonly<Record<string, string | readonly string[] | undefined>>;

/** When it was made and lost: hours and weekdays as small bars beside one another. */
export const Times = ({ query, when }: { query: Query; when: boolean }) => (
  <div className="grid grid-cols-2 gap-4">
    {TIMES.map(([by, title, about]) => (
      <Section key={by} title={title} about={about}>
        <Bars by={by} query={query} when={when} />
      </Section>
    ))}
  </div>
);

function Bars({ by, query, when }: { by: (typeof TIMES)[number][0]; query: Query; when: boolean }) {
  const { data } = useAsked('GET /api/review/figures', { query: { ...query, by, points: 4 } }, { when });
  if (!data) return <div className="skeleton h-[120px]" role="status" aria-label={`Loading results by ${by}`} />;
  return <Table name={`Results by ${by}`} rows={data.groups} columns={groupColumns(by, largestOf(data.groups))} keyOf={({ key }) => key} />;
}
