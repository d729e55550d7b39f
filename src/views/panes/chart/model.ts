import { asPrice, type Price, addTicks, tickAt, type Instrument } from '../../../core/instrument/index.ts';
import type { StudySeries } from '../../../core/study/index.ts';
import type { Drawing } from './drawing.ts';
import { BarSeries } from './series.ts';
import { Viewport } from './viewport.ts';

/** A line that belongs to an order or a position. */
export interface ChartLine {
  readonly price: number;
  readonly kind: 'limit' | 'stop' | 'position';
  readonly pending: boolean;
}

/** A level with its name at the right end. */
export interface Level {
  readonly price: number;
  readonly name: string;
}

export type BarStyle = 'candle' | 'hollow' | 'bar' | 'line' | 'area';

/** How a chart is drawn; from the pane's settings. */
export interface ChartLook {
  readonly style: BarStyle;
  readonly filled: 'down' | 'up' | 'both' | 'none';
  readonly percent: boolean;
  readonly volume: boolean;
  readonly soundings: boolean;
}

/** A study as it is used on a chart: its parameters and how it is drawn. */
export interface StudyUse {
  readonly id: string;
  readonly study: string;
  readonly parameters: Readonly<Record<string, number>>;
  readonly colour: string;
  readonly width: number;
  readonly stroke: 'solid' | 'dashed' | 'dotted';
}

export interface ShownStudy {
  readonly use: StudyUse;
  readonly values: StudySeries;
}

/** Another instrument's closes beside these bars, NaN where it has none. */
export interface Compared {
  readonly instrument: string;
  readonly closes: Float64Array;
}

export interface ChartModel {
  readonly instrument: Instrument;
  readonly intervalMs: number;
  readonly series: BarSeries;
  readonly view: Viewport;
  look: ChartLook;
  lines: readonly ChartLine[];
  levels: readonly Level[];
  studies: readonly ShownStudy[];
  compared: Compared | null;
  headlines: readonly { readonly time: number; readonly text: string }[];
  drawings: readonly Drawing[];
  /** The drawing in hand: one that is being drawn, or one of the others while it is pulled. */
  draft: Drawing | null;
  /** The drawing with handles. */
  selected: string | null;
  /** Where the crosshair stands: a bar and, where the pointer is in this plot, a height. */
  crosshair: { readonly index: number; readonly y: number | null } | null;
  /** Formats a bar's time for the axis: short within a day, with its date where a day begins. */
  label: (time: number, before: number | null) => { text: string; strong: boolean };
  /** Whether its prices are as new as they should be. */
  live: boolean;
  /** The size in force, for what a measure is worth. */
  size: number;
  /** Called after each drawing, for what lies over the canvas. */
  onDrawn: () => void;
}

export const PLAIN_LOOK: ChartLook = { style: 'candle', filled: 'down', percent: false, volume: true, soundings: true };

/** An empty chart of an instrument. */
export const newModel = (instrument: Instrument, intervalMs: number, label: ChartModel['label']): ChartModel => ({
  instrument,
  intervalMs,
  series: new BarSeries(instrument),
  view: new Viewport(),
  look: PLAIN_LOOK,
  lines: [],
  levels: [],
  studies: [],
  compared: null,
  headlines: [],
  drawings: [],
  draft: null,
  selected: null,
  crosshair: null,
  label,
  live: true,
  size: 0,
  onDrawn: () => undefined,
});

/** The grid price nearest to a height in the plot. */
export function snap(model: ChartModel, y: number): Price {
  const price = asPrice(Math.max(1, Math.round(model.view.priceAt(y))));
  const tick = tickAt(model.instrument, price);
  const down = Math.floor(price / tick) * tick;
  const up = addTicks(model.instrument, asPrice(Math.max(down, tick)), 1);
  return asPrice(Math.max(tick, price - down <= up - price ? down : up));
}

/** Where a time stands on the index axis: within a bar its bar, beyond the bars as far as bars of that length would reach. */
export function indexOfTime({ series, intervalMs }: ChartModel, time: number): number {
  if (series.length === 0) return 0;
  const last = series.time[series.length - 1] as number;
  const first = series.time[0] as number;
  if (time >= last + intervalMs) return series.length - 1 + (time - last) / intervalMs;
  if (time < first) return (time - first) / intervalMs;
  return series.indexOf(time);
}

/** The time of a place on the index axis. */
export function timeOfIndex({ series, intervalMs }: ChartModel, index: number): number {
  if (series.length === 0) return 0;
  const at = Math.round(index);
  if (at >= series.length) return (series.time[series.length - 1] as number) + (at - series.length + 1) * intervalMs;
  if (at < 0) return (series.time[0] as number) + at * intervalMs;
  return series.time[at] as number;
}

/** The close of the first bar in view: what percentages count from. */
export const percentBase = ({ series, view }: ChartModel): number => series.close[view.range(series).first] ?? 1;

/** Prices of a compared instrument as this chart's scale shows them: the same percentage from the first bar in view. */
export function comparedScale(model: ChartModel): ((close: number) => number) | null {
  const { compared, series, view } = model;
  if (!compared) return null;
  const { first, last } = view.range(series);
  let from = first;
  while (from <= last && Number.isNaN(compared.closes[from] ?? NaN)) from++;
  const base = compared.closes[from] ?? NaN;
  const own = series.close[from] ?? NaN;
  return Number.isNaN(base) || base === 0 ? null : (close) => (own * close) / base;
}
