import { useStore } from '@nanostores/react';
import { useMemo, useState } from 'react';
import { INSTRUMENT_KINDS, VENUE_IDS } from '../../../core/instrument/index.ts';
import { LIVE_LISTS } from '../../../core/market/index.ts';
import { Choice } from '../../../kit/Choice.tsx';
import { clockText } from '../../../kit/clock.ts';
import { Empty } from '../../../kit/Empty.tsx';
import { Field } from '../../../kit/Field.tsx';
import { grouped, resultClass, signed } from '../../../kit/Figure.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { instrumentOf, instruments, type ApiLiveList, zoneOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { usePaneCommands } from '../../act/keys.ts';
import { usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $letters, $panes, setInstrument, setPaneSetting, settingOf, targetOf } from '../../workspace/panes.ts';
import { readSettings } from '../../workspace/settings.ts';
import { LIVE_LIST } from './settings.ts';

const ASK_EVERY_MS = 3000;
const FILTERS = ['venue', 'kind', 'sector', 'leastPrice', 'leastVolume'] as const;
const FILTER_WORDS: Readonly<Record<(typeof FILTERS)[number], string>> = {
  venue: 'Venue',
  kind: 'Kind',
  sector: 'Sector',
  leastPrice: 'Price from',
  leastVolume: 'Volume from',
};
const DECIMAL = /^\d{1,9}(\.\d{1,6})?$/;

/** What the list orders by, where it is not the change. */
const MEASURE: Readonly<Record<string, string>> = {
  'most active': 'value',
  'unusually active': 'of usual',
  'new highs': 'made at',
  'new lows': 'made at',
  'gaps up': 'gap',
  'gaps down': 'gap',
  halted: 'since',
};

const LIST_ABOUT: Readonly<Record<string, string>> = {
  risers: 'gained the most today',
  fallers: 'lost the most today',
  'most active': 'traded the most value',
  'unusually active': 'traded the most against their usual',
  'new highs': 'made a high of the year today',
  'new lows': 'made a low of the year today',
  'gaps up': 'opened above yesterday’s close',
  'gaps down': 'opened below yesterday’s close',
  halted: 'do not trade now',
};

type Item = ApiLiveList['items'][number];

const columnsOf = (list: string): GridColumn<Item>[] => [
  {
    id: 'instrument',
    head: 'instrument',
    cell: (item) => <InstrumentName id={item.instrument} />,
    cellProps: (item) => dragsInstrument(item.instrument),
    value: (item) => item.instrument,
  },
  {
    id: 'last',
    head: 'last',
    figure: true,
    cell: (item) => `${item.last ?? '–'}${item.live ? '' : '′'}`,
    cellProps: (item) => ({ title: item.live ? 'watched: as it is' : `by the minute, ${clockText(zoneOf(item.instrument), item.asOf, 'HH:mm')}` }),
    value: (item) => (item.last === null ? undefined : Number(item.last)),
  },
  {
    id: 'percent',
    head: '%',
    figure: true,
    cell: (item) => (item.changePercent === null ? '–' : signed(item.changePercent)),
    cellProps: (item) => ({ className: resultClass(item.changePercent ?? '0') }),
    value: (item) => (item.changePercent === null ? undefined : Number(item.changePercent)),
  },
  ...(MEASURE[list] === undefined
    ? []
    : [
        {
          id: 'measure',
          head: MEASURE[list],
          figure: true,
          cell: ({ measure }: Item) => (/^[\d.]+$/.test(measure) ? grouped(measure) : measure.replace('-', '−')),
          value: ({ measure }: Item) => (Number.isNaN(Number(measure)) ? measure : Number(measure)),
        },
      ]),
  { id: 'volume', head: 'volume', figure: true, cell: (item) => grouped(item.volume), value: (item) => Number(item.volume) },
  {
    id: 'name',
    head: 'name',
    cell: (item) => instrumentOf(item.instrument)?.name,
    cellProps: () => ({ className: 'w-full max-w-0 truncate text-quiet' }),
    value: (item) => instrumentOf(item.instrument)?.name,
  },
];

