import { useEffect, useRef, type PointerEvent, type RefObject } from 'react';
import { placeIn } from '../../../kit/scale.ts';
import { changeDrawings, $drawings } from './drawing-store.ts';
import { POINTS, drawingAt, handleAt, movedBy, pointAt, type Drawing, type DrawingKind } from './drawings.ts';
import { timeOfIndex, type ChartModel } from './model.ts';
import { AXIS_PX } from './viewport.ts';

const TRAVEL_PX = 4;
const ZOOM = 1.12;

interface Ask {
  readonly model: ChartModel;
  readonly canvas: RefObject<HTMLCanvasElement | null>;
  readonly box: RefObject<HTMLDivElement | null>;
  readonly instrument: string;
  readonly tool: DrawingKind | null;
  readonly onTool: (tool: DrawingKind | null) => void;
  readonly onSelect: (id: string | null) => void;
  readonly onCrosshair: (time: number | null) => void;
  /** The view moved: older bars may be wanted. */
  readonly moved: () => void;
  readonly draw: () => void;
}

type Held =
  | { readonly kind: 'pan' | 'price axis' | 'time axis'; x: number; y: number; readonly fromX: number; readonly fromY: number }
  | { readonly kind: 'drawing'; readonly before: Drawing; readonly handle: number; readonly fromX: number; readonly fromY: number }
  | { readonly kind: 'new'; readonly fromX: number; readonly fromY: number };

let made = 0;

/** What the pointer does on a plot: pans, stretches axes, draws, selects and moves what is drawn, leads the crosshair. */
export function usePlotPointer(ask: Ask): { handlers: Record<string, (event: PointerEvent) => void>; cancel: () => void } {
  const { model, canvas, box, instrument, tool, onTool, onSelect, onCrosshair, moved, draw } = ask;
  const held = useRef<Held | null>(null);
  /** The drawing under way: its last point follows the pointer. */
  const draft = useRef<Drawing | null>(null);

  const all = (): readonly Drawing[] => $drawings.get()[instrument] ?? [];
  const show = (drawing: Drawing | null): void => {
    const others = model.drawings.filter((one) => one.id !== drawing?.id && one.id !== draft.current?.id);
    model.drawings = drawing ? [...others, drawing] : others;
    draw();
  };
  const place = (event: { clientX: number; clientY: number }): { x: number; y: number } => (box.current ? placeIn(box.current, event) : { x: 0, y: 0 });
  const finish = (drawing: Drawing): void => {
    draft.current = null;
    changeDrawings(instrument, [...all(), drawing], `the ${drawing.kind}`);
    onTool(null);
    onSelect(drawing.id);
  };
  const cancel = (): void => {
    const under = draft.current;
    draft.current = null;
    held.current = null;
    if (under) model.drawings = model.drawings.filter((one) => one.id !== under.id);
    draw();
  };

  /** A press with a tool in hand sets the next point; the drawing is done with its last. */
  const setPoint = (x: number, y: number, kind: DrawingKind): void => {
    const point = pointAt(model, x, y);
    const under = draft.current;
    if (!under) {
      const fresh: Drawing = {
        id: `d${Date.now().toString(36)}${made++}`,
        kind,
        points: [point],
        colour: kind === 'measure' ? 'slate' : 'straw',
        width: 1.3,
        stroke: 'solid',
        text: '',
        locked: false,
        interval: null,
      };
      if (POINTS[kind] === 1) finish(fresh);
      else {
        draft.current = { ...fresh, points: [point, point] };
        show(draft.current);
      }
      return;
    }
    const points = [...under.points.slice(0, -1), point];
    if (points.length >= POINTS[kind]) finish({ ...under, points });
    else {
      draft.current = { ...under, points: [...points, point] };
      show(draft.current);
    }
  };

  // React's wheel listener is passive; this one keeps the page from zooming with the chart.
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const onWheel = (event: WheelEvent): void => {
      event.preventDefault();
      model.view.zoom(model.series, event.deltaY < 0 ? ZOOM : 1 / ZOOM, placeIn(element, event).x);
      moved();
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [model, moved, box]);

  const handlers = {
    onPointerDown: (event: PointerEvent): void => {
      if (event.button !== 0 || event.target !== canvas.current) return;
      const { x, y } = place(event);
      const { view } = model;
      event.currentTarget.setPointerCapture(event.pointerId);
      const from = { fromX: x, fromY: y };
      if (x > view.width - AXIS_PX) held.current = { kind: 'price axis', x, y, ...from };
      else if (y > view.timeTop) held.current = { kind: 'time axis', x, y, ...from };
      else if (tool !== null) {
        setPoint(x, y, tool);
        held.current = draft.current ? { kind: 'new', ...from } : null;
      } else {
        const selected = model.drawings.find((one) => one.id === model.selected);
        const handle = selected ? handleAt(model, selected, x, y) : -1;
        const hit = handle >= 0 && selected ? selected : drawingAt(model, x, y);
        onSelect(hit?.id ?? null);
        held.current = hit && !hit.locked ? { kind: 'drawing', before: hit, handle, ...from } : { kind: 'pan', x, y, ...from };
      }
    },
    onPointerMove: (event: PointerEvent): void => {
      const { x, y } = place(event);
      const { view, series } = model;
      const now = held.current;
      const inside = event.target === canvas.current && x <= view.plotWidth && y <= view.timeTop;
      model.crosshair = inside && series.length > 0 ? { index: view.indexAt(series, x), y } : null;
      onCrosshair(model.crosshair ? timeOfIndex(model, model.crosshair.index) : null);
      if (draft.current && (now === null || now.kind === 'new')) {
        draft.current = { ...draft.current, points: [...draft.current.points.slice(0, -1), pointAt(model, x, y)] };
        show(draft.current);
      }
      if (now?.kind === 'pan') {
        view.pan(series, x - now.x);
        view.shift(y - now.y);
        moved();
      } else if (now?.kind === 'price axis') {
        view.stretch(Math.exp((y - now.y) / 160));
        moved();
      } else if (now?.kind === 'time axis') {
        view.zoom(series, Math.exp((x - now.x) / 160), view.plotWidth);
        moved();
      } else if (now?.kind === 'drawing') show(movedBy(model, now.before, now.handle, x - now.fromX, y - now.fromY));
      if (now && 'x' in now) {
        now.x = x;
        now.y = y;
      }
      draw();
    },
    onPointerUp: (event: PointerEvent): void => {
      const { x, y } = place(event);
      const now = held.current;
      held.current = null;
      if (!now) return;
      const travelled = Math.hypot(x - now.fromX, y - now.fromY) >= TRAVEL_PX;
      if (now.kind === 'drawing' && travelled) {
        const next = movedBy(model, now.before, now.handle, x - now.fromX, y - now.fromY);
        changeDrawings(instrument, all().map((one) => (one.id === next.id ? next : one)), `where the ${next.kind} was`); // prettier-ignore
      }
      // Pressed, drawn along and let go: the second point is where it was let go.
      if (now.kind === 'new' && travelled && tool !== null && draft.current) setPoint(x, y, tool);
    },
    onPointerLeave: (): void => {
      model.crosshair = null;
      onCrosshair(null);
      draw();
    },
    onDoubleClick: (event: PointerEvent): void => {
      const { x, y } = place(event);
      const { view } = model;
      if (x > view.width - AXIS_PX) view.manual = false;
      else if (y > view.timeTop) view.fitTime();
      else return;
      moved();
    },
  };
  return { handlers: handlers, cancel };
}
