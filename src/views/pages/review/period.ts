import { formatDay, parseDay, weekday } from '../../../core/market/index.ts';

export const PERIODS = ['today', 'this week', 'last week', 'this month', 'all'] as const;
export type Period = (typeof PERIODS)[number];

/** The days of a period as seen from a day, both inclusive; an open beginning is left out. */
export function daysIn(period: Period, today: string): { readonly from?: string; readonly to: string } {
  const day = parseDay(today);
  const monday = day - ((weekday(day) + 6) % 7);
  switch (period) {
    case 'today':
      return { from: today, to: today };
    case 'this week':
      return { from: formatDay(monday), to: formatDay(monday + 6) };
    case 'last week':
      return { from: formatDay(monday - 7), to: formatDay(monday - 1) };
    case 'this month':
      return { from: `${today.slice(0, 8)}01`, to: today };
    case 'all':
      return { to: today };
    default:
      return period satisfies never;
  }
}
