import { colour, inkColour } from '../../../theme/theme.ts';
import { comparedScale, indexOfTime } from '../model.ts';
import { stampText } from '../stamp.ts';
import type { Layer } from './layer.ts';

/** A dot at each crossing of a round price and a labelled time. */
export const soundings: Layer = {
  within: 'canvas',
  draw(ctx, { view, live, look }, { prices, times }) {
    if (!live || !look.soundings) return;
    ctx.fillStyle = colour('line');
    ctx.globalAlpha = 0.55;
    for (const price of prices) {
      const y = Math.round(view.y(price));
      for (const { x } of times) if (x < view.plotWidth) ctx.fillRect(Math.round(x), y, 1.3, 1.3);
    }
  },
};

/** The compared instrument's closes, at the same percentage from the first bar in view. */
export const compared: Layer = {
  within: 'plot',
  draw(ctx, model) {
    const { compared: other, view, series } = model;
    const scaled = comparedScale(model);
    if (!other || !scaled) return;
    const { first, last } = view.range(series);
    ctx.strokeStyle = ctx.fillStyle = inkColour('iris');
    ctx.lineWidth = 1.3;
    ctx.beginPath();
    let at: { x: number; y: number } | null = null;
    for (let i = first; i <= last; i++) {
      const close = other.closes[i] ?? NaN;
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
    stampText(ctx, other.instrument, view.plotWidth - 3, at.y + 3);
  },
};

/** The day's levels by name. */
export const levels: Layer = {
  within: 'plot',
  draw(ctx, { view, levels: all }) {
    ctx.strokeStyle = colour('line');
    ctx.fillStyle = colour('quiet');
    ctx.lineWidth = 1;
    ctx.textAlign = 'left';
    ctx.textBaseline = 'bottom';
    for (const { price, name } of all) {
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
  },
};

/** Lines of orders, of exits held here, and the double one of the position. */
export const ownLines: Layer = {
  within: 'plot',
  draw(ctx, { view, lines }) {
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
  },
};

/** A small flag at the foot of the bar in which a headline came. */
export const headlines: Layer = {
  within: 'plot',
  draw(ctx, model) {
    const { view, series } = model;
    const { first, last } = view.range(series);
    ctx.fillStyle = ctx.strokeStyle = colour('ink');
    for (const { time } of model.headlines) {
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
  },
};
