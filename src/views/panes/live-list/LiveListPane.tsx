import { useStore } from '@nanostores/react';
import { useEffect, useMemo, useState } from 'react';
import { notePopoverClosed } from '../../client/gestures/index.ts';
import { INSTRUMENT_KINDS, VENUE_IDS } from '../../core/instrument/index.ts';
import { LIVE_LISTS } from '../../core/market/index.ts';
import { clockText } from '../../kit/clock.ts';
import { grouped, resultClass, signed } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { Popover } from '../../kit/Popover.tsx';
import { request, instrumentOf, instruments, type ApiLiveList, zoneOf } from '../../live/index.ts';
import { setting } from '../workspace/pane-settings.ts';
import { dragsInstrument } from '../workspace/drag.ts';
import { $letters, $panes, setInstrument, setPaneSetting, settingOf, targetOf } from '../workspace/panes.ts';
import { useListRows } from './rows.ts';
import { usePaneCommands } from '../act/keys.ts';

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

/** A list over the whole universe that the server keeps. Rows nobody watches are known by the minute, and say so. */
export function LiveListPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const name = settingOf(pane, 'list', 'risers');
  const rows = setting<number>(pane, 'rows');
  const filter = settingOf<Record<string, string>>(pane, 'filter', {});
  const [list, setList] = useState<ApiLiveList | null>(null);
  const [over, setOver] = useState(false);
  const query = new URLSearchParams({ limit: String(rows), ...Object.fromEntries(Object.entries(filter).filter(([, value]) => value !== '')) }).toString();
  useEffect(() => {
    let gone = false;
    const ask = async (): Promise<void> => {
      const found = await request('GET /api/live-lists/{name}', { path: { name }, query: Object.fromEntries(new URLSearchParams(query)) });
      if (!gone && found.ok) setList(found.value);
    };
    void ask();
    // Rows stand still under the pointer.
    const timer = setInterval(() => !over && void ask(), ASK_EVERY_MS);
    return () => {
      gone = true;
      clearInterval(timer);
    };
  }, [name, query, over]);
  const shown = list?.name === name ? list : null;
  const ids = shown?.items.map((item) => item.instrument) ?? [];
  const { ringed, ring, commands } = useListRows(ids, (instrument) => setInstrument(id, instrument));
  usePaneCommands(id, commands);
  const target = targetOf(id);
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[24px] shrink-0 items-center gap-2 px-2">
        <label className="flex items-center gap-1">
          <span className="sr-only">List</span>
          <select className="field !h-[20px]" value={name} onChange={(event) => setPaneSetting(id, 'list', event.target.value)}>
            {LIVE_LISTS.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </label>
        <FilterButton id={id} filter={filter} />
        {shown && (
          <span className="ml-auto truncate quiet" title="Rows marked with ′ are known by the minute: nobody watches them.">
            {grouped(String(shown.counted))} counted
          </span>
        )}
      </div>
      <div
        className="scroll min-h-0 flex-1"
        tabIndex={0}
        role="group"
        aria-label={`Live list, ${name}`}
        onPointerEnter={() => setOver(true)}
        onPointerLeave={() => setOver(false)}
      >
        {!shown && <div className="skeleton h-full" role="status" aria-label="Loading the list" />}
        {shown?.items.length === 0 && (
          <p className="p-2 quiet">
            Nothing is among the {name} just now{Object.keys(filter).length > 0 ? ' with these filters' : ''}.
          </p>
        )}
        {shown && shown.items.length > 0 && (
          <table className="list">
            <caption className="sr-only">Live list, {name}</caption>
            <thead>
              <tr>
                <th>instrument</th>
                <th className="right">last</th>
                <th className="right">%</th>
                {MEASURE[name] && <th className="right">{MEASURE[name]}</th>}
                <th className="right">volume</th>
                <th>name</th>
              </tr>
            </thead>
            <tbody>
              {shown.items.map((item) => (
                <tr
                  key={item.instrument}
                  aria-selected={item.instrument === target?.instrument}
                  className={ringed === item.instrument ? 'ringed' : ''}
                  onPointerDown={(event) => event.button === 0 && ring(item.instrument)}
                >
                  <td {...dragsInstrument(item.instrument)}>
                    <InstrumentName id={item.instrument} />
                  </td>
                  <td className="figure" title={item.live ? 'watched: as it is' : `by the minute, ${clockText(zoneOf(item.instrument), item.asOf, 'HH:mm')}`}>
                    {item.last ?? '–'}
                    {item.live ? '' : '′'}
                  </td>
                  <td className={`figure ${resultClass(item.changePercent ?? '0')}`}>{item.changePercent === null ? '–' : signed(item.changePercent)}</td>
                  {MEASURE[name] && <td className="figure">{/^[\d.]+$/.test(item.measure) ? grouped(item.measure) : item.measure.replace('-', '−')}</td>}
                  <td className="figure">{grouped(item.volume)}</td>
                  <td className="w-full max-w-0 truncate quiet">{instrumentOf(item.instrument)?.name}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </div>
  );
}

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
      onClosedByPress={notePopoverClosed}
      trigger={
        <button type="button" className="max-w-[200px] truncate quiet underline underline-offset-4">
          {words === '' ? 'all instruments' : words}
        </button>
      }
    >
      <div className="grid w-[240px] gap-1">
        {FILTERS.map((name) => (
          <label key={name} className="flex items-center justify-between gap-2">
            {FILTER_WORDS[name]}
            {options[name] ? (
              <select className="field w-[130px]" value={filter[name] ?? ''} onChange={(event) => set(name, event.target.value)}>
                <option value="">any</option>
                {options[name].map((one) => (
                  <option key={one}>{one}</option>
                ))}
              </select>
            ) : (
              <input
                className="field figure w-[130px]"
                inputMode="decimal"
                defaultValue={filter[name] ?? ''}
                onChange={(event) => (event.target.value === '' || DECIMAL.test(event.target.value)) && set(name, event.target.value)}
              />
            )}
          </label>
        ))}
      </div>
    </Popover>
  );
}
