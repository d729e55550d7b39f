import { useStore } from '@nanostores/react';
import type { Chart } from 'chart.js';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Instrument } from '../../core/instrument/index.ts';
import { $orders, $positions, call, follow, followQuote, instrumentOf, isWorking, positionKey, priceOf, type ApiBar, type ApiOrder } from '../../live/index.ts';
import { quotesFresh } from '../act/lamps.ts';
import { $theme } from '../theme/theme.ts';
import { $letters, $panes, setPaneSetting, targetOf, type Target } from '../workspace/panes.ts';
import { timeLabels } from './labels.ts';
import { makeChart, type ChartLine, type ChartModel } from './market-chart.ts';
import { OrderMarks } from './OrderMarks.tsx';
import { OrderStrip, STRIP_PX } from './OrderStrip.tsx';
import { BarSeries } from './series.ts';
import { Viewport } from './viewport.ts';

const INTERVALS = ['1m', '5m', '15m', '1h', '1d'] as const;
type Interval = (typeof INTERVALS)[number];
const FIRST_BARS = 600;
const OLDER_BARS = 1500;

/** Bars and volume, live, with one's own orders and position on them. */
export function ChartPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const target = targetOf(id);
  const instrument = target ? instrumentOf(target.instrument) : undefined;
  const interval = INTERVALS.find((one) => one === pane?.settings['interval']) ?? '5m';
  const ordersOn = pane?.settings['orders'] === 'on';
  if (!target || !instrument) return <p className="p-2 quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[26px] shrink-0 items-center gap-1 px-2">
        <div className="flex gap-1" role="group" aria-label="Interval">
          {INTERVALS.map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={one === interval}
              className={`min-w-[28px] rounded-[2px] px-1 ${one === interval ? 'bg-raised' : 'quiet'}`}
              onClick={() => setPaneSetting(id, 'interval', one)}
            >
              {one}
            </button>
          ))}
        </div>
        <button type="button" aria-pressed={ordersOn} className="ml-4" onClick={() => setPaneSetting(id, 'orders', ordersOn ? 'off' : 'on')}>
          Orders from chart <b>{ordersOn ? 'on' : 'off'}</b>
        </button>
      </div>
      <MarketPlot
        key={`${target.instrument} ${target.account} ${interval}`}
        id={id}
        target={target}
        instrument={instrument}
        interval={interval}
        ordersOn={ordersOn}
      />
    </div>
  );
}

function linesOf(orders: readonly ApiOrder[], instrument: Instrument): ChartLine[] {
  return orders.flatMap((order) => {
    const stop = order.stopPrice !== null && order.triggeredAt === null;
    const price = priceOf(instrument, stop ? order.stopPrice : order.limitPrice);
    return price === null ? [] : [{ price, kind: stop ? ('stop' as const) : ('limit' as const), pending: order.state.startsWith('pending') }];
  });
}

