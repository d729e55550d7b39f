import { useStore } from '@nanostores/react';
import type { Chart } from 'chart.js';
import { useCallback, useEffect, useImperativeHandle, useMemo, useRef, useState, type Ref } from 'react';
import { hereLegs, type HereLeg } from '../../../client/exit-plans.ts';
import { quotesFresh } from '../../../client/lamps.ts';
import { $sizes, sizeOf } from '../../../client/session.ts';
import type { Instrument } from '../../../core/instrument/index.ts';
import { STUDIES, StudySeries } from '../../../core/study/index.ts';
import {
  $news,
  $plans,
  $positions,
  $working,
  NO_ORDERS,
  followHeadlines,
  followQuote,
  instrumentOf,
  positionKey,
  priceOf,
  type ApiOrder,
} from '../../../live/index.ts';
import { paintNoMore, paintSoon } from '../../../kit/pace.ts';
import { $theme } from '../../theme/theme.ts';
import { useSettings, type Values } from '../../workspace/settings.ts';
import { CHART } from './settings.ts';
import { $panes, settingOf, type Target } from '../../workspace/panes.ts';
import { followCrosshair, shareCrosshair } from './crosshair.ts';
import { DataLine } from './DataLine.tsx';
import { $drawings, changeDrawings, loadDrawings } from './drawing-store.ts';
import { DrawingBar } from './DrawMenu.tsx';
import { isShown, type DrawingKind } from './drawings.ts';
import { BarFeed, intervalMs, loadCompared, loadLevels } from './feed.ts';
import { timeLabels } from './labels.ts';
import { makeChart, setChartSize } from './market-chart.ts';
import { indexOfTime, newModel, type ChartLine, type ChartLook, type ChartModel, type StudyUse } from './model.ts';
import { AlertMarks } from './AlertMarks.tsx';
import { OrderMarks } from './OrderMarks.tsx';
import { OrderStrip, STRIP_PX } from './OrderStrip.tsx';
import { usePlotPointer } from './plot-pointer.ts';
import { usePaneCommands } from '../../act/keys.ts';

const LEVELS_AGAIN_MS = 60_000;
const WATCH_MS = 300;
const DAY_MS = 86_400_000;
const SESSION_VWAP: StudyUse = { id: 'session-vwap', study: 'vwap', parameters: { deviations: 0 }, colour: 'sea pink', width: 1.3, stroke: 'solid' };

/** What the pane's own menus reach of a plot. */
export interface PlotHandle {
  readonly model: ChartModel;
  readonly canvas: HTMLCanvasElement | null;
}

function linesOf(orders: readonly ApiOrder[], instrument: Instrument): ChartLine[] {
  return orders.flatMap((order) => {
    const stop = order.stopPrice !== null && order.triggeredAt === null;
    const price = priceOf(instrument, stop ? order.stopPrice : order.limitPrice);
    return price === null ? [] : [{ price, kind: stop ? ('stop' as const) : ('limit' as const), pending: order.state.startsWith('pending') }];
  });
}

const linesOfHere = (legs: readonly HereLeg[], instrument: Instrument): ChartLine[] =>
  legs.flatMap(({ price: text, name }) => {
    const price = priceOf(instrument, text);
    return price === null ? [] : [{ price, kind: name === 'stop' ? ('stop' as const) : ('limit' as const), pending: false }];
  });

const lookOf = ({ style, filled, scale, volume, soundings }: Values<typeof CHART>, compares: boolean): ChartLook => ({
  style,
  filled,
  percent: compares || scale === 'percent',
  volume,
  soundings,
});

interface Props {
  readonly ref: Ref<PlotHandle>;
  readonly id: string;
  readonly target: Target;
  readonly instrument: Instrument;
  readonly interval: string;
  readonly ordersOn: boolean;
  readonly tool: DrawingKind | null;
  readonly onTool: (tool: DrawingKind | null) => void;
}

