import { VENUES, type VenueId } from '../../../core/instrument/index.ts';
import { formatDay, localDay, localTime } from '../../../core/market/index.ts';

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** Axis labels in exchange time: the clock within a day, the date where one begins; for days the date, for a new year the year. */
export function timeLabels(venue: VenueId, daily: boolean): (time: number, before: number | null) => { text: string; strong: boolean } {
  const { zone } = VENUES[venue];
  return (time, before) => {
    const day = localDay(zone, time);
    const [year = '', month = '01', date = ''] = formatDay(day).split('-');
    const written = `${Number(date)} ${MONTHS[Number(month) - 1]}`;
    if (daily) {
      const newYear = before !== null && formatDay(localDay(zone, before)).slice(0, 4) !== year;
      return { text: newYear ? year : written, strong: newYear };
    }
    if (before !== null && localDay(zone, before) !== day) return { text: written, strong: true };
    const minutes = Math.round((time - localTime(zone, day, 0)) / 60_000);
    return { text: `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`, strong: false };
  };
}

/** A bar's time in exchange time: its date, and the clock where a bar is shorter than a day. */
export function barTime(venue: VenueId, time: number, daily: boolean): string {
  const { zone } = VENUES[venue];
  const day = localDay(zone, time);
  const [year = '', month = '01', date = ''] = formatDay(day).split('-');
  const written = `${Number(date)} ${MONTHS[Number(month) - 1]}`;
  if (daily) return `${written} ${year}`;
  const minutes = Math.round((time - localTime(zone, day, 0)) / 60_000);
  return `${written} ${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
}
