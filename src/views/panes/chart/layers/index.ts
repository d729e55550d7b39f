import { axes } from './axes.ts';
import { bars, volume } from './bars.ts';
import { crosshair } from './crosshair.ts';
import { drawings } from './drawings.ts';
import type { Layer } from './layer.ts';
import { compared, headlines, levels, ownLines, soundings } from './marks.ts';
import { ownPlots, priceStudies, studyNames } from './studies.ts';

/** What a chart is made of, from the ground up. A press is offered to them from the top down. */
export const LAYERS: readonly Layer[] = [
  soundings,
  volume,
  bars,
  compared,
  priceStudies,
  levels,
  drawings,
  ownLines,
  headlines,
  studyNames,
  ownPlots,
  axes,
  crosshair,
];
