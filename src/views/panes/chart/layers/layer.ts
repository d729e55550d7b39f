import type { ChartModel } from '../model.ts';
import type { Plot } from '../plot.ts';

export interface Spot {
  readonly x: number;
  readonly y: number;
}

/** What a chart's axes are labelled with in one drawing. */
export interface Ticks {
  readonly prices: readonly number[];
  readonly times: readonly { readonly x: number; readonly text: string; readonly strong: boolean }[];
}

/** What a press holds until it is let go. Places are in the plot's pixels. */
export interface Hold {
  /** @param by how far from the place before */
  move?(at: Spot, by: Spot): void;
  /** @param travelled further than a hand that shakes */
  release?(at: Spot, travelled: boolean): void;
}

/** One of the things a chart is made of, from the ground up: it draws itself and says what a press on it holds. */
export interface Layer {
  /** It is cut off where the plot of prices ends, or may draw all over the canvas. */
  readonly within: 'plot' | 'canvas';
  draw(ctx: CanvasRenderingContext2D, model: ChartModel, ticks: Ticks): void;
  /** What a press there takes hold of; null: what lies below is asked. */
  hit?(plot: Plot, at: Spot): Hold | null;
  /** The pointer moved there; null: it left. */
  hover?(plot: Plot, at: Spot | null): void;
  /** A double-click there; false: it is not for this layer. */
  double?(plot: Plot, at: Spot): boolean;
}
