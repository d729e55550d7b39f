import { Chart, DatasetController, PointElement, type ChartConfiguration } from 'chart.js';
import { devicePixels } from '../../../kit/scale.ts';
import { asPrice, formatPrice, tickAt } from '../../../core/instrument/index.ts';
import { colour, inkColour } from '../../theme/theme.ts';
import { drawBars, drawVolume } from './draw-bars.ts';
import { drawDrawings } from './draw-drawings.ts';
import { drawOwnPlots, drawPriceStudies, drawStudyNames, ownHeight, ownStudies, studyReach } from './draw-studies.ts';
import { comparedScale, indexOfTime, percentBase, type ChartModel } from './model.ts';
import { CHART_FONT, stampText } from './stamp.ts';
import { AXIS_PX } from './viewport.ts';

const models = new WeakMap<Chart, ChartModel>();
/** The size in force, for what a measure is worth. */
const sizes = new WeakMap<ChartModel, number>();
export const setChartSize = (model: ChartModel, size: number): void => void sizes.set(model, size);

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
      // Watching the whole document for this canvas's coming and going costs with every cell that changes elsewhere.
      responsive: false,
      maintainAspectRatio: false,
      events: [],
      plugins: { legend: { display: false }, tooltip: { enabled: false } },
      layout: { padding: 0 },
    },
    plugins: [{ id: 'kavixSize', afterDestroy: () => sizer.disconnect() }],
  } as unknown as ChartConfiguration;
  const box = canvas.parentElement ?? canvas;
  const chart = new Chart(canvas, config);
  models.set(chart, model);
  const fit = (): void => {
    chart.options.devicePixelRatio = devicePixels();
    chart.resize(box.clientWidth, box.clientHeight);
  };
  const sizer = new ResizeObserver(fit);
  sizer.observe(box);
  fit();
  return chart;
}

function* pricesToShow(model: ChartModel): Generator<number> {
  for (const line of model.lines) yield line.price;
  yield* studyReach(model);
  const { compared, series, view } = model;
  const scaled = comparedScale(model);
  if (!compared || !scaled) return;
  const { first, last } = view.range(series);
  for (let i = first; i <= last; i++) {
    const close = compared.closes[i] ?? NaN;
    if (!Number.isNaN(close)) yield scaled(close);
  }
}

export function drawMarket(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { view, series, look } = model;
  const ratio = ctx.getTransform().a;
  view.width = ctx.canvas.width / ratio;
  view.height = ctx.canvas.height / ratio;
  view.ownPx = ownHeight(ownStudies(model).length, view.height);
  view.volumeShare = look.volume ? 0.17 : 0;
  view.fit(series, pricesToShow(model));
  setFont(ctx);
  ctx.save();
  ctx.fillStyle = colour('well');
  ctx.fillRect(0, 0, view.width - AXIS_PX, view.timeTop);
  if (series.length > 0) {
    const rows = priceTicks(model);
    const columns = timeTicks(model);
    if (model.live && look.soundings) drawSoundings(ctx, model, rows, columns);
    ctx.save();
    ctx.beginPath();
    ctx.rect(0, 0, view.plotWidth, view.plotHeight);
    ctx.clip();
    if (look.volume) drawVolume(ctx, model);
    drawBars(ctx, model);
    drawCompared(ctx, model);
    drawPriceStudies(ctx, model);
    drawLevels(ctx, model);
    drawDrawings(ctx, model, sizes.get(model) ?? 0);
    drawLines(ctx, model);
    drawHeadlines(ctx, model);
    drawStudyNames(ctx, model);
    ctx.restore();
    drawOwnPlots(ctx, model);
    drawAxes(ctx, model, rows, columns);
    drawCrosshair(ctx, model);
  }
  ctx.restore();
  model.onDrawn();
}

const fonts = new WeakMap<CanvasRenderingContext2D, string>();

/**
 * Sets the one font of all charts where it is not set already. A canvas looks its font up in the page's styles,
 * which lays the whole page out anew if a cell has changed meanwhile: not to be done in every frame.
 */
function setFont(ctx: CanvasRenderingContext2D): void {
  if (ctx.font === fonts.get(ctx)) return;
  ctx.font = CHART_FONT;
  fonts.set(ctx, ctx.font);
}

const STEPS = [1, 2, 5];

