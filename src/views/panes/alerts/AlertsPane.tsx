import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import { answer } from '../../../client/answers.ts';
import { $settings, changeSettings } from '../../../client/settings.ts';
import { Button } from '../../../kit/Button.tsx';
import { clockText } from '../../../kit/clock.ts';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { $alerts, $clock, firingsAfter, instrumentOf, problemWords, quoteOf, request, zoneOf, type AlertFiring, type ApiAlert } from '../../../live/index.ts';
import { formatPrice } from '../../../core/instrument/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $panes, setInstrument, targetOf } from '../../workspace/panes.ts';
import { NewAlert } from './NewAlert.tsx';

const SNOOZE_MS = 15 * 60_000;
const MOST_UNREAD = 30;

/** What an alert waits for, in words. */
export function alertWords({ kind, price, line, scan, direction, phrase, words, event, account }: ApiAlert): string {
  switch (kind) {
    case 'price':
      return `${direction === 'up' ? 'rises to' : direction === 'down' ? 'falls to' : 'reaches'} ${line ? `the line from ${line.from.price} to ${line.to.price}` : (price ?? '–')}`;
    case 'condition':
      return phrase ?? '';
    case 'scan':
      return `something new passes ${scan ?? ''}`;
    case 'news':
      return `a headline says ${(words ?? []).join(' or ')}`;
    case 'order':
      return `an order is ${event ?? ''}${account === null ? '' : ` in ${account}`}`;
    case 'risk':
      return `a rule blocks${account === null ? '' : ` ${account}`}`;
    default:
      return kind satisfies never;
  }
}

async function change(pane: string, alert: ApiAlert, body: object): Promise<void> {
  const done = await request('PATCH /api/alerts/{id}', { path: { id: alert.id }, body });
  if (!done.ok) answer(pane, 'refused', problemWords(done.problem));
}

async function drop(pane: string, alert: ApiAlert): Promise<void> {
  const done = await request('DELETE /api/alerts/{id}', { path: { id: alert.id } });
  if (!done.ok) answer(pane, 'refused', problemWords(done.problem));
}

const later = (): string => new Date(Date.parse($clock.get()?.time ?? '') + SNOOZE_MS).toISOString();

const columnsFor = (pane: string): readonly GridColumn<ApiAlert>[] => [
  {
    id: 'state',
    head: 'state',
    cell: (alert) => <span className={alert.state === 'waiting' ? '' : 'text-quiet'}>{alert.state}</span>,
    value: (alert) => alert.state,
  },
  {
    id: 'instrument',
    head: 'instrument',
    cell: (alert) => (alert.instrument === null ? <span className="text-quiet">any</span> : <InstrumentName id={alert.instrument} />),
    cellProps: (alert) => (alert.instrument === null ? {} : dragsInstrument(alert.instrument)),
    value: (alert) => alert.instrument ?? '',
  },
  {
    id: 'words',
    head: 'tells when',
    cell: alertWords,
    cellProps: (alert) => ({ className: 'w-full max-w-0 truncate', title: `${alertWords(alert)}${alert.note === null ? '' : ` · ${alert.note}`}` }),
    value: alertWords,
    csv: alertWords,
  },
  { id: 'fires', head: 'fires', cell: (alert) => alert.fires.replaceAll('-', ' '), value: (alert) => alert.fires },
  {
    id: 'last',
    head: 'last fired',
    cell: (alert) => {
      const last = alert.firings[alert.firings.length - 1];
      return <span className="figure">{last ? clockText(zoneOf(alert.instrument ?? ''), last.time) : '–'}</span>;
    },
    value: (alert) => alert.firings[alert.firings.length - 1]?.time ?? '',
    csv: (alert) => alert.firings[alert.firings.length - 1]?.time ?? '',
  },
  {
    id: 'acts',
    head: 'what can be done',
    unseen: true,
    sticks: true,
    cell: (alert) => (
      <span className="flex gap-1">
        {alert.state === 'waiting' && (
          <Button size="small" onClick={() => void change(pane, alert, { snoozedUntil: later() })} aria-label={`snooze ${alertWords(alert)} for 15 minutes`}>
            snooze
          </Button>
        )}
        {alert.state === 'snoozed' && (
          <Button size="small" onClick={() => void change(pane, alert, { snoozedUntil: null })} aria-label={`wake ${alertWords(alert)}`}>
            wake
          </Button>
        )}
        {alert.state === 'ended' && (
          <Button size="small" onClick={() => void change(pane, alert, { snoozedUntil: null })} aria-label={`wait again for ${alertWords(alert)}`}>
            again
          </Button>
        )}
        <Button size="small" onClick={() => void drop(pane, alert)} aria-label={`delete ${alertWords(alert)}`}>
          delete
        </Button>
      </span>
    ),
  },
];

