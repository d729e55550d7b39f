export { LineMemory } from './memory.ts';
export { type Glance, type OwnThings, type Packed, MarketColumns, NOTHING_OWN, QuoteTable, SETTLED_STRIDE } from './columns.ts';
export { type BarBlock, type BlockSource, BAR_STRIDE, BarSeries, barBlock } from './series.ts';
export { type BarNeeds, type CompiledCondition, type ConditionScene, type Part, compileCondition } from './compile.ts';
export { type EventMemory, type Scope, type Truth, FALSE, TRUE, UNKNOWN } from './evaluation.ts';
export {
  type Direction,
  type Fires,
  type LevelSide,
  type WatchMemory,
  DIRECTIONS,
  FIRES,
  NO_MEMORY,
  eventsOf,
  headlineHas,
  isNews,
  levelSeen,
  lineLevel,
  type LinePoint,
  type PriceLine,
  mayFire,
} from './watch.ts';
export { type Schedule, type Weekday, WEEKDAYS, nextScheduled } from './schedule.ts';
export { type Join, type LineCount, type ScanItem, type ScanLine, type ScanMemory, type ScanOutcome, JOINS, runScan } from './scan.ts';
export {
  type AlertEvent,
  type AlertKind,
  type AlertState,
  type ScanCause,
  type WaitingState,
  ALERT_EVENTS,
  ALERT_KINDS,
  ALERT_STATES,
  SCAN_CAUSES,
  WAITING_STATES,
} from './alert.ts';