function MarketPlot({
  id,
  target,
  instrument,
  interval,
  ordersOn,
}: {
  id: string;
  target: Target;
  instrument: Instrument;
  interval: Interval;
  ordersOn: boolean;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<Chart | null>(null);
  const marks = useRef<() => void>(() => undefined);
  const [state, setState] = useState<'loading' | 'empty' | 'shown'>('loading');
  const orders = useStore($orders);
  const positions = useStore($positions);
  const theme = useStore($theme);
  const position = positions[positionKey(target.account, instrument.id)];
  const own = useMemo(
    () => Object.values(orders).filter((order) => order.instrument === instrument.id && order.account === target.account && isWorking(order)),
    [orders, instrument.id, target.account],
  );

  const model = useMemo<ChartModel>(
    () => ({
      instrument,
      series: new BarSeries(instrument),
      view: new Viewport(),
      lines: [],
      label: timeLabels(instrument.venue, interval === '1d'),
      live: true,
      onDrawn: () => marks.current(),
    }),
    [instrument, interval],
  );
  const movedAt = useRef(performance.now());
  const frame = useRef(0);
  const draw = useCallback(() => {
    if (frame.current !== 0) return;
    frame.current = requestAnimationFrame(() => {
      frame.current = 0;
      chart.current?.draw();
    });
  }, []);

  useEffect(() => {
    let stopped = false;
    const begin = async (): Promise<void> => {
      await document.fonts.ready;
      if (stopped || !canvas.current) return;
      chart.current = makeChart(canvas.current, model);
      const loaded = await call<{ items: ApiBar[] }>('GET', `/api/bars/${instrument.id}?interval=${interval}&limit=${FIRST_BARS}`);
      if (stopped) return;
      if (loaded.ok) model.series.prepend(loaded.value.items);
      setState(model.series.length === 0 ? 'empty' : 'shown');
      movedAt.current = performance.now();
      draw();
    };
    void begin();
    const stopBars = follow<(ApiBar & { before: ApiBar | null }) | null>(`bars:${instrument.id}:${interval}`, (data) => {
      if (!data || model.series.length === 0) return;
      if (data.before) model.series.update(data.before);
      const count = model.series.length;
      model.series.update(data);
      // A chart that was moved off the newest bar stays where it is.
      if (model.series.length > count && model.view.ahead < 0) model.view.ahead -= 1;
      draw();
    });
    const stopQuote = followQuote(instrument.id, () => undefined);
    const watch = setInterval(() => {
      const live = quotesFresh();
      if (live !== model.live) {
        model.live = live;
        draw();
      }
    }, 300);
    return () => {
      stopped = true;
      stopBars();
      stopQuote();
      clearInterval(watch);
      cancelAnimationFrame(frame.current);
      frame.current = 0;
      chart.current?.destroy();
      chart.current = null;
    };
  }, [model, instrument.id, interval, draw]);

  useEffect(() => {
    const average =
      position && position.quantity !== '0' && position.averagePrice !== null ? Number(position.averagePrice) * 10 ** instrument.priceDecimals : null;
    model.lines = [...linesOf(own, instrument), ...(average === null ? [] : [{ price: average, kind: 'position' as const, pending: false }])];
    model.view.stripPx = ordersOn ? STRIP_PX : 0;
    draw();
  }, [model, own, position, instrument, ordersOn, theme, draw]);

  const setPlace = useCallback((place: () => void) => {
    marks.current = place;
  }, []);
  const loading = useRef(false);
  const loadOlder = useCallback(async () => {
    const first = model.series.time[0];
    if (loading.current || first === undefined || model.series.length === 0 || model.view.range(model.series).first > 40) return;
    loading.current = true;
    const older = await call<{ items: ApiBar[] }>(
      'GET',
      `/api/bars/${instrument.id}?interval=${interval}&limit=${OLDER_BARS}&to=${new Date(first).toISOString()}`,
    );
    if (older.ok && older.value.items.length > 0) {
      model.series.prepend(older.value.items);
      loading.current = false;
      draw();
    }
  }, [model, instrument.id, interval, draw]);

  // React's wheel listener is passive; this one keeps the page from zooming with the chart.
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const onWheel = (event: WheelEvent): void => {
      event.preventDefault();
      model.view.zoom(model.series, event.deltaY < 0 ? 1.12 : 1 / 1.12, event.clientX - element.getBoundingClientRect().left);
      movedAt.current = performance.now();
      void loadOlder();
      draw();
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [model, draw, loadOlder]);

  const dragging = useRef<number | null>(null);
  const pan = (pixels: number): void => {
    model.view.pan(model.series, pixels);
    movedAt.current = performance.now();
    void loadOlder();
    draw();
  };
  const onKeyDown = (event: React.KeyboardEvent): void => {
    const middle = model.view.plotWidth / 2;
    if (event.key === 'ArrowLeft') pan(60);
    else if (event.key === 'ArrowRight') pan(-60);
    else if (event.key === '+') model.view.zoom(model.series, 1.25, middle);
    else if (event.key === '-') model.view.zoom(model.series, 0.8, middle);
    else if (event.key === 'End') model.view.toNewest();
    else if (event.key === 'Home') {
      model.view.barPx = 7;
      model.view.toNewest();
    } else return;
    event.preventDefault();
    movedAt.current = performance.now();
    draw();
  };

  return (
    <div
      ref={box}
      className="relative min-h-0 flex-1 touch-none overflow-hidden outline-none"
      tabIndex={0}
      role="group"
      aria-label={`Chart of ${instrument.id}, ${interval}`}
      onKeyDown={onKeyDown}
      onPointerDown={(event) => {
        if (event.button !== 0 || event.target !== canvas.current) return;
        dragging.current = event.clientX;
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (dragging.current === null) return;
        pan(event.clientX - dragging.current);
        dragging.current = event.clientX;
      }}
      onPointerUp={() => (dragging.current = null)}
      onDoubleClick={() => {
        model.view.toNewest();
        draw();
      }}
      data-testid="chart"
    >
      <div className="absolute inset-0">
        <canvas ref={canvas} aria-hidden="true" />
      </div>
      {state === 'loading' && <div className="skeleton absolute inset-0" role="status" aria-label="Loading bars" />}
      {state === 'empty' && <p className="absolute p-2 quiet">No trades yet in {instrument.id}.</p>}
      {ordersOn && <OrderStrip id={id} target={target} instrument={instrument} model={model} movedAt={movedAt} redraw={draw} />}
      <OrderMarks
        id={id}
        orders={own}
        position={position}
        instrument={instrument}
        model={model}
        draggable={ordersOn}
        stripPx={ordersOn ? STRIP_PX : 0}
        onPlace={setPlace}
        redraw={draw}
      />
    </div>
  );
}
