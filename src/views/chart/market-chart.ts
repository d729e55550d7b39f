import { Chart, DatasetController, PointElement, type ChartConfiguration } from 'chart.js';
import { addTicks, formatPrice, tickAt, type Instrument } from '../../core/instrument/index.ts';
import { colour } from '../theme/theme.ts';
import type { BarSeries } from './series.ts';
import { AXIS_PX, Viewport } from './viewport.ts';

/** A line that belongs to an order or a position. */
export interface ChartLine {
  readonly price: number;
  readonly kind: 'limit' | 'stop' | 'position';
  readonly pending: boolean;
}

export interface ChartModel {
  readonly instrument: Instrument;
  readonly series: BarSeries;
  readonly view: Viewport;
  lines: readonly ChartLine[];
  /** Formats a bar's time for the axis: short within a day, with its date where a day begins. */
  label: (time: number, before: number | null) => { text: string; strong: boolean };
  live: boolean;
  /** Called after each drawing, for what lies over the canvas. */
  onDrawn: () => void;
}

const models = new WeakMap<Chart, ChartModel>();

/** Draws bars from typed arrays, only those in view. Chart.js keeps the canvas; the scales are the viewport's. */
class BarsController extends DatasetController {
  static id = 'kavixBars';
  // Chart.js wants a registered element type, though none is ever made.
  static defaults = { dataElementType: 'point', datasetElementType: false };
  static overrides = {};
  override linkScales(): void {}
  override parse(): void {}
  override buildOrUpdateElements(): void {}
  override update(): void {}
  override draw(): void {
    const model = models.get(this.chart);
    if (model) drawMarket(this.chart.ctx, model);
  }
}
Chart.register(BarsController, PointElement);

/** Makes the chart of a canvas; `draw` it again after changing the model. */
export function makeChart(canvas: HTMLCanvasElement, model: ChartModel): Chart {
  const config = {
    type: 'kavixBars',
    data: { datasets: [{ data: [] }] },
    options: {
      animation: false,
      responsive: true,
      maintainAspectRatio: false,
      events: [],
      plugins: { legend: { display: false }, tooltip: { enabled: false } },
      layout: { padding: 0 },
    },
  } as unknown as ChartConfiguration;
  const chart = new Chart(canvas, config);
  models.set(chart, model);
  return chart;
}

export function drawMarket(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { view, series } = model;
  const ratio = ctx.getTransform().a;
  view.width = ctx.canvas.width / ratio;
  view.height = ctx.canvas.height / ratio;
  view.fit(
    series,
    model.lines.map((line) => line.price),
  );
  ctx.save();
  ctx.fillStyle = colour('well');
  ctx.fillRect(0, 0, view.width - AXIS_PX, view.plotHeight);
  ctx.font = "12px 'Recursive Variable'";
  if (series.length > 0) {
    const rows = priceTicks(model);
    const columns = timeTicks(model);
    if (model.live) drawSoundings(ctx, model, rows, columns);
    ctx.beginPath();
    ctx.rect(0, 0, view.plotWidth, view.plotHeight);
    ctx.save();
    ctx.clip();
    drawVolume(ctx, model);
    drawBars(ctx, model);
    drawLines(ctx, model);
    ctx.restore();
    drawAxes(ctx, model, rows, columns);
  }
  ctx.restore();
  model.onDrawn();
}

const STEPS = [1, 2, 5];

/** Round prices for the axis, about 26 px apart at least. */
export function priceTicks({ view, instrument }: ChartModel): number[] {
  const least = ((view.top - view.bottom) * 26) / view.plotHeight;
  const tick = tickAt(instrument, Math.max(1, Math.floor(view.bottom)));
  let step = tick;
  for (let power = 1; step < least; power *= 10) for (const part of STEPS) if (tick * part * power >= least && step < least) step = tick * part * power;
  const found: number[] = [];
  for (let price = Math.ceil(view.bottom / step) * step; price < view.top; price += step) found.push(price);
  return found;
}

function timeTicks({ view, series, label }: ChartModel): { x: number; text: string; strong: boolean }[] {
  const { first, last } = view.range(series);
  const every = Math.max(1, Math.ceil(64 / view.barPx));
  const found: { x: number; text: string; strong: boolean }[] = [];
  let lastX = -Infinity;
  for (let i = first; i <= last; i++) {
    const { text, strong } = label(series.time[i] ?? 0, i === 0 ? null : (series.time[i - 1] ?? null));
    if (!strong && i % every !== 0) continue;
    const x = view.x(series, i);
    if (x < 18 || x > view.plotWidth - 4) continue;
    if (x - lastX < 58) {
      if (!strong) continue;
      found.pop();
    }
    found.push({ x, text, strong });
    lastX = x;
  }
  return found;
}

/** A dot at each crossing of a round price and a labelled time. */
function drawSoundings(ctx: CanvasRenderingContext2D, { view }: ChartModel, rows: readonly number[], columns: readonly { x: number }[]): void {
  ctx.fillStyle = colour('line');
  ctx.globalAlpha = 0.55;
  for (const price of rows) {
    const y = Math.round(view.y(price));
    for (const { x } of columns) if (x < view.plotWidth) ctx.fillRect(Math.round(x), y, 1.3, 1.3);
  }
  ctx.globalAlpha = 1;
}

