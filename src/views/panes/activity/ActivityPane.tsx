import { useStore } from '@nanostores/react';
import { SPANS, type Span } from '../../../client/activity-record.ts';
import { useMemo, useState } from 'react';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { clockText } from '../../../kit/clock.ts';
import { Empty } from '../../../kit/Empty.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { saveJson } from '../../../kit/save-file.ts';
import { VENUES } from '../../../core/instrument/index.ts';
import { $clock, type ApiActivity } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { chosenColumns, usePaneGrid, useRinged } from '../../act/table.ts';
import { $letters, $panes, setPaneSetting, targetOf } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { ACTIVITY } from './settings.ts';
import { useRecord } from './use-record.ts';

const BY = [
  { value: 'anyone', words: 'by anyone' },
  { value: 'user', words: 'by me' },
  { value: 'plan', words: 'by a plan' },
  { value: 'rule', words: 'by a rule' },
  { value: 'desk', words: 'by Kavix' },
  { value: 'venue', words: 'by the venue' },
] as const;
type By = (typeof BY)[number]['value'];

const SPAN_WORDS: Readonly<Record<Span, string>> = { newest: 'the newest', today: 'today', week: 'seven days', all: 'from the beginning' };
const SPAN_OPTIONS = SPANS.map((value) => ({ value, words: SPAN_WORDS[value] }));
const ANY_KIND = 'any';

const text = (id: string, head: string, of: (entry: ApiActivity) => string): GridColumn<ApiActivity> => ({ id, head, cell: of, value: of });

/** The exchange's clock, with the day in front where it is not the market's own. */
function whenText(time: string): string {
  const now = $clock.get()?.time;
  const day = clockText(VENUES.HALM.zone, time, 'yyyy-MM-dd');
  const clock = clockText(VENUES.HALM.zone, time);
  return now === undefined || clockText(VENUES.HALM.zone, now, 'yyyy-MM-dd') === day ? clock : `${day} ${clock}`;
}

const COLUMNS: readonly GridColumn<ApiActivity>[] = [
  {
    id: 'time',
    head: 'time',
    cell: (entry) => <span className="figure">{whenText(entry.time)}</span>,
    value: (entry) => entry.seq,
    csv: (entry) => entry.time,
  },
  text('by', 'by', (entry) => entry.by),
  text('account', 'account', (entry) => entry.account ?? ''),
  {
    id: 'instrument',
    head: 'instrument',
    cell: (entry) => entry.instrument !== null && <InstrumentName id={entry.instrument} />,
    value: (entry) => entry.instrument ?? '',
  },
  text('order', 'order', (entry) => entry.orderId ?? ''),
  text('kind', 'kind', (entry) => entry.kind),
  { ...text('text', 'what', (entry) => entry.text), cellProps: (entry) => ({ className: 'w-full max-w-0 truncate', title: entry.text }) },
];

/** The append-only record, newest first. What led to a line and what followed from it are shown with it. */
export default function ActivityPane({ id }: { id: string }) {
  const [span, setSpan] = useState<Span>('newest');
  const { entries: all, state } = useRecord(span);
  const panes = useStore($panes);
  useStore($letters);
  const pane = panes[id];
  const { columns, only } = useSettings(pane, ACTIVITY);
  const [by, setBy] = useState<By>('anyone');
  const [kind, setKind] = useState<string>(ANY_KIND);
  const [typed, setTyped] = useState('');
  const kinds = useMemo(() => [...new Set(all.map((entry) => entry.kind))].sort(), [all]);
  const instrument = only === 'instrument' ? (targetOf(id)?.instrument ?? null) : null;
  const rows = useMemo(() => {
    const wanted = typed.trim().toLowerCase();
    const fits = (entry: ApiActivity): boolean =>
      (by === 'anyone' || entry.by === by) &&
      (kind === ANY_KIND || entry.kind === kind) &&
      (instrument === null || entry.instrument === instrument) &&
      (wanted === '' || `${entry.text} ${entry.orderId ?? ''} ${entry.kind} ${entry.instrument ?? ''}`.toLowerCase().includes(wanted));
    return all.filter(fits).reverse();
  }, [all, by, kind, instrument, typed]);
  const showAll = (): void => {
    setBy('anyone');
    setKind(ANY_KIND);
    setTyped('');
    setPaneSetting(id, 'only', 'all');
  };
  const shown = useMemo(() => chosenColumns(COLUMNS, ACTIVITY.columns.options, columns), [columns]);
  const grid = usePaneGrid({ pane, rows, of: `${by} ${kind} ${span} ${typed}`, columns: shown, keyOf: (entry) => String(entry.seq) });
  const { ringed, ring, commands } = useRinged(grid.keys, () => undefined);
  usePaneCommands(id, commands);
  const entry = ringed === null ? undefined : all.find(({ seq }) => String(seq) === ringed);
  return (
    <div className="flex h-full flex-col">
      <div className="flex min-h-[28px] shrink-0 flex-wrap items-center gap-x-2 gap-y-1 px-2">
        <Choice label="Since when" value={span} options={SPAN_OPTIONS} onPick={setSpan} />
        <Choice label="By whom" value={by} options={BY} onPick={setBy} />
        <Choice
          label="Of what kind"
          value={kind}
          options={[{ value: ANY_KIND, words: 'any kind' }, ...kinds.map((value) => ({ value, words: value.replaceAll('-', ' ') }))]}
          onPick={setKind}
        />
        <input
          className="field min-w-[80px] flex-1"
          placeholder="search"
          aria-label="Search the activity"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <Button size="small" onClick={() => saveJson('activity.json', rows)}>
          JSON
        </Button>
      </div>
      {state !== 'whole' && (
        <p className="px-2 text-quiet" role="status">
          {state === 'reading' ? 'Reading back …' : 'What is older still is not shown here.'}
        </p>
      )}
      <Grid
        className="min-h-0 flex-1"
        grid={grid}
        name="Activity"
        empty={<Empty says="Nothing of that kind was done." offers="show everything" onOffer={showAll} />}
        ringed={ringed}
        onRing={ring}
      />
      {entry && <Chain entry={entry} all={all} onGo={ring} />}
    </div>
  );
}

/** What led to an entry, and what it led to. */
function Chain({ entry, all, onGo }: { entry: ApiActivity; all: readonly ApiActivity[]; onGo: (key: string) => void }) {
  const before: ApiActivity[] = [];
  for (let at = entry.causedBy; at !== null;) {
    const found = all.find(({ seq }) => seq === at);
    if (!found || before.includes(found)) break;
    before.unshift(found);
    at = found.causedBy;
  }
  const after = all.filter(({ causedBy }) => causedBy === entry.seq);
  return (
    <ol className="scroll max-h-[40%] shrink-0 border-t border-hair px-2 py-1" aria-label="Chain of the ringed entry" tabIndex={0}>
      {[...before, entry, ...after].map((one) => (
        <li key={one.seq} className={`flex gap-2 ${one === entry ? 'font-semibold' : 'text-quiet'}`}>
          <button type="button" className="figure shrink-0" onClick={() => onGo(String(one.seq))}>
            {one.seq}
          </button>
          <span>{one.text}</span>
        </li>
      ))}
    </ol>
  );
}