/** What is waited for, and what has been told: the newest first, until it is read. */
export default function AlertsPane({ id }: { id: string }) {
  const alerts = useStore($alerts);
  const pane = useStore($panes)[id];
  const { alertsSeen } = useStore($settings);
  const unread = useMemo(() => firingsAfter(alerts, alertsSeen), [alerts, alertsSeen]);
  const rows = useMemo(
    () => Object.values(alerts ?? {}).sort((a, b) => Number(a.state === 'ended') - Number(b.state === 'ended') || (a.id < b.id ? 1 : -1)),
    [alerts],
  );
  const columns = useMemo(() => columnsFor(id), [id]);
  const grid = usePaneGrid({ pane, rows, columns, keyOf: (alert) => alert.id });
  const { ringed, ring, commands } = useRinged(grid.keys, (key) => {
    const instrument = alerts?.[key]?.instrument;
    if (instrument) setInstrument(id, instrument);
  });
  const alert = ringed === null ? undefined : alerts?.[ringed];
  usePaneCommands(id, [
    ...commands,
    {
      keys: ['Delete'],
      words: 'delete the ringed alert',
      cannot: () => (alert ? null : 'nothing is ringed: press a row first'),
      run: () => void (alert && drop(id, alert)),
    },
  ]);
  if (alerts === null) return <div className="skeleton h-full" role="status" aria-label="Loading the alerts" />;
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[26px] shrink-0 items-center gap-2 px-2">
        <NewAlert pane={id} target={targetOf(id)} />
        <span className="truncate text-quiet">{rows.filter(({ state }) => state === 'waiting').length} wait, window or none</span>
      </div>
      {unread.length > 0 && <Unread firings={unread} />}
      <Grid
        className="min-h-0 flex-1"
        grid={grid}
        name="Alerts"
        empty="No alerts yet. Make one here, or from a chart’s right-click list."
        ringed={ringed}
        onRing={ring}
      />
    </div>
  );
}

/** What fired while nobody looked, with the price then and now. */
function Unread({ firings }: { firings: readonly AlertFiring[] }) {
  const newest = firings[0]?.seq ?? 0;
  return (
    <section className="max-h-[40%] shrink-0 scroll border-y border-hair bg-well px-2 py-1" aria-label="Told and not read yet" tabIndex={0}>
      <div className="flex items-center gap-2">
        <h3 className="font-semibold">
          {firings.length} {firings.length === 1 ? 'alert' : 'alerts'} not read yet
        </h3>
        <Button size="small" onClick={() => changeSettings({ alertsSeen: newest })}>
          read
        </Button>
      </div>
      <ol>
        {firings.slice(0, MOST_UNREAD).map((firing) => (
          <li key={firing.seq} className="flex min-h-[20px] items-center gap-2">
            <span className="figure text-quiet">{clockText(zoneOf(firing.alert.instrument ?? ''), firing.time)}</span>
            <span className="min-w-0 flex-1 truncate" title={firing.text}>
              {firing.alert.name ?? firing.text}
            </span>
            {firing.alert.instrument !== null && firing.alert.kind === 'price' && (
              <span className="figure">
                {firing.value} then, {priceNow(firing.alert.instrument)} now
              </span>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

function priceNow(id: string): string {
  const instrument = instrumentOf(id);
  const last = quoteOf(id)?.last ?? null;
  return instrument && last !== null ? formatPrice(instrument, last) : '–';
}
