import { useStore } from '@nanostores/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState } from 'react';
import { answer } from '../../../client/answers.ts';
import type { Instrument } from '../../../core/instrument/index.ts';
import { clockText } from '../../../kit/clock.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { followPrints, instrumentOf, zoneOf, type LivePrint } from '../../../live/index.ts';
import { $letters, $panes, targetOf } from '../../workspace/panes.ts';
import { COMMON, readSettings } from '../../workspace/settings.ts';
import { PRINTS } from './settings.ts';
import { usePaneCommands } from '../../act/keys.ts';

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
  const rowPx = readSettings(pane, COMMON).density === 'easy' ? 26 : 20;
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
  const rows = least === 0 ? (shown ?? NONE) : (shown ?? NONE).filter((print) => Number(print.quantity) >= least);
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => rowPx, overscan: 6 });
  usePaneCommands(id, [{ keys: ['p', 'Shift+p'], words: 'pause, and go on', run: () => (paused ? resume() : setPaused(true)) }]);
  const zone = zoneOf(instrument.id);
  const clock = (time: number): string => clockText(zone, time);
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[22px] shrink-0 items-center gap-3 px-2">
        <button type="button" aria-pressed={paused} className={paused ? 'plate heather' : 'text-quiet'} onClick={() => (paused ? resume() : setPaused(true))}>
          {paused ? `paused · ${grouped(String(waiting))} wait` : 'pause'}
        </button>
        {least > 0 && <span className="text-quiet">from {grouped(String(least))}</span>}
      </div>
      <div ref={scroller} className="scroll min-h-0 flex-1" tabIndex={0} role="group" aria-label={`Prints of ${instrument.id}`}>
        {shown === null && <div className="skeleton h-full" role="status" aria-label="Loading prints" />}
        {shown !== null && rows.length === 0 && (
          <p className="p-2 text-quiet">
            No prints{least > 0 ? ` of ${least} or more` : ''} yet in {instrument.id}.
          </p>
        )}
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            // Newest on top.
            const print = rows[rows.length - 1 - index];
            if (!print) return null;
            const isLarge = large > 0 && Number(print.quantity) >= large;
            const tone = print.side === 'buy' ? 'weed' : 'copper';
            return (
              <div
                key={index}
                className="absolute inset-x-0 flex items-center gap-3 px-2"
                style={{
                  top: start,
                  height: rowPx,
                  background: isLarge ? `color-mix(in srgb, var(--${tone}) 20%, transparent)` : undefined,
                  boxShadow: isLarge ? `inset 3px 0 0 var(--${tone})` : undefined,
                }}
                title={`seq ${print.seq}`}
              >
                {columns.includes('time') && <span className="figure text-quiet">{clock(print.time)}</span>}
                {columns.includes('side') && <span className={`w-8 ${print.side === 'buy' ? 'up' : 'down'}`}>{print.side === 'buy' ? 'buys' : 'sells'}</span>}
                <span className="figure ml-auto">{print.price}</span>
                <span className={`figure w-[72px] ${isLarge ? 'font-bold' : ''}`}>{grouped(print.quantity)}</span>
                {columns.includes('value') && (
                  <span className="figure w-[84px]">{grouped((Number(print.price) * Number(print.quantity) * instrument.multiplier).toFixed(0))}</span>
                )}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
