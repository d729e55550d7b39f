import { formatDay, tradingDay } from '../../../core/market/index.ts';
import { rulesBefore, type RulesText } from '../../../core/risk/index.ts';
import { clockText } from '../../../kit/clock.ts';
import { signed } from '../../../kit/Figure.tsx';
import { instrumentOf, zoneOf, type AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { sentencesOf } from '../risk/sentences.ts';
import { Section } from '../settings/Section.tsx';
import { dayUntil, dayWords } from './rules-then.ts';

type Trip = AnswerOf<'GET /api/review/round-trips'>['items'][number];
type Bar = AnswerOf<'GET /api/bars/{id}'>['items'][number];
type Activity = AnswerOf<'GET /api/activity'>['items'][number];

const MINUTE = 60_000;
const BEFORE_MS = 30 * MINUTE;
/** Longer ones are drawn with longer bars, so that they fit. */
const INTERVALS = [
  ['1m', 6 * 60 * MINUTE],
  ['15m', 5 * 24 * 60 * MINUTE],
  ['1d', Infinity],
] as const;

/** A round trip on its market: where it came in and went out, where its stops stood, and what was asked, one after the other. */
export function TripDetail({ trip }: { trip: Trip }) {
  const [opened, closed] = [Date.parse(trip.openedAt), Date.parse(trip.closedAt)];
  const interval = INTERVALS.find(([, most]) => closed - opened + 2 * BEFORE_MS <= most)?.[0] ?? '1d';
  const span = { from: new Date(opened - BEFORE_MS).toISOString(), to: new Date(closed + BEFORE_MS).toISOString() };
  const { data: bars } = useAsked('GET /api/bars/{id}', { path: { id: trip.instrument }, query: { interval, ...span, limit: 1000 } });
  const { data: orders } = useAsked('GET /api/activity', { query: { account: trip.account, instrument: trip.instrument, limit: 1000 } });
  const own = (orders?.items ?? []).filter(({ time, orderId }) => {
    const at = Date.parse(time);
    return orderId !== null && at >= opened - 24 * 60 * MINUTE && at <= closed + MINUTE && (trip.orderIds.includes(orderId) || at >= opened - MINUTE);
  });
  return (
    <Section title={`${trip.side} ${trip.quantity} ${trip.instrument}, ${trip.account}`} about={summary(trip)}>
      {bars && bars.items.length > 1 ? <Picture trip={trip} bars={bars.items} entries={own} /> : <p className="text-quiet">No bars of that time are kept.</p>}
      <ol className="mt-2 max-h-[160px] scroll" tabIndex={0} aria-label="What was asked and answered">
        {own.map(({ seq, time, text, by }) => (
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

const [WIDTH, HEIGHT] = [900, 190];
const STOP = /(?:last trade|bid|ask) is (\d+(?:\.\d+)?) or (?:lower|higher)/;

/** Where stops stood over time, as the sentences of their orders say it. */
function stopsOf(entries: readonly Activity[]): { at: number; price: number }[] {
  return entries.flatMap(({ time, kind, text }) => {
    const price = kind === 'order-requested' || kind === 'replace-requested' ? STOP.exec(text)?.[1] : undefined;
    return price === undefined ? [] : [{ at: Date.parse(time), price: Number(price) }];
  });
}

function Picture({ trip, bars, entries }: { trip: Trip; bars: readonly Bar[]; entries: readonly Activity[] }) {
  const stops = stopsOf(entries);
  const [entry, exit] = [Number(trip.averageEntry ?? Number.NaN), Number(trip.averageExit ?? Number.NaN)];
  const levels = [entry, exit, ...stops.map(({ price }) => price)].filter(Number.isFinite);
  const low = Math.min(...bars.map((bar) => Number(bar.low)), ...levels);
  const high = Math.max(...bars.map((bar) => Number(bar.high)), ...levels);
  const times = bars.map(({ time }) => Date.parse(time));
  const [from, to] = [times[0] ?? 0, times[times.length - 1] ?? 1];
  const x = (time: number): number => 4 + ((Math.min(Math.max(time, from), to) - from) / (to - from || 1)) * (WIDTH - 8);
  const y = (price: number): number => 6 + ((high - price) / (high - low || 1)) * (HEIGHT - 12);
  const [opened, closed] = [Date.parse(trip.openedAt), Date.parse(trip.closedAt)];
  const words = `From ${low} to ${high}; in at ${trip.averageEntry ?? '–'}, out at ${trip.averageExit ?? '–'}${stops.length > 0 ? `; stops at ${stops.map(({ price }) => price).join(', ')}` : ''}`;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-[190px] w-full bg-well" role="img" aria-label={words}>
      {bars.map((bar, i) => (
        <line
          key={bar.time}
          x1={x(times[i] ?? 0)}
          x2={x(times[i] ?? 0)}
          y1={y(Number(bar.high))}
          y2={y(Number(bar.low))}
          stroke="var(--line)"
          strokeWidth={1.4}
        />
      ))}
      {stops.map(({ at, price }, i) => (
        <line key={i} x1={x(at)} x2={x(stops[i + 1]?.at ?? closed)} y1={y(price)} y2={y(price)} stroke="var(--ink)" strokeDasharray="6 4" />
      ))}
      {Number.isFinite(entry) && Number.isFinite(exit) && (
        <>
          <line x1={x(opened)} y1={y(entry)} x2={x(closed)} y2={y(exit)} stroke={Number(trip.net) >= 0 ? 'var(--weed)' : 'var(--copper)'} strokeWidth={1.5} />
          <circle cx={x(opened)} cy={y(entry)} r={4} fill="var(--well)" stroke="var(--ink)" />
          <circle cx={x(closed)} cy={y(exit)} r={4} fill="var(--ink)" />
        </>
      )}
    </svg>
  );
}
