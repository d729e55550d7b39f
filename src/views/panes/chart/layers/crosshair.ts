import { colour } from '../../../theme/theme.ts';
import { shareCrosshair } from '../crosshair.ts';
import { timeOfIndex } from '../model.ts';
import { axisText, drawPriceBox } from './axes.ts';
import type { Layer } from './layer.ts';

/** Follows the pointer over the plots, here and on the charts of the same letter. */
export const crosshair: Layer = {
  within: 'canvas',
  draw(ctx, model) {
    const { crosshair: at, view, series } = model;
    if (!at) return;
    const x = Math.round(view.x(series, at.index)) + 0.5;
    const level = at.y !== null && at.y <= view.plotHeight ? at.y : null;
    ctx.strokeStyle = colour('line');
    ctx.lineWidth = 1;
    ctx.setLineDash([3, 3]);
    ctx.beginPath();
    if (x >= 0 && x <= view.plotWidth) {
      ctx.moveTo(x, 0);
      ctx.lineTo(x, view.timeTop);
    }
    if (level !== null) {
      ctx.moveTo(0, Math.round(level) + 0.5);
      ctx.lineTo(view.plotWidth, Math.round(level) + 0.5);
    }
    ctx.stroke();
    ctx.setLineDash([]);
    if (level !== null) drawPriceBox(ctx, model, level, axisText(model, view.priceAt(level)), 'lamp');
  },
  hover(plot, at) {
    const { model } = plot;
    const { view, series } = model;
    const inside = at !== null && at.x <= view.plotWidth && at.y <= view.timeTop && series.length > 0;
    model.crosshair = inside ? { index: view.indexAt(series, at.x), y: at.y } : null;
    const time = model.crosshair && timeOfIndex(model, model.crosshair.index);
    if (plot.crosshairLetter !== null) shareCrosshair({ from: plot.of.pane, letter: plot.crosshairLetter, time });
  },
};
