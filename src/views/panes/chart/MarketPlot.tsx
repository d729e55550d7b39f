import { useStore } from '@nanostores/react';
import { useEffect, useRef } from 'react';
import { usePaneCommands } from '../../act/keys.ts';
import { AlertMarks } from './AlertMarks.tsx';
import type { ChartController } from './controller.ts';
import { DataLine } from './DataLine.tsx';
import { $drawings } from './drawing-store.ts';
import { DrawingBar } from './DrawMenu.tsx';
import { OrderMarks } from './OrderMarks.tsx';
import { OrderStrip } from './OrderStrip.tsx';
import { STRIP_PX } from './viewport.ts';

/** A chart in its box, with what lies over it. */
export function MarketPlot({ plot, ordersOn }: { plot: ChartController; ordersOn: boolean }) {
  const { pane, instrument, interval } = plot.of;
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const state = useStore(plot.$state);
  const tool = useStore(plot.$tool);
  useEffect(() => (box.current && canvas.current ? plot.mount(box.current, canvas.current) : undefined), [plot]);
  usePaneCommands(pane, plot.commands());
  const stripPx = ordersOn ? STRIP_PX : 0;
  return (
    <div
      ref={box}
      className={`relative min-h-0 flex-1 touch-none overflow-hidden outline-none ${tool ? 'cursor-crosshair' : ''}`}
      tabIndex={0}
      role="group"
      aria-label={`Chart of ${instrument.id}, ${interval}`}
      data-testid="chart"
    >
      <div className="absolute inset-0">
        <canvas ref={canvas} aria-hidden="true" />
      </div>
      <DataLine plot={plot} />
      {state === 'loading' && <div className="skeleton absolute inset-0" role="status" aria-label="Loading bars" />}
      {state === 'empty' && (
        <p className="absolute p-2 text-quiet">
          No trades yet in {instrument.id}
          {instrument.listsOn === null ? '' : `, listed from ${instrument.listsOn} on`}.
        </p>
      )}
      {ordersOn && <OrderStrip plot={plot} />}
      <AlertMarks plot={plot} stripPx={stripPx} />
      <OrderMarks plot={plot} stripPx={stripPx} draggable={ordersOn} />
      <SelectedDrawing plot={plot} />
    </div>
  );
}

function SelectedDrawing({ plot }: { plot: ChartController }) {
  useStore($drawings);
  useStore(plot.$selected);
  const drawing = plot.selected();
  return drawing ? <DrawingBar plot={plot} drawing={drawing} /> : null;
}
