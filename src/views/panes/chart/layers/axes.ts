import { asPrice, formatPrice, tickAt } from '../../../../core/instrument/index.ts';
import { colour } from '../../../theme/theme.ts';
import { percentBase, type ChartModel } from '../model.ts';
import { stampText } from '../stamp.ts';
import { AXIS_PX } from '../viewport.ts';
import type { Layer, Ticks } from './layer.ts';

const STEPS = [1, 2, 5];
/** How many pixels pull an axis to 2.7 times its length. */
const STRETCH_PX = 160;

export const ticksOf = (model: ChartModel): Ticks => ({ prices: priceTicks(model), times: timeTicks(model) });

/** Round prices for the axis, about 26 px apart at least. */
function priceTicks(model: ChartModel): number[] {
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

/** A price as the axis writes it: the instrument's own text, or percent from the first bar in view. */
export function axisText(model: ChartModel, price: number): string {
  if (!model.look.percent) return formatPrice(model.instrument, asPrice(Math.round(price)));
  const percent = (price / percentBase(model) - 1) * 100;
  return `${percent < 0 ? '−' : percent > 0 ? '+' : ''}${Math.abs(percent).toFixed(2)} %`;
}

/** A price in its box on the axis. */
export function drawPriceBox(ctx: CanvasRenderingContext2D, model: ChartModel, at: number, text: string, ground: 'raised' | 'lamp'): void {
  const { width, plotHeight } = model.view;
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

/** Closer to the box of the last price a label of the scale would be cut. */
const LABEL_PX = 15;

/** Labels of both axes with the last price; each is pulled to stretch it, double-clicked to let it fit again. */
export const axes: Layer = {
  within: 'canvas',
  draw(ctx, model, { prices, times }) {
    const { view, series } = model;
    ctx.fillStyle = colour('quiet');
    ctx.textBaseline = 'middle';
    ctx.textAlign = 'right';
    const last = series.close[series.length - 1] ?? 0;
    const boxed = view.y(last);
    for (const price of prices) {
      const y = view.y(price);
      // The last price in its box would hide half of it.
      if (Math.abs(y - boxed) < LABEL_PX && boxed >= 0 && boxed <= view.plotHeight) continue;
      if (y > 6 && y < view.plotHeight - 4) stampText(ctx, axisText(model, price), view.width - 8, y);
    }
    ctx.textAlign = 'center';
    for (const { x, text, strong } of times) {
      ctx.fillStyle = colour(strong ? 'ink' : 'quiet');
      stampText(ctx, text, x, view.timeTop + 11);
    }
    const text = axisText(model, last);
    drawPriceBox(ctx, model, boxed, model.live ? text : `[${text}]`, 'raised');
  },
  hit({ model: { view, series }, moved }, { x, y }) {
    if (x > view.width - AXIS_PX)
      return {
        move: (_, by) => {
          view.stretch(Math.exp(by.y / STRETCH_PX));
          moved();
        },
      };
    if (y <= view.timeTop) return null;
    return {
      move: (_, by) => {
        view.zoom(series, Math.exp(by.x / STRETCH_PX), view.plotWidth);
        moved();
      },
    };
  },
  double({ model: { view }, moved }, { x, y }) {
    if (x > view.width - AXIS_PX) view.manual = false;
    else if (y > view.timeTop) view.fitTime();
    else return false;
    moved();
    return true;
  },
};