/** A list over the whole universe that the server keeps. Rows nobody watches are known by the minute, and say so. */
export default function LiveListPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const name = settingOf(pane, 'list', 'risers');
  const { rows: limit } = readSettings(pane, LIVE_LIST);
  const filter = settingOf<Record<string, string>>(pane, 'filter', {});
  const [over, setOver] = useState(false);
  const chosen = Object.fromEntries(Object.entries(filter).filter(([, value]) => value !== ''));
  const asked = { path: { name }, query: { limit, ...chosen } };
  // Rows stand still under the pointer.
  const list = useAsked('GET /api/live-lists/{name}', asked, { freshMs: ASK_EVERY_MS, everyMs: over ? undefined : ASK_EVERY_MS });
  const shown = list.data?.name === name ? list.data : null;
  const items = useMemo(() => shown?.items ?? [], [shown]);
  const columns = useMemo(() => columnsOf(name), [name]);
  const grid = usePaneGrid({ pane, rows: items, of: JSON.stringify(asked), columns, keyOf: (item) => item.instrument });
  const { ringed, ring, commands } = useRinged(grid.keys, (instrument) => setInstrument(id, instrument));
  usePaneCommands(id, commands);
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[24px] shrink-0 items-center gap-2 px-2">
        <Choice
          label="List"
          className="h-[20px] w-[130px]"
          value={name}
          options={LIVE_LISTS.map((one) => ({ value: one, words: one, about: LIST_ABOUT[one] ?? '' }))}
          onPick={(picked) => setPaneSetting(id, 'list', picked)}
        />
        <FilterButton id={id} filter={filter} />
        {shown && (
          <span className="ml-auto truncate text-quiet" title="Rows marked with ′ are known by the minute: nobody watches them.">
            {grouped(String(shown.counted))} counted
          </span>
        )}
      </div>
      {shown ? (
        <Grid
          className="min-h-0 flex-1"
          grid={grid}
          name={`Live list, ${name}`}
          empty={
            Object.keys(filter).length > 0 ? (
              <Empty says={`Nothing is among the ${name} with these filters.`} offers="clear them" onOffer={() => setPaneSetting(id, 'filter', {})} />
            ) : (
              `Nothing is among the ${name} just now.`
            )
          }
          ringed={ringed}
          selected={targetOf(id)?.instrument ?? null}
          onRing={ring}
          onHover={setOver}
        />
      ) : (
        <div className="skeleton min-h-0 flex-1" role="status" aria-label="Loading the list" />
      )}
    </div>
  );
}

function FilterButton({ id, filter }: { id: string; filter: Readonly<Record<string, string>> }) {
  const sectors = useMemo(() => [...new Set([...instruments.values()].flatMap((one) => one.sector ?? []))].sort(), []);
  const set = (name: string, value: string): void => {
    const { [name]: _before, ...rest } = filter;
    setPaneSetting(id, 'filter', value === '' ? rest : { ...rest, [name]: value });
  };
  const options: Readonly<Record<string, readonly string[]>> = { venue: VENUE_IDS, kind: INSTRUMENT_KINDS, sector: sectors };
  const words = Object.values(filter).join(', ');
  return (
    <Popover
      label="Filters of the list"
      trigger={
        <button type="button" className="max-w-[200px] truncate text-quiet underline underline-offset-4">
          {words === '' ? 'all instruments' : words}
        </button>
      }
    >
      <div className="grid w-[240px] gap-1">
        {FILTERS.map((name) => (
          <Field key={name} label={FILTER_WORDS[name]}>
            {options[name] ? (
              <Choice
                label={FILTER_WORDS[name]}
                className="w-[130px]"
                value={filter[name] ?? ''}
                options={[{ value: '', words: 'any' }, ...options[name].map((one) => ({ value: one, words: one }))]}
                onPick={(value) => set(name, value)}
              />
            ) : (
              <input
                className="field figure w-[130px]"
                inputMode="decimal"
                aria-label={FILTER_WORDS[name]}
                defaultValue={filter[name] ?? ''}
                onChange={(event) => (event.target.value === '' || DECIMAL.test(event.target.value)) && set(name, event.target.value)}
              />
            )}
          </Field>
        ))}
      </div>
    </Popover>
  );
}
