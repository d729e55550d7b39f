import { resultClass, signed, signedShort } from '../../../kit/Figure.tsx';
import type { AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

type Span = AnswerOf<'GET /api/review/recap'>['day'];

/** The day and its week by instrument and setup, beside the four before. */
export function Recap({ day, account }: { day: string; account: string | undefined }) {
  const { data } = useAsked('GET /api/review/recap', { query: { day, account } });
  if (!data) return null;
  return (
    <div className="grid grid-cols-2 gap-4">
      <SpanOf title="Today" span={data.day} />
      <SpanOf title="This week" span={data.week} />
    </div>
  );
}

function SpanOf({ title, span }: { title: string; span: Span }) {
  const rows: readonly (readonly [string, Span['all'], boolean])[] = [
    ...span.byInstrument.map(({ key, figures }) => [key, figures, false] as const),
    ...span.bySetup.map(({ key, figures }) => [`setup ${key}`, figures, false] as const),
    ['all', span.all, true],
    ...span.before.map(({ from, to, figures }) => [from === to ? from : `${from} to ${to}`, figures, false] as const),
  ];
  return (
    <Section title={`${title}: ${span.from === span.to ? span.from : `${span.from} to ${span.to}`}`}>
      <table className="list w-full">
        <thead>
          <tr>
            {['what', 'net', 'count', 'won', 'a day'].map((head, i) => (
              <th key={head} scope="col" className={i > 0 ? 'text-right' : 'text-left'}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([words, figures, strong]) => (
            <tr key={words} className={strong ? 'font-semibold' : ''}>
              <td>{words}</td>
              <td className={`figure ${resultClass(figures.net)}`}>{signed(figures.net)}</td>
              <td className="figure">{figures.count}</td>
              <td className="figure">{figures.winRate === null ? '–' : `${figures.winRate} %`}</td>
              <td className="figure">{figures.perDay === null ? '–' : signedShort(figures.perDay, 2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
