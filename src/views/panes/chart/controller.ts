import type { Chart } from 'chart.js';
import { atom, type ReadableAtom, type WritableAtom } from 'nanostores';
import { TRAVEL_PX } from '../../../client/gestures/index.ts';
import type { Command } from '../../../client/keys.ts';
import { paintNoMore, drawSoon } from '../../../kit/pace.ts';
import { placeIn } from '../../../kit/scale.ts';
import { moved } from '../../workspace/stillness.ts';
import { makeChart } from './canvas.ts';
import { $drawings, changeDrawings } from './drawing-store.ts';
import type { Drawing, DrawingKind } from './drawing.ts';
import { BarFeed, intervalMs } from './feed.ts';
import { timeLabels } from './labels.ts';
import { LAYERS } from './layers/index.ts';
import type { Hold, Spot } from './layers/layer.ts';
import { newModel, type ChartModel } from './model.ts';
import { ownIn, type OwnHere } from './own.ts';
import type { ChartOf, Plot } from './plot.ts';
import { SOURCES } from './sources.ts';

const WHEEL_ZOOM = 1.12;
const KEY_ZOOM = 1.25;
const KEY_PAN_PX = 60;

/**
 * A chart from its bars to its keys: it feeds its model from the stores, draws its layers and hands them what the
 * pointer does. A view mounts it in a box with a canvas, and lays over it what is no drawing.
 */
export class ChartController implements Plot {
  readonly of: ChartOf;
  readonly model: ChartModel;
  readonly $tool: WritableAtom<DrawingKind | null>;
  readonly $selected = atom<string | null>(null);
  readonly $state = atom<'loading' | 'empty' | 'shown'>('loading');
  readonly $own: ReadableAtom<OwnHere>;
  crosshairLetter: string | null = null;
  /** When its view last moved under the pointer. */
  movedAt = performance.now();
  canvas: HTMLCanvasElement | null = null;

  private chart: Chart | null = null;
  private feed: BarFeed | null = null;
  private frame = 0;
  private held: { readonly hold: Hold; readonly from: Spot; at: Spot } | null = null;
  private readonly drawn = new Set<() => void>();
  private readonly loaded = new Set<() => void>();

  constructor(of: ChartOf, $tool: WritableAtom<DrawingKind | null>) {
    this.of = of;
    this.$tool = $tool;
    this.$own = ownIn(of.account, of.instrument.id);
    const length = intervalMs(of.interval);
    this.model = newModel(of.instrument, length, timeLabels(of.instrument.venue, length >= intervalMs('1d')));
    this.model.onDrawn = () => this.drawn.forEach((place) => place());
  }

  /** @returns what takes it out again */
  mount(box: HTMLElement, canvas: HTMLCanvasElement): () => void {
    this.canvas = canvas;
    const stops = [...SOURCES.map((source) => source(this)), this.begin(canvas), this.listen(box, canvas)];
    return () => {
      stops.forEach((stop) => stop());
      paintNoMore(this);
      cancelAnimationFrame(this.frame);
      this.frame = 0;
      this.chart?.destroy();
      this.chart = null;
    };
  }

  /** What lies over the canvas is put in its places after each drawing. */
  onDrawn(place: () => void): () => void {
    this.drawn.add(place);
    this.redraw();
    return () => this.drawn.delete(place);
  }

  onLoaded(again: () => void): () => void {
    this.loaded.add(again);
    return () => this.loaded.delete(again);
  }

