import { Chart, DatasetController, PointElement, type ChartConfiguration } from 'chart.js';
import { devicePixels } from '../../../kit/scale.ts';
import { colour } from '../../theme/theme.ts';
import { ticksOf } from './layers/axes.ts';
import { LAYERS } from './layers/index.ts';
import { ownHeight, ownStudies, studyReach } from './layers/studies.ts';
import { comparedScale, type ChartModel } from './model.ts';
import { CHART_FONT } from './stamp.ts';
import { AXIS_PX } from './viewport.ts';

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

function drawMarket(ctx: CanvasRenderingContext2D, model: ChartModel): void {
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
    const ticks = ticksOf(model);
    for (const layer of LAYERS) {
      ctx.save();
      if (layer.within === 'plot') {
        ctx.beginPath();
        ctx.rect(0, 0, view.plotWidth, view.plotHeight);
        ctx.clip();
      }
      layer.draw(ctx, model, ticks);
      ctx.restore();
    }
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
