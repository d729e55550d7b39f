export { PriceLevels } from './price-levels.ts';
export { RollingDay } from './rolling.ts';
export { type DayFigures, type LiveListFilter, type LiveListName, LIVE_LISTS, liveList } from './survey.ts';
export { type ConsolidatedLevel, consolidate } from './consolidate.ts';
export {
  type Day,
  type SessionTimes,
  dayStart,
  expiryTime,
  formatDay,
  isDay,
  gtcEnd,
  isTradingDay,
  openBetween,
  localDay,
  localClock,
  localHour,
  localTime,
  minutesOf,
  nextDayTurn,
  nextIntradayEnd,
  nextTradingDay,
  parseDay,
  previousTradingDay,
  sessionTimes,
  settlementTime,
  tradingDay,
  weekday,
  venueMoment,
} from './calendar.ts';
export type { BookOrder, MatchingTimeInForce, StopOrder } from './book-order.ts';
export { type BookEvent, type SavedBook, type SavedPlace, type Standing, MatchingBook } from './matching.ts';
export { type TriggerSource, TRIGGER_SOURCES } from './trigger.ts';
export { type Trail, type TrailText, type TrailUnit, TRAIL_UNITS, readTrail, tighter, trailedStop } from './trail.ts';
export { type TapeCells, type TapeRow, TAPE_COLUMNS, TapeCellProblem, readTapeRow } from './tape-cells.ts';
export { type BookSide, type MarketEvent, type MarketState, type PriceLimits, type Side, MARKET_STATES } from './tape-row.ts';
export { type DayStatistics, type Quote, NO_STATISTICS, changePercent, countPrint, markInHalves, vwapText } from './quote.ts';
export { type Bar, type Interval, type MarketTrade, INTERVALS, addPrint, aggregate, barEnd, barStart, isInterval, minutesIn } from './bars.ts';
