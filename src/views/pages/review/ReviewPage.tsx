import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, figured, resulting, worded } from '../../../kit/Table.tsx';
import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { formatDay, tradingDay } from '../../../core/market/index.ts';
import { GROUPINGS, NONE, type Grouping } from '../../../core/review/index.ts';
import { INSTRUMENT_KINDS } from '../../../core/instrument/index.ts';
import { Choice } from '../../../kit/Choice.tsx';
import { Filters } from '../../../kit/Filters.tsx';
import { Several } from '../../../kit/Several.tsx';
import { resultClass, statistic, signedStatistic } from '../../../kit/Figure.tsx';
import { $clock, $session, problemWords, type AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';
import { Compare } from './Compare.tsx';
import { DayNote } from './DayNote.tsx';
import { CostBar, costShare, Curve, groupColumns, largestOf, Multiples } from './Pictures.tsx';
import { Times } from './Times.tsx';
import { NOTHING_MARKED, PERIODS, daysIn, newestPeriod, sentenceOf, type Marked, type OwnDays, type Period } from './period.ts';
import { Recap } from './Recap.tsx';
import { Setups } from './Setups.tsx';
import { Trips } from './Trips.tsx';

type ApiFigures = AnswerOf<'GET /api/review/figures'>;

/** So many are listed and drawn one by one; the export has all. */
const MOST_LISTED = 1000;
/** The running result is half as wide in places. */
const DRAWN_POINTS = 1200;
const TRADED = INSTRUMENT_KINDS.filter((kind) => kind !== 'index');
const HOURS = Array.from({ length: 24 }, (_, hour) => String(hour).padStart(2, '0'));

/** What trading has made: what is chosen stands in one sentence, and nothing else is in. */
export default function ReviewPage() {
  const now = useStore($clock)?.time;
  if (!now) return <div className="skeleton h-[200px]" role="status" aria-label="Loading the review" />;
  return <Chosen today={formatDay(tradingDay('HALM', Date.parse(now)))} />;
}

function Chosen({ today }: { today: string }) {
  const accounts = useStore($session)?.accounts ?? [];
  const [picked, setPeriod] = useState<Period | null>(null);
  const [own, setOwn] = useState<OwnDays>({ from: '', to: '' });
  const [marked, setMarked] = useState<Marked>(NOTHING_MARKED);
  const [by, setBy] = useState<Grouping>('setup');
  const { account, setup } = marked;
  const { data: ever } = useAsked('GET /api/review/choices', { query: { account } });
  const period = picked ?? newestPeriod(ever?.newest ?? undefined, today);
  const days = daysIn(period, today, own);
  const mark = (field: keyof Marked) => (values: readonly string[]) => setMarked({ ...marked, [field]: values });
  const scope = { from: days.from, to: days.to, account };
  const query = { ...days, ...marked };
  const { data: figures, error, isPlaceholderData: older } = useAsked('GET /api/review/figures', { query: { ...query, by, points: DRAWN_POINTS } });
  const { data: trips } = useAsked('GET /api/review/round-trips', { query: { ...query, newest: MOST_LISTED } });
  // The rest is asked for when the result stands.
  const rest = { when: figures !== undefined && !older };
  const { data: there } = useAsked('GET /api/review/choices', { query: scope }, rest);
  const { data: missed } = useAsked('GET /api/review/missed', { query }, rest);
  const setupNames = (ever?.setups ?? []).filter((key) => key !== NONE);
  return (
    <div className="flex flex-col gap-4">
      <div className="flex flex-wrap items-center gap-2" role="group" aria-label="What is chosen">
        <Choice label="Period" value={period} options={PERIODS.map((value) => ({ value, words: value }))} onPick={setPeriod} />
        {period === 'from … to' &&
          (['from', 'to'] as const).map((end) => (
            <input
              key={end}
              type="date"
              className="field figure"
              aria-label={end}
              value={own[end]}
              onChange={(event) => setOwn({ ...own, [end]: event.target.value })}
            />
          ))}
        <Several label="Account" all="all accounts" options={accounts} chosen={account} onChange={mark('account')} />
        <Several label="Setup" all="all setups" options={there?.setups ?? []} chosen={setup} onChange={mark('setup')} />
        <Several label="Instrument" all="all instruments" options={there?.instruments ?? []} chosen={marked.instrument} onChange={mark('instrument')} />
        <Several label="Kind" all="all kinds" options={TRADED} chosen={marked.kind} onChange={mark('kind')} />
        <Several label="Side" all="long and short" options={['long', 'short']} chosen={marked.side} onChange={mark('side')} />
        <Several label="Hour" all="all hours" options={HOURS} chosen={marked.hour} onChange={mark('hour')} />
      </div>
      <p className="text-[14px]" data-testid="review-sentence">
        {sentenceOf(period, days, marked)}.
      </p>
      {error && <p className="plate heather whitespace-normal">{problemWords(error.problem)}</p>}
      {figures && <Result figures={figures} />}
      {figures && figures.all.count > 0 && (
        <div className="grid grid-cols-2 gap-4">
          <Section title="Running result" about="In EUR, after fees; what it fell from its high is shaded.">
            <Curve nets={figures.curve.map(({ net }) => Number(net))} count={figures.all.count} />
          </Section>
          <Section
            title="As multiples of the first risk"
            about={`Of those that had a stop${figures.all.count > MOST_LISTED ? `, among the newest ${MOST_LISTED}` : ''}.`}
          >
            {figures.all.expectancyR === null ? (
              <p className="text-quiet">None of these had a stop, so nothing says what was risked.</p>
            ) : (
              <Multiples values={(trips?.items ?? []).flatMap(({ r }) => (r === null ? [] : [Number(r)]))} />
            )}
          </Section>
        </div>
      )}
      {figures && figures.groups.length > 0 && <Groups figures={figures} by={by} onBy={setBy} />}
      {figures && figures.all.count > 0 && <Times query={query} when={rest.when} />}
      <Trips trips={trips?.items ?? null} count={figures?.all.count ?? 0} query={query} />
      <div className="grid grid-cols-2 gap-4">
        <Setups setups={setupNames} account={account} />
        {setupNames.length > 0 && <Compare key={setupNames.join()} today={today} setups={setupNames} account={account} />}
      </div>
      <Section title="Missed entries" about="Opening orders that ended wholly unfilled, and what they would have made to the close, without fees.">
        <Table name="Missed entries" rows={missed ?? []} columns={MISSED} keyOf={({ order }) => order} />
      </Section>
      <Recap day={today} account={account} />
      <DayNote key={today} day={today} />
    </div>
  );
}

type Missed = AnswerOf<'GET /api/review/missed'>[number];

const MISSED: readonly GridColumn<Missed>[] = [
  worded('instrument', ({ instrument }) => instrument),
  worded('setup', ({ setup }) => setup ?? '–'),
  figured(
    'price',
    ({ price }) => price,
    (price) => price,
  ),
  figured('quantity', ({ quantity }) => quantity),
  resulting('to the close', ({ toClose }) => toClose),
  resulting('best', ({ best }) => best),
  resulting('worst', ({ worst }) => worst),
];

/** The result first, as one line. */
function Result({ figures: { all } }: { figures: ApiFigures }) {
  const share = costShare(all);
  const parts: readonly (readonly [string, string, string])[] = [
    ['net', signedStatistic(all.net), resultClass(all.net)],
    ['round trips', String(all.count), ''],
    ['won', all.winRate === null ? '–' : `${all.winRate} %`, ''],
    ['a day', all.perDay === null ? '–' : signedStatistic(all.perDay), ''],
    ['expectancy', all.expectancyR === null ? 'no stop, no R' : `${signedStatistic(all.expectancyR)} R`, ''],
    ['profit factor', all.profitFactor === null ? '–' : statistic(all.profitFactor), ''],
    ['largest fall', statistic(all.drawdown), ''],
    ['costs', `${statistic(all.fees)}${share === null ? '' : `, ${share.toFixed(1)} % of gross`}`, ''],
  ];
  return (
    <p className="flex flex-wrap gap-x-5 gap-y-1 border-y border-hair py-2 text-[14px]" data-testid="review-result">
      {parts.map(([words, text, tone]) => (
        <span key={words}>
          {words} <b className={`figure ${tone}`}>{text}</b>
        </span>
      ))}
    </p>
  );
}

type Grouped = ApiFigures['groups'][number];

function Groups({ figures, by, onBy }: { figures: ApiFigures; by: Grouping; onBy: (by: Grouping) => void }) {
  const columns = [
    ...groupColumns<Grouped>(by, largestOf(figures.groups)),
    figured<Grouped>(
      'won',
      ({ figures: of }) => of.winRate,
      (rate) => `${rate} %`,
    ),
    figured<Grouped>(
      'R',
      ({ figures: of }) => of.expectancyR,
      (r) => signedStatistic(r),
    ),
    figured<Grouped>(
      'profit factor',
      ({ figures: of }) => of.profitFactor,
      (factor) => statistic(factor),
    ),
    figured<Grouped>(
      'costs',
      ({ figures: of }) => of.fees,
      (fees) => statistic(fees),
    ),
    { id: 'of gross', head: 'of gross', figure: true, cell: ({ figures: of }: Grouped) => <CostBar figures={of} /> },
  ];
  return (
    <Section title="Grouped by">
      <div className="-mx-2">
        <Filters label="Group by" options={GROUPINGS.map((value) => ({ value, words: value }))} chosen={by} onChoose={onBy} />
      </div>
      <Table name={`Results by ${by}`} rows={figures.groups} columns={columns} keyOf={({ key }) => key} className="mt-2" />
    </Section>
  );
}
