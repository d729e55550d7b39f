import { useStore } from '@nanostores/react';
import { Bell, X } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { answer } from '../../../client/answers.ts';
import { formatPrice, type Price } from '../../../core/instrument/index.ts';
import { laidOut } from '../../../kit/scale.ts';
import { $alerts, priceOf, problemWords, request, type ApiAlert } from '../../../live/index.ts';
import type { ChartController } from './controller.ts';
import { snap } from './model.ts';
import { AXIS_PX } from './viewport.ts';

const HALF_PX = 12;

/** The price alerts of an instrument: a line with a bell plate each, moved by dragging. */
export function AlertMarks({ plot, stripPx }: { plot: ChartController; stripPx: number }) {
  const { model } = plot;
  const { instrument } = plot.of;
  const all = useStore($alerts);
  const layer = useRef<HTMLDivElement>(null);
  const alerts = useMemo(
    () => Object.values(all ?? {}).filter((one) => one.kind === 'price' && one.instrument === instrument.id && one.state !== 'ended'),
    [all, instrument],
  );
  useEffect(
    () =>
      plot.onDrawn(() => {
        for (const mark of layer.current?.querySelectorAll<HTMLElement>('[data-at]') ?? []) {
          const y = model.view.y(Number(mark.dataset['at']));
          mark.style.visibility = y >= 0 && y <= model.view.plotHeight ? 'visible' : 'hidden';
          mark.style.transform = `translateY(${Math.round(y) - HALF_PX}px)`;
        }
      }),
    [alerts, model, plot],
  );
  return (
    <div ref={layer} className="pointer-events-none absolute inset-0 overflow-hidden" style={{ right: AXIS_PX + stripPx }}>
      {alerts.map((alert) => (
        <AlertLine key={alert.id} plot={plot} alert={alert} />
      ))}
    </div>
  );
}

function AlertLine({ plot, alert }: { plot: ChartController; alert: ApiAlert }) {
  const { model } = plot;
  const { pane: id, instrument } = plot.of;
  const price = priceOf(instrument, alert.price);
  const [to, setTo] = useState<Price | null>(null);
  const began = useRef<{ y: number; top: number } | null>(null);
  useEffect(() => {
    if (to !== null) plot.redraw();
  }, [to, plot]);
  if (price === null) return null;
  const shown = to ?? price;
  const call = async (body: object | null): Promise<void> => {
    const path = { id: alert.id };
    const done = body === null ? await request('DELETE /api/alerts/{id}', { path }) : await request('PATCH /api/alerts/{id}', { path, body });
    if (!done.ok) answer(id, 'refused', problemWords(done.problem));
  };
  const back = (): void => {
    began.current = null;
    model.view.frozen = false;
    setTo(null);
  };
  return (
    <div data-at={shown} className="absolute inset-x-0 top-0 flex h-[24px] items-center">
      <span className="h-0 w-2 border-t border-dotted border-lamp" />
      <span
        className={`pointer-events-auto flex h-[24px] cursor-ns-resize touch-none select-none items-center gap-1 rounded-[2px] border border-lamp pl-1 ${to === null ? 'bg-pane' : 'bg-raised'}`}
        role="group"
        tabIndex={0}
        aria-label={`Alert at ${formatPrice(instrument, shown)}`}
        title="Drag it to another price; arrow keys move it by a tick."
        onPointerDown={(event) => {
          event.stopPropagation();
          if (event.button !== 0 || (event.target as HTMLElement).closest('button')) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          began.current = { y: event.clientY, top: model.view.y(price) };
          model.view.frozen = true;
        }}
        onPointerMove={(event) => {
          const start = began.current;
          if (start) setTo(snap(model, start.top + laidOut(event.clientY - start.y)));
        }}
        onPointerUp={() => {
          const moved = began.current !== null && to !== null && to !== price;
          if (moved) void call({ price: formatPrice(instrument, shown) }).finally(back);
          else back();
        }}
        onKeyDown={(event) => {
          const way = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
          if (event.key === 'Escape') back();
          if (event.key === 'Delete') void call(null);
          if (way === 0) return;
          event.preventDefault();
          event.stopPropagation();
          const next = snap(model, model.view.y(price) + way * 2);
          if (next !== price) void call({ price: formatPrice(instrument, next) });
        }}
      >
        <Bell size={12} className="text-lamp" aria-hidden="true" />
        <span className="figure">{formatPrice(instrument, shown)}</span>
        {alert.state === 'snoozed' && <span className="text-quiet">snoozed</span>}
        <button
          type="button"
          className="grid h-[22px] w-[24px] place-items-center"
          aria-label={`Drop the alert at ${formatPrice(instrument, price)}`}
          onClick={() => void call(null)}
        >
          <X size={11} aria-hidden="true" />
        </button>
      </span>
      <span className="h-0 flex-1 border-t border-dotted border-lamp" />
    </div>
  );
}
