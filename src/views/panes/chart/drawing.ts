import { DRAWING_KINDS } from '../../../schemas/saved.ts';

export type DrawingKind = (typeof DRAWING_KINDS)[number];

/** A place on a chart: a time in milliseconds and a price in whole currency. */
export interface Point {
  readonly time: number;
  readonly price: number;
}

export interface Drawing {
  readonly id: string;
  readonly kind: DrawingKind;
  readonly points: readonly Point[];
  readonly colour: string;
  readonly width: number;
  readonly stroke: 'solid' | 'dashed' | 'dotted';
  readonly text: string;
  readonly locked: boolean;
  /** The one interval it is shown on; null: all. */
  readonly interval: string | null;
  /** The alert that waits for it to be crossed. */
  readonly alert?: string;
}
