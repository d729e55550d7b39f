type Part = 'HH:mm:ss' | 'HH:mm' | 'MM-dd HH:mm' | 'yyyy-MM-dd HH:mm';

const OPTIONS: Readonly<Record<Part, Intl.DateTimeFormatOptions>> = {
  'HH:mm:ss': { hour: '2-digit', minute: '2-digit', second: '2-digit' },
  'HH:mm': { hour: '2-digit', minute: '2-digit' },
  'MM-dd HH:mm': { month: '2-digit', day: '2-digit', hour: '2-digit', minute: '2-digit' },
  'yyyy-MM-dd HH:mm': { year: 'numeric', month: '2-digit', day: '2-digit', hour: '2-digit', minute: '2-digit' },
};

/** Making a formatter costs a thousand times what using it does. */
const formatters = new Map<string, Intl.DateTimeFormat>();

/** A moment as a clock in a time zone shows it. */
export function clockText(zone: string, time: number | string, part: Part = 'HH:mm:ss'): string {
  const key = `${zone} ${part}`;
  let formatter = formatters.get(key);
  if (!formatter) formatters.set(key, (formatter = new Intl.DateTimeFormat('en-GB', { timeZone: zone, hourCycle: 'h23', ...OPTIONS[part] })));
  const at = typeof time === 'number' ? time : Date.parse(time);
  if (part === 'HH:mm:ss' || part === 'HH:mm') return formatter.format(at);
  const found = Object.fromEntries(formatter.formatToParts(at).map(({ type, value }) => [type, value]));
  const day = `${found['month']}-${found['day']} ${found['hour']}:${found['minute']}`;
  return part === 'MM-dd HH:mm' ? day : `${found['year']}-${day}`;
}

/** The time zone of this machine: what happens outside the market is told in it. */
export const ownZone = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone;

const DAY_MS = 86_400_000;
const DAY_WORDS = new Intl.DateTimeFormat('en-GB', { weekday: 'long', day: 'numeric', month: 'long', timeZone: 'UTC' });

/** A day, counted from 1970, in words: "Monday 2 March". */
export const dayInWords = (day: number): string => DAY_WORDS.format(day * DAY_MS);