/** Round prices for the axis, about 26 px apart at least. */
export function priceTicks(model: ChartModel): number[] {
  if (model.look.percent) return percentTicks(model);
  const { view, instrument } = model;
  const least = ((view.top - view.bottom) * 26) / view.plotHeight;
  const tick = tickAt(instrument, asPrice(Math.max(1, Math.floor(view.bottom))));
  let step: number = tick;
  for (let power = 1; step < least; power *= 10) for (const part of STEPS) if (tick * part * power >= least && step < least) step = tick * part * power;
  const found: number[] = [];
  for (let price = Math.max(step, Math.ceil(view.bottom / step) * step); price < view.top; price += step) found.push(price);
  if (!view.logarithmic) return found;
  // Round prices stand closer towards the top of a logarithmic scale: those that would touch are left out.
  let lastY = Infinity;
  return found.filter((price) => {
    const y = view.y(price);
    if (lastY - y < 18) return false;
    lastY = y;
    return true;
  });
}

/** Prices at round percentages from the first bar in view. */
function percentTicks(model: ChartModel): number[] {
  const { view } = model;
  const base = percentBase(model);
  const least = (((view.top - view.bottom) / base) * 100 * 26) / view.plotHeight;
  let step = 0.01;
  for (let power = 0.01; step < least; power *= 10) for (const part of STEPS) if (power * part >= least && step < least) step = power * part;
  const from = Math.ceil(((view.bottom / base - 1) * 100) / step);
  const to = Math.floor(((view.top / base - 1) * 100) / step);
  return Array.from({ length: Math.max(0, to - from + 1) }, (_, i) => base * (1 + ((from + i) * step) / 100));
}

