import { colour, inkColour } from '../../../theme/theme.ts';
import { $drawings, changeDrawings } from '../drawing-store.ts';
import { POINTS, RETRACEMENTS, drawingAt, handleAt, measureWords, movedBy, pointAt, segmentsOf, spotOf, type Drawing, type DrawingKind } from '../drawings.ts';
import type { ChartModel } from '../model.ts';
import type { Plot } from '../plot.ts';
import type { Hold, Layer, Spot } from './layer.ts';

let made = 0;

/** What the trader drew on the plot, the selected one with its handles; a press selects, a pull moves, a tool in hand draws. */
export const drawings: Layer = {
  within: 'plot',
  draw(ctx, model) {
    for (const drawing of model.drawings) if (drawing.id !== model.draft?.id) drawOne(ctx, model, drawing);
    if (model.draft) drawOne(ctx, model, model.draft);
  },
  hit(plot, at) {
    const { model, $tool, $selected } = plot;
    const tool = $tool.get();
    if (tool !== null) return drawn(plot, tool, at);
    const selected = model.drawings.find(({ id }) => id === model.selected);
    const handle = selected ? handleAt(model, selected, at.x, at.y) : -1;
    const hit = selected && handle >= 0 ? selected : drawingAt(model, at.x, at.y);
    $selected.set(hit?.id ?? null);
    return hit && !hit.locked ? pulled(model, hit, handle, at) : null;
  },
  hover({ model, $tool }, at) {
    const { draft } = model;
    if (at && draft && $tool.get() !== null) model.draft = { ...draft, points: [...draft.points.slice(0, -1), pointAt(model, at.x, at.y)] };
  },
};

/** A drawing that is moved as a whole, or at one of its points. */
function pulled(model: ChartModel, before: Drawing, handle: number, from: Spot): Hold {
  const movedTo = (at: Spot): Drawing => movedBy(model, before, handle, at.x - from.x, at.y - from.y);
  return {
    move: (at) => {
      model.draft = movedTo(at);
    },
    release: (at, travelled) => {
      model.draft = null;
      if (!travelled) return;
      const all = $drawings.get()[model.instrument.id] ?? [];
      changeDrawings(model.instrument.id, all.map((one) => (one.id === before.id ? movedTo(at) : one)), `where the ${before.kind} was`); // prettier-ignore
    },
  };
}

/** A press with a tool in hand sets the next point; pressed, drawn along and let go, the second is where it was let go. */
function drawn(plot: Plot, tool: DrawingKind, at: Spot): Hold {
  setPoint(plot, tool, at);
  return {
    release: (to, travelled) => {
      if (travelled && plot.model.draft) setPoint(plot, tool, to);
    },
  };
}

function setPoint(plot: Plot, kind: DrawingKind, { x, y }: Spot): void {
  const { model } = plot;
  const point = pointAt(model, x, y);
  const under = model.draft;
  const points = under ? [...under.points.slice(0, -1), point] : [point];
  const drawing = under ? { ...under, points } : newDrawing(kind, point);
  if (points.length < POINTS[kind]) {
    // Its last point follows the pointer until it is set.
    model.draft = { ...drawing, points: [...points, point] };
    plot.redraw();
    return;
  }
  const { id: instrument } = model.instrument;
  model.draft = null;
  changeDrawings(instrument, [...($drawings.get()[instrument] ?? []), drawing], `the ${kind}`);
  plot.$tool.set(null);
  plot.$selected.set(drawing.id);
}

const newDrawing = (kind: DrawingKind, point: Drawing['points'][number]): Drawing => ({
  id: `d${Date.now().toString(36)}${made++}`,
  kind,
  points: [point],
  colour: kind === 'measure' ? 'slate' : 'straw',
  width: 1.3,
  stroke: 'solid',
  text: '',
  locked: false,
  interval: null,
});

function drawOne(ctx: CanvasRenderingContext2D, model: ChartModel, drawing: Drawing): void {
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
    const words = measureWords(model, drawing);
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
