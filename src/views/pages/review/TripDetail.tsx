import { formatDay, tradingDay } from '../../../core/market/index.ts';
import { rulesBefore, type RulesText } from '../../../core/risk/index.ts';
import { clockText } from '../../../kit/clock.ts';
import { signed } from '../../../kit/Figure.tsx';
import { instrumentOf, zoneOf, type AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { sentencesOf } from '../risk/sentences.ts';
import { Section } from '../settings/Section.tsx';
import { dayUntil, dayWords } from './rules-then.ts';
import { TripPicture } from './TripPicture.tsx';

type Trip = AnswerOf<'GET /api/review/round-trips'>['items'][number];

const MINUTE = 60_000;
const BEFORE_MS = 30 * MINUTE;
/** Longer ones are drawn with longer bars, so that they fit. */
const INTERVALS = [
  ['1m', 6 * 60 * MINUTE],
  ['15m', 5 * 24 * 60 * MINUTE],
  ['1d', Infinity],
] as const;

/** A round trip on its market, with what was asked, one after the other, and how the rules stood. */
export function TripDetail({ trip }: { trip: Trip }) {
  const [opened, closed] = [Date.parse(trip.openedAt), Date.parse(trip.closedAt)];
  const interval = INTERVALS.find(([, most]) => closed - opened + 2 * BEFORE_MS <= most)?.[0] ?? '1d';
  const span = { from: new Date(opened - BEFORE_MS).toISOString(), to: new Date(closed + BEFORE_MS).toISOString() };
  const { data: bars } = useAsked('GET /api/bars/{id}', { path: { id: trip.instrument }, query: { interval, ...span, limit: 1000 } });
  const { data: course } = useAsked('GET /api/review/round-trips/{id}/course', { path: { id: trip.id } });
  return (
    <Section title={`${trip.side} ${trip.quantity} ${trip.instrument}, ${trip.account}`} about={summary(trip)}>
      {bars && bars.items.length > 1 ? (
        <TripPicture trip={trip} bars={bars.items} course={course ?? null} />
      ) : (
        <p className="text-quiet">No bars of that time are kept.</p>
      )}
      <ol className="mt-2 max-h-[160px] scroll" tabIndex={0} aria-label="What was asked and answered">
        {(course?.entries ?? []).map(({ seq, time, text, by }) => (
          <li key={seq} className="flex gap-2">
            <span className="figure text-quiet">{clockText(zoneOf(trip.instrument), time)}</span>
            <span className="w-[40px] shrink-0 text-quiet">{by}</span>
            <span>{text}</span>
          </li>
        ))}
      </ol>
      <RulesThen trip={trip} />
    </Section>
  );
}

/** How the day and the rules stood when it began. */
function RulesThen({ trip: { account, instrument, openedAt } }: { trip: Trip }) {
  const venue = instrumentOf(instrument)?.venue ?? 'HALM';
  const day = formatDay(tradingDay(venue, Date.parse(openedAt)));
  const { data: rules } = useAsked('GET /api/risk/{account}', { path: { account } });
  const { data: changes } = useAsked('GET /api/risk/{account}/changes', { path: { account }, query: { limit: 1000 } });
  const { data: trips } = useAsked('GET /api/review/round-trips', { query: { from: day, to: day, account: [account] } });
  if (!rules || !changes || !trips) return null;
  const said = sentencesOf(
    rulesBefore(
      rules as RulesText,
      changes.items.filter(({ time }) => time > openedAt),
    ),
    day,
  );
  return (
    <div className="mt-2" data-testid="rules-then">
      <p>{dayWords(dayUntil(trips.items, openedAt))}</p>
      <ul className="list-disc pl-5 text-quiet" aria-label="The rules then">
        {said.map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
      </ul>
    </div>
  );
}

function summary({ net, currency, r, mae, mfe, note }: Trip): string {
  const parts = [
    `${signed(net)} ${currency}`,
    ...(r === null ? [] : [`${signed(Number(r).toFixed(2))} R`]),
    `at worst ${signed(mae)}`,
    `at best ${signed(mfe)}`,
  ];
  return `${parts.join(', ')}.${note === null ? '' : ` “${note}”`}`;
}