export function MarketPlot({ ref, id, target, instrument, interval, ordersOn, tool, onTool }: Props) {
  const pane = useStore($panes)[id];
  const set = useSettings(pane, CHART);
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<Chart | null>(null);
  const feed = useRef<BarFeed | null>(null);
  const drawn = useRef({ marks: () => undefined as void, alerts: () => undefined as void, data: () => undefined as void });
  const [state, setState] = useState<'loading' | 'empty' | 'shown'>('loading');
  const theme = useStore($theme);
  const daily = intervalMs(interval) >= DAY_MS;

  const model = useMemo<ChartModel>(() => {
    const made = newModel(instrument, intervalMs(interval), timeLabels(instrument.venue, intervalMs(interval) >= DAY_MS));
    made.onDrawn = () => {
      drawn.current.marks();
      drawn.current.alerts();
      drawn.current.data();
    };
    return made;
  }, [instrument, interval]);
  useImperativeHandle(ref, () => ({ model, canvas: canvas.current }), [model]);
  const movedAt = useRef(performance.now());
  const frame = useRef(0);
  const draw = useCallback(() => {
    if (frame.current !== 0) return;
    frame.current = requestAnimationFrame(() => {
      frame.current = 0;
      chart.current?.draw();
    });
  }, []);
  /** What the market changes is drawn with all other panes; what the trader does, at once. */
  const drawLive = useCallback(() => paintSoon(chart, () => chart.current?.draw()), []);
  const [loads, setLoads] = useState(0);

  // Bars, first and live.
  const hours = set.hours;
  useEffect(() => {
    const compute = (from: number): void => {
      for (const { values } of model.studies) values.update(model.series, from);
    };
    const bars = new BarFeed(model, interval, hours, {
      loaded: () => {
        compute(0);
        setLoads((n) => n + 1);
        draw();
      },
      live: (from) => {
        compute(from);
        setState('shown');
        drawLive();
      },
    });
    feed.current = bars;
    let stopped = false;
    const begin = async (): Promise<void> => {
      await document.fonts.ready;
      if (stopped || !canvas.current) return;
      chart.current = makeChart(canvas.current, model);
      const any = await bars.start();
      if (stopped) return;
      setState((now) => (any || now === 'shown' ? 'shown' : 'empty'));
      movedAt.current = performance.now();
      draw();
    };
    void begin();
    const stopQuote = followQuote(instrument.id, () => undefined);
    const watch = setInterval(() => {
      const live = quotesFresh();
      if (live === model.live) return;
      model.live = live;
      draw();
    }, WATCH_MS);
    return () => {
      stopped = true;
      bars.stop();
      stopQuote();
      clearInterval(watch);
      paintNoMore(chart);
      cancelAnimationFrame(frame.current);
      frame.current = 0;
      chart.current?.destroy();
      chart.current = null;
    };
  }, [model, instrument.id, interval, hours, draw, drawLive]);

  // Orders and position.
  const key = positionKey(target.account, instrument.id);
  const own = useStore($working, { keys: [key] })[key] ?? NO_ORDERS;
  const position = useStore($positions)[positionKey(target.account, instrument.id)];
  const plans = useStore($plans);
  const here = useMemo(() => hereLegs(Object.values(plans), target.account, instrument.id), [plans, target.account, instrument.id]);
  useEffect(() => {
    const average =
      position && position.quantity !== '0' && position.averagePrice !== null ? Number(position.averagePrice) * 10 ** instrument.priceDecimals : null;
    model.lines = [
      ...linesOf(own, instrument),
      ...linesOfHere(here, instrument),
      ...(average === null ? [] : [{ price: average, kind: 'position' as const, pending: false }]),
    ];
    model.view.stripPx = ordersOn ? STRIP_PX : 0;
    draw();
  }, [model, own, here, position, instrument, ordersOn, theme, draw]);

  // How it looks.
  const compare = settingOf(pane, 'compare', '');
  const compares = compare !== '' && compare !== instrument.id && instrumentOf(compare) !== undefined;
  useEffect(() => {
    model.look = lookOf(set, compares);
    model.view.logarithmic = set.scale === 'log';
    draw();
  }, [model, set, compares, draw]);

  // Studies: those that stay keep what they have computed.
  const uses = settingOf<readonly StudyUse[]>(pane, 'studies', NO_STUDIES);
  const sessionVwap = set.vwap && !daily;
  useEffect(() => {
    const wanted = sessionVwap ? [...uses, SESSION_VWAP] : uses;
    model.studies = wanted.flatMap((use) => {
      const definition = STUDIES.get(use.study);
      if (!definition) return [];
      const before = model.studies.find(({ use: other }) => other.id === use.id && other.study === use.study);
      const same = before && JSON.stringify(before.use.parameters) === JSON.stringify(use.parameters);
      const values = same ? before.values : new StudySeries(definition, use.parameters);
      if (!same) values.update(model.series, 0);
      return [{ use, values }];
    });
    draw();
  }, [model, uses, sessionVwap, draw]);

  // A second instrument in percent.
  useEffect(() => {
    if (!compares) {
      model.compared = null;
      draw();
      return undefined;
    }
    let gone = false;
    const load = (): void =>
      void loadCompared(model, compare, interval).then((found) => {
        if (gone) return;
        model.compared = found;
        draw();
      });
    load();
    const timer = setInterval(load, LEVELS_AGAIN_MS / 4);
    return () => {
      gone = true;
      clearInterval(timer);
    };
  }, [model, compares, compare, interval, loads, draw]);

  // The day's levels.
  const previousDay = set.previousDay && !daily;
  const openingRange = set.openingRange && !daily;
  const openingMinutes = set.openingMinutes;
  useEffect(() => {
    let gone = false;
    const load = (): void =>
      void loadLevels(model, { previousDay, openingRange, openingMinutes }).then((levels) => {
        if (gone) return;
        model.levels = levels;
        draw();
      });
    load();
    const timer = setInterval(load, LEVELS_AGAIN_MS);
    return () => {
      gone = true;
      clearInterval(timer);
    };
  }, [model, previousDay, openingRange, openingMinutes, loads, draw]);

  // Headlines of the company, whichever listing.
  const news = useStore($news);
  const marksHeadlines = set.headlines;
  useEffect(() => (marksHeadlines ? followHeadlines() : undefined), [marksHeadlines]);
  useEffect(() => {
    model.headlines = marksHeadlines
      ? news
          .filter((one) => one.instrument !== null && instrumentOf(one.instrument)?.ticker === instrument.ticker)
          .map(({ time, text }) => ({ time: Date.parse(time), text }))
      : [];
    draw();
  }, [model, news, marksHeadlines, instrument.ticker, draw]);

  // Drawings.
  const drawings = useStore($drawings)[instrument.id];
  const [selected, setSelected] = useState<string | null>(null);
  useEffect(() => void loadDrawings(instrument.id), [instrument.id]);
  useEffect(() => {
    model.drawings = (drawings ?? []).filter((one) => isShown(one, interval));
    model.selected = selected;
    draw();
  }, [model, drawings, interval, selected, draw]);
  useStore($sizes);
  const size = Number(sizeOf(target.account, instrument.id));
  useEffect(() => {
    setChartSize(model, size);
    draw();
  }, [model, size, draw]);

  // The crosshair, shared by letter.
  const letter = pane?.letter ?? pane?.intervalLetter ?? null;
  const shares = set.crosshair ? letter : null;
  useEffect(() => {
    if (shares === null) return undefined;
    return followCrosshair((shared) => {
      if (shared.letter !== shares || shared.from === id) return;
      model.crosshair = shared.time === null ? null : { index: Math.round(indexOfTime(model, shared.time)), y: null };
      draw();
    });
  }, [model, shares, id, draw]);
  const onCrosshair = useCallback((time: number | null) => shares !== null && shareCrosshair({ from: id, letter: shares, time }), [shares, id]);

  const moved = useCallback(() => {
    movedAt.current = performance.now();
    void feed.current?.loadOlder();
    draw();
  }, [draw]);
  const pointer = usePlotPointer({ model, canvas, box, instrument: instrument.id, tool, onTool, onSelect: setSelected, onCrosshair, moved, draw });

  const { view, series } = model;
  const looked = (look: () => void) => (): void => {
    look();
    moved();
  };
  const ringed = drawings?.find((one) => one.id === selected);
  usePaneCommands(id, [
    { keys: ['ArrowLeft'], words: 'older bars', repeats: true, run: looked(() => view.pan(series, 60)) },
    { keys: ['ArrowRight'], words: 'newer bars', repeats: true, run: looked(() => view.pan(series, -60)) },
    { keys: ['+'], words: 'closer', repeats: true, run: looked(() => view.zoom(series, 1.25, view.plotWidth / 2)) },
    { keys: ['-'], words: 'further away', repeats: true, run: looked(() => view.zoom(series, 0.8, view.plotWidth / 2)) },
    { keys: ['End'], words: 'the newest bar', run: looked(() => view.toNewest()) },
    {
      keys: ['Home'],
      words: 'fit the chart',
      run: looked(() => {
        view.fitTime();
        view.manual = false;
      }),
    },
    {
      keys: ['Escape'],
      words: 'put the drawing tool away, ring nothing',
      run: looked(() => {
        onTool(null);
        setSelected(null);
        pointer.cancel();
      }),
    },
    {
      keys: ['Delete'],
      words: 'take the ringed drawing away',
      cannot: () => (ringed === undefined ? 'nothing is ringed: press a drawing first' : ringed.locked ? 'it is locked' : null),
      run: () => {
        changeDrawings(instrument.id, (drawings ?? []).filter((one) => one !== ringed), `the ${ringed?.kind ?? ''}`); // prettier-ignore
        setSelected(null);
        moved();
      },
    },
  ]);

  const setPlace = useCallback((place: () => void) => {
    drawn.current.marks = place;
  }, []);
  const setAlerts = useCallback((place: () => void) => {
    drawn.current.alerts = place;
  }, []);
  const setData = useCallback((write: () => void) => {
    drawn.current.data = write;
  }, []);
  const chosen = drawings?.find((one) => one.id === selected);
  return (
    <div
      ref={box}
      className={`relative min-h-0 flex-1 touch-none overflow-hidden outline-none ${tool ? 'cursor-crosshair' : ''}`}
      tabIndex={0}
      role="group"
      aria-label={`Chart of ${instrument.id}, ${interval}`}
      {...pointer.handlers}
      data-testid="chart"
    >
      <div className="absolute inset-0">
        <canvas ref={canvas} aria-hidden="true" />
      </div>
      <DataLine model={model} onWrite={setData} redraw={draw} />
      {state === 'loading' && <div className="skeleton absolute inset-0" role="status" aria-label="Loading bars" />}
      {state === 'empty' && <p className="absolute p-2 text-quiet">No trades yet in {instrument.id}.</p>}
      {ordersOn && <OrderStrip id={id} target={target} instrument={instrument} model={model} movedAt={movedAt} redraw={draw} />}
      <AlertMarks id={id} instrument={instrument} model={model} stripPx={ordersOn ? STRIP_PX : 0} onPlace={setAlerts} redraw={draw} />
      <OrderMarks
        id={id}
        orders={own}
        position={position}
        here={here}
        instrument={instrument}
        model={model}
        draggable={ordersOn}
        stripPx={ordersOn ? STRIP_PX : 0}
        onPlace={setPlace}
        redraw={draw}
      />
      {chosen && drawings && (
        <DrawingBar
          pane={id}
          account={target.account}
          drawing={chosen}
          all={drawings}
          instrument={instrument}
          interval={interval}
          onGone={() => setSelected(null)}
        />
      )}
    </div>
  );
}

const NO_STUDIES: readonly StudyUse[] = [];
