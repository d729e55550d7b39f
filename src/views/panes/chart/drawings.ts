import { signedFixed } from '../../../core/number/index.ts';
import { DRAWING_KINDS } from '../../../schemas/saved.ts';
import type { Drawing, DrawingKind, Point } from './drawing.ts';
import { indexOfTime, timeOfIndex, type ChartModel } from './model.ts';

export { type Drawing, type DrawingKind, type Point, DRAWING_KINDS };

/** How many points each kind is drawn from. */
export const POINTS: Readonly<Record<DrawingKind, 1 | 2 | 3>> = {
  'trend line': 2,
  ray: 2,
  'horizontal line': 1,
  'vertical line': 1,
  channel: 3,
  rectangle: 2,
  retracement: 2,
  measure: 2,
  text: 1,
};

export const RETRACEMENTS = [0, 0.236, 0.382, 0.5, 0.618, 0.786, 1] as const;

interface Spot {
  readonly x: number;
  readonly y: number;
}
export interface Segment {
  readonly from: Spot;
  readonly to: Spot;
}

export const spotOf = (model: ChartModel, { time, price }: Point): Spot => ({
  x: model.view.x(model.series, indexOfTime(model, time)),
  y: model.view.y(price * 10 ** model.instrument.priceDecimals),
});

export const pointAt = (model: ChartModel, x: number, y: number): Point => ({
  time: timeOfIndex(model, model.view.indexAt(model.series, x)),
  price: model.view.priceAt(y) / 10 ** model.instrument.priceDecimals,
});

/** The lines a drawing is made of, in the plot's pixels; what reaches on ends far outside. */
export function segmentsOf(model: ChartModel, drawing: Drawing): Segment[] {
  const { plotWidth, plotHeight } = model.view;
  const [a, b, c] = drawing.points.map((point) => spotOf(model, point));
  if (!a) return [];
  switch (drawing.kind) {
    case 'horizontal line':
      return [{ from: { x: 0, y: a.y }, to: { x: plotWidth, y: a.y } }];
    case 'vertical line':
      return [{ from: { x: a.x, y: 0 }, to: { x: a.x, y: plotHeight } }];
    case 'text':
      return [];
    case 'trend line':
      return b ? [{ from: a, to: b }] : [];
    case 'ray':
      return b ? [{ from: a, to: beyond(a, b, plotWidth) }] : [];
    case 'channel': {
      if (!b) return [];
      if (!c) return [{ from: a, to: b }];
      // The third point says how far away the parallel runs.
      const slope = b.x === a.x ? 0 : (b.y - a.y) / (b.x - a.x);
      const away = c.y - (a.y + slope * (c.x - a.x));
      return [
        { from: a, to: b },
        { from: { x: a.x, y: a.y + away }, to: { x: b.x, y: b.y + away } },
      ];
    }
    case 'rectangle':
    case 'measure':
      return b ? box(a, b) : [];
    case 'retracement': {
      if (!b) return [];
      const [left, right] = [Math.min(a.x, b.x), Math.max(a.x, b.x)];
      return RETRACEMENTS.map((share) => {
        const y = b.y + (a.y - b.y) * share;
        return { from: { x: left, y }, to: { x: right, y } };
      });
    }
    default:
      return drawing.kind satisfies never;
  }
}

function beyond(a: Spot, b: Spot, width: number): Spot {
  const run = b.x - a.x;
  if (run === 0) return { x: b.x, y: b.y >= a.y ? 1e5 : -1e5 };
  const to = run > 0 ? Math.max(width, b.x) : Math.min(0, b.x);
  return { x: to, y: a.y + ((b.y - a.y) / run) * (to - a.x) };
}

const box = (a: Spot, b: Spot): Segment[] => [
  { from: a, to: { x: b.x, y: a.y } },
  { from: { x: b.x, y: a.y }, to: b },
  { from: b, to: { x: a.x, y: b.y } },
  { from: { x: a.x, y: b.y }, to: a },
];

const REACH_PX = 6;
const TEXT_PX = { character: 7, height: 16 };

function distance({ from, to }: Segment, x: number, y: number): number {
  const dx = to.x - from.x;
  const dy = to.y - from.y;
  const length = dx * dx + dy * dy;
  const along = length === 0 ? 0 : Math.max(0, Math.min(1, ((x - from.x) * dx + (y - from.y) * dy) / length));
  return Math.hypot(x - from.x - along * dx, y - from.y - along * dy);
}

/** Whether a drawing is shown on an interval. */
export const isShown = (drawing: Drawing, interval: string): boolean => drawing.interval === null || drawing.interval === interval;

/** The drawing under a place of the plot, the newest first, or null. */
export function drawingAt(model: ChartModel, x: number, y: number): Drawing | null {
  for (const drawing of [...model.drawings].reverse()) {
    if (drawing.kind === 'text') {
      const [at] = drawing.points.map((point) => spotOf(model, point));
      if (at && x >= at.x - 2 && x <= at.x + drawing.text.length * TEXT_PX.character && Math.abs(y - at.y) < TEXT_PX.height / 2) return drawing;
    } else if (segmentsOf(model, drawing).some((segment) => distance(segment, x, y) < REACH_PX)) return drawing;
  }
  return null;
}

/** Whether a drawing stands in the upper half of the plot rather than the lower. */
export function standsHigh(model: ChartModel, drawing: Drawing): boolean {
  const heights = drawing.points.map((point) => spotOf(model, point).y);
  return (Math.min(...heights) + Math.max(...heights)) / 2 < model.view.plotHeight / 2;
}

/** Which of a drawing's points is under a place, or -1. */
export const handleAt = (model: ChartModel, drawing: Drawing, x: number, y: number): number =>
  drawing.points.findIndex((point) => {
    const at = spotOf(model, point);
    return Math.hypot(at.x - x, at.y - y) < REACH_PX + 2;
  });

/** A drawing moved by pixels as a whole, or at one of its points. */
export function movedBy(model: ChartModel, drawing: Drawing, handle: number, dx: number, dy: number): Drawing {
  const points = drawing.points.map((point, i) => {
    if (handle >= 0 && i !== handle) return point;
    const at = spotOf(model, point);
    return pointAt(model, at.x + dx, at.y + dy);
  });
  return { ...drawing, points };
}

/** What a measure says: price, percent, bars and the money for a size. */
export function measureWords(model: ChartModel, drawing: Drawing): string {
  const { size } = model;
  const [a, b] = drawing.points;
  if (!a || !b) return '';
  const moved = b.price - a.price;
  const bars = Math.round(indexOfTime(model, b.time) - indexOfTime(model, a.time));
  const money = size > 0 && model.instrument.kind !== 'inverse' ? ` · ${signedFixed(moved * size * model.instrument.multiplier)} for ${size}` : '';
  return `${signedFixed(moved, model.instrument.priceDecimals)} · ${signedFixed((moved / a.price) * 100)} % · ${bars} bars${money}`;
}
