import { formatDay, parseDay, weekday } from '../../../core/market/index.ts';
import { NONE } from '../../../core/review/index.ts';

export const PERIODS = ['today', 'this week', 'last week', 'this month', 'last month', 'from … to', 'all'] as const;
export type Period = (typeof PERIODS)[number];

/** Days that were typed; an empty one is left open. */
export interface OwnDays {
  readonly from: string;
  readonly to: string;
}

/** The days of a period as seen from a day, both inclusive; an open beginning is left out. */
export function daysIn(period: Period, today: string, own: OwnDays = { from: '', to: '' }): { readonly from?: string; readonly to: string } {
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
    case 'last month': {
      const before = formatDay(parseDay(`${today.slice(0, 8)}01`) - 1);
      return { from: `${before.slice(0, 8)}01`, to: before };
    }
    case 'from … to':
      return { ...(own.from === '' ? {} : { from: own.from }), to: own.to === '' ? today : own.to };
    case 'all':
      return { to: today };
    default:
      return period satisfies never;
  }
}

/** The newest of the weeks that something ended in, seen from a day; this one where nothing ever did. */
export function newestPeriod(lastEnded: string | undefined, today: string): Period {
  if (lastEnded === undefined) return 'this week';
  const ended = lastEnded.slice(0, 10);
  return (['this week', 'last week'] as const).find((period) => ended >= (daysIn(period, today).from ?? '')) ?? 'all';
}

/** What is marked of each; nothing marked is all of it. */
export interface Marked {
  readonly account: readonly string[];
  readonly setup: readonly string[];
  readonly instrument: readonly string[];
  readonly kind: readonly string[];
  readonly side: readonly string[];
  readonly hour: readonly string[];
}

export const NOTHING_MARKED: Marked = { account: [], setup: [], instrument: [], kind: [], side: [], hour: [] };

const many = (words: readonly string[], or = 'and'): string =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} ${or} ${words[words.length - 1] ?? ''}`;

/** What is chosen, in one sentence. */
export function sentenceOf(period: Period, days: { readonly from?: string; readonly to: string }, marked: Marked): string {
  const { account, setup, instrument, kind, side, hour } = marked;
  const setups = setup.filter((one) => one !== NONE);
  const when = period === 'from … to' ? `${days.from === undefined ? '' : `from ${days.from} `}to ${days.to}` : period;
  return [
    period === 'all' ? 'Every round trip that is over' : `Round trips that ended ${when}`,
    `in ${account.length === 0 ? 'all accounts' : many(account)}`,
    ...(setups.length === 0 ? [] : [`of ${many(setups, 'or')}`]),
    ...(setup.includes(NONE) ? [setups.length > 0 ? 'or without a setup' : 'without a setup'] : []),
    ...(instrument.length === 0 ? [] : [`in ${many(instrument)}`]),
    ...(kind.length === 0 ? [] : [`${many(kind.map((one) => `${one}s`))} only`]),
    ...(side.length === 1 ? [`${side[0] ?? ''} ones`] : []),
    ...(hour.length === 0 ? [] : [`ended in the ${hour.length === 1 ? 'hour' : 'hours'} of ${many([...hour].sort())}`]),
  ].join(', ');
}
