import { formatDay, nextTradingDay, sessionTimes, tradingDay, type Day } from '../../../core/market/index.ts';

/** Whether a trading day is the last one of its week. */
export const isLastOfWeek = (day: Day): boolean => nextTradingDay('HALM', day) > day + 1;

/**
 * Which day sheet a time belongs to, by its day: each trading day has one, and the week that is over has one of its own,
 * from its last close until the next one begins, which goes by the day after that.
 */
export function sheetAt(time: number): string {
  const day = tradingDay('HALM', time);
  return formatDay(isLastOfWeek(day) && time >= sessionTimes('HALM', day).close ? day + 1 : day);
}
