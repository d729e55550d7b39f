import { colour, inkColour } from '../../theme/theme.ts';
import { RETRACEMENTS, measureWords, segmentsOf, spotOf, type Drawing } from './drawings.ts';
import type { ChartModel } from './model.ts';

/** What the trader drew on the plot; the selected one with its handles. */
export function drawDrawings(ctx: CanvasRenderingContext2D, model: ChartModel, size: number): void {
  for (const drawing of model.drawings) drawOne(ctx, model, drawing, size);
}

function drawOne(ctx: CanvasRenderingContext2D, model: ChartModel, drawing: Drawing, size: number): void {
  const ink = inkColour(drawing.colour);
  const spots = drawing.points.map((point) => spotOf(model, point));
  const [a, b] = spots;
  if (!a) return;
  ctx.strokeStyle = ctx.fillStyle = ink;
  ctx.lineWidth = drawing.width;
  if (b && (drawing.kind === 'rectangle' || drawing.kind === 'measure')) {
    ctx.globalAlpha = 0.12;
    ctx.fillRect(Math.min(a.x, b.x), Math.min(a.y, b.y), Math.abs(b.x - a.x), Math.abs(b.y - a.y));
    ctx.globalAlpha = 1;
  }
  ctx.setLineDash(drawing.stroke === 'dashed' ? [6, 4] : drawing.stroke === 'dotted' ? [1.5, 3] : []);
  ctx.beginPath();
  const segments = segmentsOf(model, drawing);
  for (const { from, to } of segments) {
    ctx.moveTo(from.x, from.y);
    ctx.lineTo(to.x, to.y);
  }
  ctx.stroke();
  ctx.setLineDash([]);
  ctx.textBaseline = 'middle';
  ctx.textAlign = 'left';
  if (drawing.kind === 'text') ctx.fillText(drawing.text || 'text', a.x, a.y);
  else if (drawing.kind === 'retracement') drawShares(ctx, model, drawing, segments);
  else if (drawing.kind === 'measure' && b) {
    ctx.textAlign = 'center';
    ctx.fillStyle = colour('ink');
    const words = measureWords(model, drawing, size);
    // Whole as long as the plot is wide enough, even where the drawing reaches out of it.
    const { plotWidth } = model.view;
    const half = ctx.measureText(words).width / 2 + 4;
    const middle = Math.min(Math.max((a.x + b.x) / 2, half), Math.max(half, plotWidth - half));
    if (Math.max(a.x, b.x) > 0 && Math.min(a.x, b.x) < plotWidth) {
      // On its own ground, so that bars don't run through the words.
      const y = Math.max(10, Math.min(a.y, b.y) - 11);
      ctx.fillStyle = colour('well');
      ctx.fillRect(middle - half, y - 8, half * 2, 16);
      ctx.fillStyle = colour('ink');
      ctx.fillText(words, middle, y);
    }
  } else if (drawing.text) ctx.fillText(drawing.text, a.x + 4, a.y - 8);
  if (model.selected !== drawing.id) return;
  for (const spot of spots) {
    ctx.beginPath();
    ctx.rect(spot.x - 3.5, spot.y - 3.5, 7, 7);
    ctx.fillStyle = colour('well');
    ctx.fill();
    ctx.strokeStyle = drawing.locked ? colour('line') : ink;
    ctx.lineWidth = 1.3;
    ctx.stroke();
  }
}

/** Below this distance labels of a retracement would stand over one another. */
const SHARE_PX = 14;

function drawShares(ctx: CanvasRenderingContext2D, model: ChartModel, drawing: Drawing, segments: ReturnType<typeof segmentsOf>): void {
  const [from, to] = drawing.points;
  if (!from || !to) return;
  ctx.textBaseline = 'bottom';
  // Levels that lie close leave out the labels between, never the first and the last.
  const last = segments.length - 1;
  let above = -Infinity;
  segments.forEach((segment, i) => {
    const y = segment.from.y;
    const room = Math.abs(y - above) >= SHARE_PX && (i === last || Math.abs((segments[last]?.from.y ?? y) - y) >= SHARE_PX);
    if (i !== 0 && i !== last && !room) return;
    above = y;
    const share = RETRACEMENTS[i] ?? 0;
    const price = to.price + (from.price - to.price) * share;
    ctx.fillText(`${(share * 100).toFixed(1)} % ${price.toFixed(model.instrument.priceDecimals)}`, segment.from.x + 3, segment.from.y - 1);
  });
}
