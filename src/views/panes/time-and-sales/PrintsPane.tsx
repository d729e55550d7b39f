import { useStore } from '@nanostores/react';
import { useEffect, useMemo, useRef, useState, type CSSProperties } from 'react';
import { answer } from '../../../client/answers.ts';
import type { Instrument } from '../../../core/instrument/index.ts';
import { clockText } from '../../../kit/clock.ts';
import { Empty } from '../../../kit/Empty.tsx';
import { grouped } from '../../../kit/Figure.tsx';
import { Grid, useGrid, type GridColumn } from '../../../kit/Grid.tsx';
import { followPrints, instrumentOf, zoneOf, type LivePrint } from '../../../live/index.ts';
import { $letters, $panes, setPaneSetting, targetOf } from '../../workspace/panes.ts';
import { readSettings } from '../../workspace/settings.ts';
import { PRINTS } from './settings.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { chosenColumns } from '../../act/table.ts';

const KEPT = 5000;
/** While it is paused so many wait at most; then it goes on from the newest, and says so. */
const MOST_WAITING = 50_000;
const SHOW_EVERY_MS = 200;
const NONE: readonly LivePrint[] = [];

/** Every print of one instrument, newest on top. Paused, it stands still and counts what waits; nothing is left out. */
export default function PrintsPane({ id }: { id: string }) {
  useStore($panes);
  useStore($letters);
  const target = targetOf(id);
  const instrument = target ? instrumentOf(target.instrument) : undefined;
  if (!instrument) return <p className="p-2 text-quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  return <Prints key={instrument.id} id={id} instrument={instrument} />;
}

function Prints({ id, instrument }: { id: string; instrument: Instrument }) {
  const pane = useStore($panes)[id];
  const { least, large, columns } = readSettings(pane, PRINTS);
  const all = useRef<LivePrint[]>([]);
  const [shown, setShown] = useState<readonly LivePrint[] | null>(null);
  const [paused, setPaused] = useState(false);
  const [waiting, setWaiting] = useState(0);
  const stands = useRef(false);
  stands.current = paused;

  useEffect(() => {
    let due: ReturnType<typeof setTimeout> | null = null;
    const show = (): void => {
      due = null;
      if (!stands.current) setShown(all.current.slice());
    };
    const stop = followPrints(instrument.id, (prints, anew) => {
      if (anew) all.current = [...prints];
      else all.current.push(...prints);
      if (stands.current && all.current.length < MOST_WAITING) setWaiting((n) => n + prints.length);
      else if (stands.current) {
        all.current = all.current.slice(-KEPT);
        setPaused(false);
        setWaiting(0);
        answer(id, 'refused', `more than ${grouped(String(MOST_WAITING))} prints waited: it goes on from the newest`);
      } else if (all.current.length > KEPT * 1.2) all.current = all.current.slice(-KEPT);
      due ??= setTimeout(show, SHOW_EVERY_MS);
    });
    due ??= setTimeout(show, SHOW_EVERY_MS);
    return () => {
      stop();
      if (due) clearTimeout(due);
    };
  }, [id, instrument.id]);
  const resume = (): void => {
    setPaused(false);
    setWaiting(0);
    setShown(all.current.slice());
  };
  // Newest on top.
  const rows = useMemo(() => (shown ?? NONE).filter((print) => least === 0 || Number(print.quantity) >= least).reverse(), [shown, least]);
  const isLarge = (print: LivePrint): boolean => large > 0 && Number(print.quantity) >= large;
  const grid = useGrid<LivePrint>({ rows, columns: columnsOf(instrument, columns, isLarge), keyOf: ({ seq }) => String(seq), moves: true });
  usePaneCommands(id, [{ keys: ['p', 'Shift+p'], words: 'pause, and go on', run: () => (paused ? resume() : setPaused(true)) }]);
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[22px] shrink-0 items-center gap-3 px-2">
        <button type="button" aria-pressed={paused} className={paused ? 'plate heather' : 'text-quiet'} onClick={() => (paused ? resume() : setPaused(true))}>
          {paused ? `paused · ${grouped(String(waiting))} wait` : 'pause'}
        </button>
        {least > 0 && <span className="text-quiet">from {grouped(String(least))}</span>}
      </div>
      <div className="min-h-0 flex-1">
        {shown === null ? (
          <div className="skeleton h-full" role="status" aria-label="Loading prints" />
        ) : (
          <Grid
            grid={grid}
            name={`Prints of ${instrument.id}`}
            empty={
              least > 0 ? (
                <Empty says={`No prints of ${grouped(String(least))} or more yet.`} offers="show all sizes" onOffer={() => setPaneSetting(id, 'least', 0)} />
              ) : (
                `No prints yet in ${instrument.id}.`
              )
            }
            rowProps={(print) => ({ title: `seq ${print.seq}`, ...(isLarge(print) ? edged(print) : {}) })}
          />
        )}
      </div>
    </div>
  );
}

const tone = ({ side }: LivePrint): string => `var(--${side === 'buy' ? 'weed' : 'copper'})`;
/** A large print: an edge and a wash of its side. */
const edged = (print: LivePrint) => ({
  className: 'edged',
  style: { '--edge': tone(print), background: `color-mix(in srgb, ${tone(print)} 20%, transparent)` } as CSSProperties,
});

function columnsOf(instrument: Instrument, chosen: readonly string[], isLarge: (print: LivePrint) => boolean): GridColumn<LivePrint>[] {
  const zone = zoneOf(instrument.id);
  const worth = (print: LivePrint): string => (Number(print.price) * Number(print.quantity) * instrument.multiplier).toFixed(0);
  const all: GridColumn<LivePrint>[] = [
    {
      id: 'time',
      head: 'time',
      cell: ({ time }) => <span className="figure text-quiet">{clockText(zone, time)}</span>,
      csv: ({ time }) => new Date(time).toISOString(),
    },
    {
      id: 'side',
      head: 'aggressor',
      cell: ({ side }) => <span className={side === 'buy' ? 'up' : 'down'}>{side === 'buy' ? 'buys' : 'sells'}</span>,
      csv: ({ side }) => side,
    },
    { id: 'price', head: 'price', figure: true, cell: ({ price }) => price, csv: ({ price }) => price },
    {
      id: 'quantity',
      head: 'quantity',
      figure: true,
      cell: (print) => <span className={isLarge(print) ? 'font-bold' : ''}>{grouped(print.quantity)}</span>,
      csv: ({ quantity }) => quantity,
    },
    { id: 'value', head: 'value', figure: true, cell: (print) => grouped(worth(print)), csv: worth },
  ];
  return chosenColumns(all, PRINTS.columns.options, chosen);
}
