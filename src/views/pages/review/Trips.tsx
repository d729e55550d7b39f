import { useMemo, useState } from 'react';
import { TakeAway } from '../../../kit/TakeAway.tsx';
import { Grid, useGrid, type GridColumn, type Sorting } from '../../../kit/Grid.tsx';
import { resultClass, shortened, signedShort } from '../../../kit/Figure.tsx';
import { clockText } from '../../../kit/clock.ts';
import { TextCell } from '../../../kit/TextCell.tsx';
import { problemWords, request, withQuery, zoneOf, type AnswerOf } from '../../../live/index.ts';
import { askAgain } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';
import { TripDetail } from './TripDetail.tsx';

type ApiTrip = AnswerOf<'GET /api/review/round-trips'>['items'][number];
type Field = 'setup' | 'note';

const PLACES = 4;

/** A figure: shown with a few places, sorted and saved with all. */
const figure = (id: keyof ApiTrip, head: string, text: (trip: ApiTrip) => string | null, tone = false): GridColumn<ApiTrip> => ({
  id,
  head,
  figure: true,
  cell: (trip) => {
    const said = text(trip);
    if (said === null) return '–';
    return (
      <span className={tone ? resultClass(said) : ''} title={said}>
        {tone ? signedShort(said, 2) : shortened(said, PLACES)}
      </span>
    );
  },
  value: (trip) => Number(text(trip) ?? Number.NaN),
  csv: (trip) => text(trip) ?? '',
});

const keyOf = ({ account, id }: ApiTrip): string => `${account} ${id}`;

interface Props {
  /** The newest of what is chosen. */
  readonly trips: readonly ApiTrip[] | null;
  /** How many are chosen. */
  readonly count: number;
  readonly query: Readonly<Record<string, string | readonly string[] | undefined>>;
}

/** The round trips one by one; setup and note are edited where they stand. */
export function Trips({ trips, count, query }: Props) {
  const [edited, setEdited] = useState<{ readonly id: string; readonly field: Field } | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  const [sorting, setSorting] = useState<Sorting>([{ id: 'closedAt', desc: true }]);
  const columns = useMemo((): GridColumn<ApiTrip>[] => {
    const save = async (trip: ApiTrip, field: Field, text: string | null): Promise<void> => {
      setEdited(null);
      if (text === null || text === (trip[field] ?? '')) return;
      const done = await request('PATCH /api/review/round-trips/{id}', { path: { id: trip.id }, body: { [field]: text === '' ? null : text } });
      setRefused(done.ok ? null : problemWords(done.problem));
      await Promise.all([askAgain('GET /api/review/round-trips'), askAgain('GET /api/review/figures'), askAgain('GET /api/review/choices')]);
    };
    const editable = (field: Field, head: string): GridColumn<ApiTrip> => ({
      id: field,
      head,
      cell: (trip) =>
        edited?.id === trip.id && edited.field === field ? (
          <TextCell label={`${head} of ${trip.instrument}`} value={trip[field] ?? ''} onDone={(text) => void save(trip, field, text)} />
        ) : (
          <button
            type="button"
            className="w-full truncate text-left"
            aria-label={`${head} of ${trip.instrument}: ${trip[field] ?? 'none'}, change`}
            onClick={() => setEdited({ id: trip.id, field })}
          >
            {trip[field] ?? '–'}
          </button>
        ),
      value: (trip) => trip[field] ?? '',
    });
    return [
      {
        id: 'closedAt',
        head: 'closed',
        cell: (trip) => <span className="figure">{clockText(zoneOf(trip.instrument), trip.closedAt, 'MM-dd HH:mm:ss')}</span>,
        value: (trip) => trip.closedAt,
      },
      { id: 'account', head: 'account', cell: (trip) => trip.account, value: (trip) => trip.account },
      {
        id: 'instrument',
        head: 'instrument',
        cell: (trip) => (
          <button
            type="button"
            className="underline underline-offset-4"
            aria-expanded={opened === keyOf(trip)}
            onClick={() => setOpened((before) => (before === keyOf(trip) ? null : keyOf(trip)))}
          >
            {trip.instrument}
          </button>
        ),
        value: (trip) => trip.instrument,
      },
      { id: 'side', head: 'side', cell: (trip) => trip.side, value: (trip) => trip.side },
      figure('quantity', 'quantity', ({ quantity }) => quantity),
      figure('averageEntry', 'in', ({ averageEntry }) => averageEntry),
      figure('averageExit', 'out', ({ averageExit }) => averageExit),
      figure('netEur', 'net', ({ netEur }) => netEur, true),
      figure('fees', 'costs', ({ fees }) => fees),
      figure('r', 'R', ({ r }) => r, true),
      figure('mae', 'worst', ({ mae }) => mae, true),
      figure('mfe', 'best', ({ mfe }) => mfe, true),
      figure('slippage', 'slippage', ({ slippage }) => slippage),
      editable('setup', 'setup'),
      editable('note', 'note'),
    ];
  }, [edited, opened]);
  const grid = useGrid({ rows: trips ?? [], columns, keyOf, sorting, onSorting: setSorting });
  const shown = (trips ?? []).find((trip) => keyOf(trip) === opened);
  const address = withQuery('/api/review/round-trips', { ...query, format: 'csv' });
  return (
    <Section title="Round trips">
      <p className="mb-2 flex items-center gap-3">
        {trips !== null && count > trips.length && (
          <span>
            The newest {trips.length} of {count}; choose less to see others.
          </span>
        )}
        <TakeAway address={address} file="round-trips.csv" prints />
        {refused !== null && <span className="plate heather whitespace-normal">{refused}</span>}
      </p>
      {trips === null ? (
        <div className="skeleton h-[120px]" role="status" aria-label="Loading the round trips" />
      ) : (
        <div className={trips.length === 0 ? '' : 'h-[260px]'}>
          <Grid grid={grid} name="Round trips" empty="None that is over: choose a longer period." />
        </div>
      )}
      {shown && <TripDetail key={keyOf(shown)} trip={shown} />}
    </Section>
  );
}