  /** What the trader does is drawn at once, what the market changes with all other panes. */
  readonly redraw = (): void => {
    if (this.frame !== 0) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      this.chart?.draw();
    });
  };

  readonly moved = (): void => {
    this.noteMoved();
    void this.feed?.loadOlder();
    this.redraw();
  };

  private noteMoved(): void {
    this.movedAt = performance.now();
    moved(this.of.pane);
  }

  /** Lets go of what is held and of what is being drawn, leaving all as it was. */
  cancel(): void {
    this.held = null;
    this.model.draft = null;
    this.$tool.set(null);
    this.$selected.set(null);
    this.redraw();
  }

  /** The drawing with handles. */
  selected(): Drawing | undefined {
    return this.allDrawings().find(({ id }) => id === this.$selected.get());
  }

  allDrawings(): readonly Drawing[] {
    return $drawings.get()[this.of.instrument.id] ?? [];
  }

  commands(): Command[] {
    const { view, series } = this.model;
    const look = (words: string, key: string, run: () => void): Command => ({
      keys: [key],
      words,
      run: () => {
        run();
        this.moved();
      },
    });
    const walk = (words: string, key: string, run: () => void): Command => ({ ...look(words, key, run), repeats: true });
    return [
      walk('older bars', 'ArrowLeft', () => view.pan(series, KEY_PAN_PX)),
      walk('newer bars', 'ArrowRight', () => view.pan(series, -KEY_PAN_PX)),
      walk('closer', '+', () => view.zoom(series, KEY_ZOOM, view.plotWidth / 2)),
      walk('further away', '-', () => view.zoom(series, 1 / KEY_ZOOM, view.plotWidth / 2)),
      look('the newest bar', 'End', () => view.toNewest()),
      look('fit the chart', 'Home', () => {
        view.fitTime();
        view.manual = false;
      }),
      { keys: ['Escape'], words: 'put the drawing tool away, ring nothing', run: () => this.cancel() },
      {
        keys: ['Delete'],
        words: 'take the ringed drawing away',
        cannot: () => {
          const ringed = this.selected();
          return ringed === undefined ? 'nothing is ringed: press a drawing first' : ringed.locked ? 'it is locked' : null;
        },
        run: () => {
          const ringed = this.selected();
          changeDrawings(this.of.instrument.id, this.allDrawings().filter((one) => one !== ringed), `the ${ringed?.kind ?? ''}`); // prettier-ignore
          this.$selected.set(null);
        },
      },
    ];
  }

  /** Bars, first and live, with the studies over them. */
  private begin(canvas: HTMLCanvasElement): () => void {
    const { model, of } = this;
    const compute = (from: number): void => model.studies.forEach(({ values }) => values.update(model.series, from));
    const feed = new BarFeed(model, of.interval, of.hours, {
      loaded: () => {
        compute(0);
        this.loaded.forEach((again) => again());
        this.redraw();
      },
      live: (from) => {
        compute(from);
        this.$state.set('shown');
        drawSoon(this, () => this.chart?.draw());
      },
    });
    this.feed = feed;
    let stopped = false;
    const begin = async (): Promise<void> => {
      await document.fonts.ready;
      if (stopped) return;
      this.chart = makeChart(canvas, model);
      const any = await feed.start();
      if (stopped) return;
      if (this.$state.get() !== 'shown') this.$state.set(any ? 'shown' : 'empty');
      this.noteMoved();
      this.redraw();
    };
    void begin();
    return () => {
      stopped = true;
      feed.stop();
    };
  }

  /** The pointer: a press is held by the topmost layer that takes it, until it is let go. */
  private listen(box: HTMLElement, canvas: HTMLCanvasElement): () => void {
    const listening = new AbortController();
    const { signal } = listening;
    const { view, series } = this.model;
    const on = <K extends keyof HTMLElementEventMap>(name: K, heard: (event: HTMLElementEventMap[K]) => void): void =>
      box.addEventListener(name, heard, { signal, passive: false });
    const fromTop = [...LAYERS].reverse();
    on('pointerdown', (event) => {
      if (event.button !== 0 || event.target !== canvas) return;
      box.setPointerCapture(event.pointerId);
      const at = placeIn(box, event);
      for (const layer of fromTop) {
        const hold = layer.hit?.(this, at);
        if (!hold) continue;
        this.held = { hold, from: at, at };
        return;
      }
    });
    on('pointermove', (event) => {
      const at = placeIn(box, event);
      const { held } = this;
      for (const layer of fromTop) layer.hover?.(this, event.target === canvas || held ? at : null);
      if (held) {
        held.hold.move?.(at, { x: at.x - held.at.x, y: at.y - held.at.y });
        held.at = at;
      }
      this.redraw();
    });
    on('pointerup', (event) => {
      const { held } = this;
      this.held = null;
      if (!held) return;
      const at = placeIn(box, event);
      held.hold.release?.(at, Math.hypot(at.x - held.from.x, at.y - held.from.y) >= TRAVEL_PX);
      this.redraw();
    });
    on('pointerleave', () => {
      for (const layer of fromTop) layer.hover?.(this, null);
      this.redraw();
    });
    on('dblclick', (event) => {
      const at = placeIn(box, event);
      fromTop.some((layer) => layer.double?.(this, at));
    });
    on('wheel', (event) => {
      // The page would zoom with the chart.
      event.preventDefault();
      view.zoom(series, event.deltaY < 0 ? WHEEL_ZOOM : 1 / WHEEL_ZOOM, placeIn(box, event).x);
      this.moved();
    });
    return () => listening.abort();
  }
}
