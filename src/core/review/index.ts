export {
  type MissedEntry,
  type RoundTrip,
  type SavedTrips,
  type TripFill,
  type TripMark,
  RoundTrips,
  averagesOf,
  excursions,
  netOf,
  slippage,
  wouldHaveMade,
} from './trips.ts';
export { type ExitLevel, exitLevels } from './course.ts';
export { type MeasuredUse, type RuleUse, type UsedTrip, usedMore, usesOn } from './rule-use.ts';
export { type AskedTrip, questionOf } from './question.ts';
export {
  type CountedTrip,
  type CurvePoint,
  type Figures,
  type Grouping,
  GROUPINGS,
  NONE,
  curveOf,
  dayOf,
  figuresOf,
  grouped,
  groupKey,
  hourOf,
  mondayOf,
} from './figures.ts';
