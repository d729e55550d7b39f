import { useStore } from '@nanostores/react';
import { useEffect, useRef } from 'react';
import { resultClass, signed, writeFigure } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { followQuote, instrumentOf } from '../../live/index.ts';
import { $letters, $panes, setInstrument, setPaneSetting, targetOf } from '../workspace/panes.ts';

const COAST = [
  'GANET.HALM',
  'KELPA.HALM',
  'BRINE.HALM',
  'HALM40.HALM',
  'HALMF.HALM',
  'HALM40-JUN26.HALM',
  'HALM40M-JUN26.HALM',
  'SALMO-JUN26.HALM',
  'GANET-APR26-40C.HALM',
  'CARB-EUR.VSPR',
  'CARBI.VSPR',
  'GANET.QUAY',
];

/** The pane's own list, as text in its settings; the coast's best known without one. */
const listOf = (text: string | undefined): string[] => (text ? text.split(' ') : COAST).filter((id) => instrumentOf(id));

/** Instruments in rows; a press or an arrow key walks it, and the linked panes follow. */
export function WatchlistPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const target = targetOf(id);
  const list = listOf(pane?.settings['list']);
  const body = useRef<HTMLDivElement>(null);
  const walk = (step: number): void => {
    const at = list.indexOf(target?.instrument ?? '');
    const next = list[Math.max(0, Math.min(list.length - 1, at + step))];
    if (next) setInstrument(id, next);
  };
  const shown = target && !list.includes(target.instrument) ? target.instrument : null;
  return (
    <div ref={body} className="flex h-full flex-col">
      <div
        className="scroll min-h-0 flex-1"
        tabIndex={0}
        role="group"
        aria-label="Instruments"
        onKeyDown={(event) => {
          if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
          event.preventDefault();
          walk(event.key === 'ArrowDown' ? 1 : -1);
        }}
      >
        <table className="list narrow">
          <caption className="sr-only">Watchlist</caption>
          <thead>
            <tr>
              <th>instrument</th>
              <th className="right w-[58px]">last</th>
              <th className="right w-[52px]">%</th>
            </tr>
          </thead>
          <tbody>
            {list.map((one) => (
              <Row key={one} instrument={one} selected={one === target?.instrument} onPick={() => setInstrument(id, one)} />
            ))}
          </tbody>
        </table>
      </div>
      {shown && (
        <button type="button" className="control m-1 shrink-0" onClick={() => setPaneSetting(id, 'list', [...list, shown].join(' '))}>
          Add {shown}
        </button>
      )}
    </div>
  );
}

function Row({ instrument, selected, onPick }: { instrument: string; selected: boolean; onPick: () => void }) {
  const last = useRef<HTMLTableCellElement>(null);
  const change = useRef<HTMLTableCellElement>(null);
  useEffect(
    () =>
      followQuote(instrument, ({ text }) => {
        if (!last.current || !change.current) return;
        const before = Number(last.current.dataset['text']);
        const now = text.last ?? text.previousSettlement ?? '–';
        writeFigure(last.current, now, Number(now) > before ? 'up' : Number(now) < before ? 'down' : null);
        const percent = text.changePercent ?? '–';
        change.current.textContent = percent === '–' ? percent : signed(percent);
        change.current.className = `figure ${resultClass(percent)}`;
      }),
    [instrument],
  );
  return (
    <tr aria-selected={selected} onPointerDown={(event) => event.button === 0 && onPick()}>
      <td>
        <InstrumentName id={instrument} />
      </td>
      <td ref={last} className="figure" />
      <td ref={change} className="figure" />
    </tr>
  );
}
