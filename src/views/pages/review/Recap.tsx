import { Heads } from '../../../kit/Heads.tsx';
import { resultClass, signed, signedStatistic } from '../../../kit/Figure.tsx';
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

/** A day or a week: its question first, then what it was made of, beside the four before. */
export function SpanTable({ title, span }: { title: string; span: Span }) {
  const rows: readonly (readonly [string, Span['all'], boolean])[] = [
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
      <table className="list w-full">
        <Heads names={['what', 'net', 'count', 'won', 'days', 'a day']} />
        <tbody>
          {rows.map(([words, figures, strong]) => (
            <tr key={words} className={strong ? 'font-semibold' : ''}>
              <td>{words}</td>
              <td className={`figure ${resultClass(figures.net)}`}>{signedStatistic(figures.net)}</td>
              <td className="figure">{figures.count}</td>
              <td className="figure">{figures.winRate === null ? '–' : `${figures.winRate} %`}</td>
              <td className="figure" title="Days with a round trip that ended">
                {figures.activeDays}
              </td>
              <td className="figure">{figures.perDay === null ? '–' : signedStatistic(figures.perDay)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