function drawVolume(ctx: CanvasRenderingContext2D, { view, series }: ChartModel): void {
  const { first, last } = view.range(series);
  let most = 1;
  for (let i = first; i <= last; i++) most = Math.max(most, series.volume[i] ?? 0);
  ctx.globalAlpha = 0.75;
  for (const up of [true, false]) {
    ctx.strokeStyle = colour(up ? 'teal' : 'copper');
    ctx.lineWidth = 1;
    ctx.beginPath();
    for (let i = first; i <= last; i++) {
      if ((series.close[i] ?? 0) >= (series.open[i] ?? 0) !== up) continue;
      const x = Math.round(view.x(series, i)) + 0.5;
      ctx.moveTo(x, view.plotHeight);
      ctx.lineTo(x, view.plotHeight - ((series.volume[i] ?? 0) / most) * view.volumeHeight);
    }
    ctx.stroke();
  }
  ctx.globalAlpha = 1;
}

/** Up bars hollow with a teal line, down bars filled copper, wicks one pixel. */
function drawBars(ctx: CanvasRenderingContext2D, { view, series }: ChartModel): void {
  const { first, last } = view.range(series);
  const body = Math.max(1, Math.floor(view.barPx * 0.66));
  const thin = view.barPx < 3;
  for (const up of [true, false]) {
    const ink = colour(up ? 'teal' : 'copper');
    ctx.strokeStyle = ink;
    ctx.fillStyle = ink;
    ctx.lineWidth = 1;
    ctx.beginPath();
    for (let i = first; i <= last; i++) {
      const open = series.open[i] ?? 0;
      const close = series.close[i] ?? 0;
      if (close >= open !== up) continue;
      const x = Math.round(view.x(series, i)) + 0.5;
      const top = view.y(Math.max(open, close));
      const bottom = view.y(Math.min(open, close));
      ctx.moveTo(x, view.y(series.high[i] ?? 0));
      ctx.lineTo(x, thin ? view.y(series.low[i] ?? 0) : top);
      if (thin) continue;
      ctx.moveTo(x, bottom);
      ctx.lineTo(x, view.y(series.low[i] ?? 0));
    }
    ctx.stroke();
    if (thin) continue;
    ctx.lineWidth = up ? 1.3 : 1;
    ctx.beginPath();
    for (let i = first; i <= last; i++) {
      const open = series.open[i] ?? 0;
      const close = series.close[i] ?? 0;
      if (close >= open !== up) continue;
      const x = Math.round(view.x(series, i)) + 0.5 - body / 2;
      const top = view.y(Math.max(open, close));
      const height = Math.max(1, view.y(Math.min(open, close)) - top);
      ctx.rect(x, top, body, height);
    }
    if (up) ctx.stroke();
    else ctx.fill();
  }
}

function drawLines(ctx: CanvasRenderingContext2D, { view, lines }: ChartModel): void {
  for (const line of lines) {
    const y = Math.round(view.y(line.price)) + 0.5;
    ctx.beginPath();
    ctx.lineWidth = 1;
    if (line.kind === 'position') {
      ctx.strokeStyle = colour('ink');
      ctx.moveTo(0, y - 1.5);
      ctx.lineTo(view.plotWidth, y - 1.5);
      ctx.moveTo(0, y + 1.5);
      ctx.lineTo(view.plotWidth, y + 1.5);
      ctx.globalAlpha = 0.6;
    } else {
      ctx.strokeStyle = colour('brass-line');
      ctx.setLineDash(line.kind === 'stop' ? [6, 4] : line.pending ? [2, 3] : []);
      ctx.moveTo(0, y);
      ctx.lineTo(view.plotWidth, y);
    }
    ctx.stroke();
    ctx.setLineDash([]);
    ctx.globalAlpha = 1;
  }
}

function drawAxes(
  ctx: CanvasRenderingContext2D,
  model: ChartModel,
  rows: readonly number[],
  columns: readonly { x: number; text: string; strong: boolean }[],
): void {
  const { view, series, instrument } = model;
  ctx.fillStyle = colour('quiet');
  ctx.textBaseline = 'middle';
  ctx.textAlign = 'right';
  for (const price of rows) ctx.fillText(formatPrice(instrument, price), view.width - 8, view.y(price));
  ctx.textAlign = 'center';
  for (const { x, text, strong } of columns) {
    ctx.fillStyle = colour(strong ? 'ink' : 'quiet');
    ctx.fillText(text, x, view.plotHeight + 11);
  }
  const last = series.close[series.length - 1] ?? 0;
  const y = Math.round(view.y(last));
  if (y < 0 || y > view.plotHeight) return;
  const text = formatPrice(instrument, last);
  ctx.fillStyle = colour('raised');
  ctx.strokeStyle = colour('ink');
  ctx.lineWidth = 1;
  ctx.beginPath();
  ctx.roundRect(view.width - AXIS_PX + 3.5, y - 8.5, AXIS_PX - 7, 17, 2);
  ctx.fill();
  ctx.stroke();
  ctx.fillStyle = colour('ink');
  ctx.textAlign = 'right';
  ctx.fillText(model.live ? text : `[${text}]`, view.width - 8, y);
}

/** The grid price nearest to a height in the plot. */
export function snap(model: ChartModel, y: number): number {
  const price = Math.max(1, Math.round(model.view.priceAt(y)));
  const tick = tickAt(model.instrument, price);
  const down = Math.floor(price / tick) * tick;
  const up = addTicks(model.instrument, Math.max(down, tick), 1);
  return Math.max(tick, price - down <= up - price ? down : up);
}
