import { colour } from '../../../theme/theme.ts';
import type { ChartModel } from '../model.ts';
import type { Layer } from './layer.ts';

/** Below this width a bar is a single line. */
const THIN_PX = 3;

/** Volume at the foot of the plot. */
export const volume: Layer = {
  within: 'plot',
  draw(ctx, model) {
    if (model.look.volume) drawVolume(ctx, model);
  },
};

/** The bars; pulled, they move through time, and with a scale set by hand through prices. */
export const bars: Layer = {
  within: 'plot',
  draw: drawBars,
  hit: ({ model: { view, series }, moved }) => ({
    move: (_, by) => {
      view.pan(series, by.x);
      view.shift(by.y);
      moved();
    },
  }),
};

function drawBars(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  switch (model.look.style) {
    case 'candle':
    case 'hollow':
      drawCandles(ctx, model);
      break;
    case 'bar':
      drawOpenClose(ctx, model);
      break;
    case 'line':
    case 'area':
      drawCloses(ctx, model);
      break;
    default:
      model.look.style satisfies never;
  }
}

/** Whether a bar counts as risen: against its own open, or, where hollow says by close, against the close before. */
const rose = ({ series }: ChartModel, i: number): boolean => (series.close[i] ?? 0) >= (series.open[i] ?? 0);
const roseFromBefore = ({ series }: ChartModel, i: number): boolean => (series.close[i] ?? 0) >= (series.close[i - 1] ?? series.open[i] ?? 0);

/** Up bars weed and down bars copper, hollow or filled as chosen, wicks one pixel. */
function drawCandles(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { view, series, look } = model;
  const { first, last } = view.range(series);
  const body = Math.max(1, Math.floor(view.barPx * 0.66));
  const thin = view.barPx < THIN_PX;
  const hollow = look.style === 'hollow';
  for (const up of [true, false]) {
    const ink = colour(up ? 'weed' : 'copper');
    ctx.strokeStyle = ink;
    ctx.fillStyle = ink;
    ctx.lineWidth = 1;
    ctx.beginPath();
    for (let i = first; i <= last; i++) {
      if ((hollow ? roseFromBefore(model, i) : rose(model, i)) !== up) continue;
      const open = series.open[i] ?? 0;
      const close = series.close[i] ?? 0;
      const x = Math.round(view.x(series, i)) + 0.5;
      ctx.moveTo(x, view.y(series.high[i] ?? 0));
      ctx.lineTo(x, thin ? view.y(series.low[i] ?? 0) : view.y(Math.max(open, close)));
      if (thin) continue;
      ctx.moveTo(x, view.y(Math.min(open, close)));
      ctx.lineTo(x, view.y(series.low[i] ?? 0));
    }
    ctx.stroke();
    if (thin) continue;
    // Hollow by close: what fell from its own open is filled. Else a whole direction is.
    const fills = (i: number): boolean => (hollow ? !rose(model, i) : look.filled === 'both' || (look.filled === 'up') === up);
    for (const filled of [false, true]) {
      ctx.lineWidth = filled ? 1 : 1.3;
      ctx.beginPath();
      for (let i = first; i <= last; i++) {
        if ((hollow ? roseFromBefore(model, i) : rose(model, i)) !== up || (look.filled !== 'none' || hollow ? fills(i) : false) !== filled) continue;
        const open = series.open[i] ?? 0;
        const close = series.close[i] ?? 0;
        const x = Math.round(view.x(series, i)) + 0.5 - body / 2;
        const top = view.y(Math.max(open, close));
        ctx.rect(x, top, body, Math.max(1, view.y(Math.min(open, close)) - top));
      }
      if (filled) ctx.fill();
      else ctx.stroke();
    }
  }
}

/** A line from low to high, the open to its left and the close to its right. */
function drawOpenClose(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { view, series } = model;
  const { first, last } = view.range(series);
  const arm = Math.max(1, Math.floor(view.barPx * 0.36));
  for (const up of [true, false]) {
    ctx.strokeStyle = colour(up ? 'weed' : 'copper');
    ctx.lineWidth = view.barPx > 6 ? 1.5 : 1;
    ctx.beginPath();
    for (let i = first; i <= last; i++) {
      if (rose(model, i) !== up) continue;
      const x = Math.round(view.x(series, i)) + 0.5;
      ctx.moveTo(x, view.y(series.high[i] ?? 0));
      ctx.lineTo(x, view.y(series.low[i] ?? 0));
      if (view.barPx < THIN_PX) continue;
      const open = view.y(series.open[i] ?? 0);
      const close = view.y(series.close[i] ?? 0);
      ctx.moveTo(x - arm, open);
      ctx.lineTo(x, open);
      ctx.moveTo(x, close);
      ctx.lineTo(x + arm, close);
    }
    ctx.stroke();
  }
}

function drawCloses(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { view, series } = model;
  const { first, last } = view.range(series);
  ctx.beginPath();
  for (let i = first; i <= last; i++) ctx.lineTo(view.x(series, i), view.y(series.close[i] ?? 0));
  ctx.strokeStyle = colour('ink');
  ctx.lineWidth = 1.3;
  ctx.stroke();
  if (model.look.style !== 'area' || last < first) return;
  ctx.lineTo(view.x(series, last), view.plotHeight);
  ctx.lineTo(view.x(series, first), view.plotHeight);
  ctx.closePath();
  ctx.fillStyle = colour('ink');
  ctx.globalAlpha = 0.12;
  ctx.fill();
  ctx.globalAlpha = 1;
}

function drawVolume(ctx: CanvasRenderingContext2D, { view, series }: ChartModel): void {
  const { first, last } = view.range(series);
  let most = 1;
  for (let i = first; i <= last; i++) most = Math.max(most, series.volume[i] ?? 0);
  ctx.globalAlpha = 0.75;
  for (const up of [true, false]) {
    ctx.strokeStyle = colour(up ? 'weed' : 'copper');
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