function timeTicks({ view, series, label }: ChartModel): { x: number; text: string; strong: boolean }[] {
  const { first, last } = view.range(series);
  const every = Math.max(1, Math.ceil(64 / view.barPx));
  const found: { x: number; text: string; strong: boolean }[] = [];
  let lastX = -Infinity;
  for (let i = first; i <= last; i++) {
    if (i % every !== 0 && (i === 0 || series.day[i] === series.day[i - 1])) continue;
    const { text, strong } = label(series.time[i] ?? 0, i === 0 ? null : (series.time[i - 1] ?? null));
    if (!strong && i % every !== 0) continue;
    const x = view.x(series, i);
    if (x < 18 || x > view.plotWidth - 4) continue;
    if (x - lastX < 58) {
      if (!strong || found[found.length - 1]?.strong) continue;
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

/** The compared instrument's closes, at the same percentage from the first bar in view. */
function drawCompared(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { compared, view, series } = model;
  const scaled = comparedScale(model);
  if (!compared || !scaled) return;
  const { first, last } = view.range(series);
  ctx.strokeStyle = ctx.fillStyle = inkColour('iris');
  ctx.lineWidth = 1.3;
  ctx.beginPath();
  let at: { x: number; y: number } | null = null;
  for (let i = first; i <= last; i++) {
    const close = compared.closes[i] ?? NaN;
    if (Number.isNaN(close)) continue;
    const spot = { x: view.x(series, i), y: view.y(scaled(close)) };
    if (at) ctx.lineTo(spot.x, spot.y);
    else ctx.moveTo(spot.x, spot.y);
    at = spot;
  }
  ctx.stroke();
  if (!at) return;
  ctx.textAlign = 'right';
  ctx.textBaseline = 'top';
  stampText(ctx, compared.instrument, view.plotWidth - 3, at.y + 3);
}

function drawLevels(ctx: CanvasRenderingContext2D, { view, levels }: ChartModel): void {
  ctx.strokeStyle = colour('line');
  ctx.fillStyle = colour('quiet');
  ctx.lineWidth = 1;
  ctx.textAlign = 'left';
  ctx.textBaseline = 'bottom';
  for (const { price, name } of levels) {
    const y = Math.round(view.y(price)) + 0.5;
    if (y < 0 || y > view.plotHeight) continue;
    ctx.setLineDash([8, 3, 2, 3]);
    ctx.beginPath();
    ctx.moveTo(0, y);
    ctx.lineTo(view.plotWidth, y);
    ctx.stroke();
    ctx.setLineDash([]);
    stampText(ctx, name, 4, y - 1);
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

/** A small flag at the foot of the bar in which a headline came. */
function drawHeadlines(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { view, series, headlines } = model;
  const { first, last } = view.range(series);
  ctx.fillStyle = ctx.strokeStyle = colour('ink');
  for (const { time } of headlines) {
    const index = indexOfTime(model, time);
    if (index < first || index > last || time < (series.time[0] ?? 0)) continue;
    const x = Math.round(view.x(series, index)) + 0.5;
    const y = view.plotHeight - 2;
    ctx.lineWidth = 1;
    ctx.beginPath();
    ctx.moveTo(x, y);
    ctx.lineTo(x, y - 12);
    ctx.stroke();
    ctx.beginPath();
    ctx.moveTo(x, y - 12);
    ctx.lineTo(x + 7, y - 9.5);
    ctx.lineTo(x, y - 7);
    ctx.fill();
  }
}

/** A price as the axis writes it: the instrument's own text, or percent from the first bar in view. */
function axisText(model: ChartModel, price: number): string {
  if (!model.look.percent) return formatPrice(model.instrument, asPrice(Math.round(price)));
  const percent = (price / percentBase(model) - 1) * 100;
  return `${percent < 0 ? '−' : percent > 0 ? '+' : ''}${Math.abs(percent).toFixed(2)} %`;
}

/** Closer to the box of the last price a label of the scale would be cut. */
const LABEL_PX = 15;

function drawAxes(
  ctx: CanvasRenderingContext2D,
  model: ChartModel,
  rows: readonly number[],
  columns: readonly { x: number; text: string; strong: boolean }[],
): void {
  const { view, series } = model;
  ctx.fillStyle = colour('quiet');
  ctx.textBaseline = 'middle';
  ctx.textAlign = 'right';
  const last = series.close[series.length - 1] ?? 0;
  const boxed = view.y(last);
  for (const price of rows) {
    const y = view.y(price);
    // The last price in its box would hide half of it.
    if (Math.abs(y - boxed) < LABEL_PX && boxed >= 0 && boxed <= view.plotHeight) continue;
    if (y > 6 && y < view.plotHeight - 4) stampText(ctx, axisText(model, price), view.width - 8, y);
  }
  ctx.textAlign = 'center';
  for (const { x, text, strong } of columns) {
    ctx.fillStyle = colour(strong ? 'ink' : 'quiet');
    stampText(ctx, text, x, view.timeTop + 11);
  }
  const text = axisText(model, last);
  drawTag(ctx, view.width, boxed, model.live ? text : `[${text}]`, view.plotHeight, 'raised');
}

/** A price in its box on the axis. */
function drawTag(ctx: CanvasRenderingContext2D, width: number, at: number, text: string, plotHeight: number, ground: 'raised' | 'lamp'): void {
  const y = Math.round(at);
  if (y < 0 || y > plotHeight) return;
  ctx.fillStyle = colour(ground);
  ctx.strokeStyle = colour('ink');
  ctx.lineWidth = 1;
  ctx.beginPath();
  ctx.roundRect(width - AXIS_PX + 3.5, y - 8.5, AXIS_PX - 7, 17, 2);
  ctx.fill();
  ctx.stroke();
  ctx.fillStyle = colour(ground === 'lamp' ? 'letters' : 'ink');
  ctx.textAlign = 'right';
  ctx.textBaseline = 'middle';
  stampText(ctx, text, width - 8, y);
}

function drawCrosshair(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { crosshair, view, series } = model;
  if (!crosshair) return;
  const x = Math.round(view.x(series, crosshair.index)) + 0.5;
  ctx.strokeStyle = colour('line');
  ctx.lineWidth = 1;
  ctx.setLineDash([3, 3]);
  ctx.beginPath();
  if (x >= 0 && x <= view.plotWidth) {
    ctx.moveTo(x, 0);
    ctx.lineTo(x, view.timeTop);
  }
  if (crosshair.y !== null && crosshair.y <= view.plotHeight) {
    ctx.moveTo(0, Math.round(crosshair.y) + 0.5);
    ctx.lineTo(view.plotWidth, Math.round(crosshair.y) + 0.5);
  }
  ctx.stroke();
  ctx.setLineDash([]);
  if (crosshair.y !== null && crosshair.y <= view.plotHeight)
    drawTag(ctx, view.width, crosshair.y, axisText(model, view.priceAt(crosshair.y)), view.plotHeight, 'lamp');
}
