import type { ReadableAtom, WritableAtom } from 'nanostores';
import type { Instrument } from '../../../core/instrument/index.ts';
import type { DrawingKind } from './drawing.ts';
import type { ChartModel } from './model.ts';
import type { OwnHere } from './own.ts';

/** What a chart is of; another of these is another chart. */
export interface ChartOf {
  /** The pane it stands in. */
  readonly pane: string;
  readonly account: string;
  readonly instrument: Instrument;
  readonly interval: string;
  readonly hours: string;
}

/** A chart as what feeds it and what lies on it see it. */
export interface Plot {
  readonly of: ChartOf;
  readonly model: ChartModel;
  /** What the next presses draw. */
  readonly $tool: WritableAtom<DrawingKind | null>;
  /** The drawing with handles, by its name. */
  readonly $selected: WritableAtom<string | null>;
  /** What is one's own in its account and instrument. */
  readonly $own: ReadableAtom<OwnHere>;
  /** The letter whose charts share its crosshair; null: none. */
  crosshairLetter: string | null;
  /** Calls when other bars were loaded, beside which all must be laid anew; returns what ends it. */
  onLoaded(again: () => void): () => void;
  /** The view moved: older bars may be wanted. */
  readonly moved: () => void;
  readonly redraw: () => void;
}
