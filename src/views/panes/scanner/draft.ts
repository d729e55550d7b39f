import type { AnswerOf } from '../../../live/index.ts';

export type ApiScan = AnswerOf<'GET /api/scans/{name}'>;
export type ApiScanResult = AnswerOf<'POST /api/scan'>;
type Universe = ApiScan['universe'];
type Schedule = Partial<NonNullable<ApiScan['schedule']>>;

export interface Line {
  /** Its own, for the list that is put in order. */
  readonly id: string;
  readonly phrase: string;
  readonly on: boolean;
}

/** A scan as it is being made; `version` 0 until it is saved. */
export interface ScanDraft {
  readonly name: string;
  readonly notes: string;
  readonly universe: Partial<Universe>;
  readonly join: 'all' | 'any';
  readonly lines: readonly Line[];
  readonly keep: boolean;
  readonly times: readonly string[];
  /** What else its schedule says besides the times: on which days, by which venue. */
  readonly when: Omit<Schedule, 'times'>;
  readonly version: number;
}

let made = 0;
export const line = (phrase: string, on = true): Line => ({ id: `l${++made}`, phrase, on });

export const EMPTY: ScanDraft = {
  name: '',
  notes: '',
  universe: { kinds: ['share'] },
  join: 'all',
  lines: [line('')],
  keep: false,
  times: [],
  when: {},
  version: 0,
};

export function draftOf({ schedule, ...scan }: ApiScan): ScanDraft {
  const { times = [], ...when }: Schedule = schedule ?? {};
  return { ...scan, lines: scan.lines.map(({ phrase, on }) => line(phrase, on)), times, when };
}

/** A scan as it is taken along: all that is saved of it, and its name where it has one. */
export const textToTake = (draft: ScanDraft): string => JSON.stringify({ ...(draft.name === '' ? {} : { name: draft.name }), ...savedBody(draft) }, null, 2);

/** The draft of a scan that was taken along, to be saved under its name. */
export const takenDraft = (scan: Partial<ApiScan> & Pick<ApiScan, 'universe' | 'lines'>): ScanDraft =>
  draftOf({ name: '', notes: '', join: 'all', keep: false, schedule: null, ...scan, version: 0 });

/** What is sent of a draft; lines without text are left out. */
export const bodyOf = ({ universe, join, lines }: ScanDraft): { universe: object; join: string; lines: { phrase: string; on: boolean }[] } => ({
  universe,
  join,
  lines: lines.filter(({ phrase }) => phrase.trim() !== '').map(({ phrase, on }) => ({ phrase, on })),
});

export const savedBody = (draft: ScanDraft): object => ({
  ...bodyOf(draft),
  notes: draft.notes,
  keep: draft.keep,
  schedule: draft.times.length === 0 ? null : { ...draft.when, times: draft.times },
});

/** When a draft's scan runs by itself. */
export function scheduleWords({ times, when: { days, monthDay, venue } }: ScanDraft): string {
  if (times.length === 0) return 'runs when asked';
  const on = [...(days ?? []), ...(monthDay ? [`day ${monthDay} of the month`] : [])];
  return `at ${times.join(', ')}${on.length > 0 ? ` on ${on.join(', ')}` : ''}${venue ? `, ${venue}` : ''}`;
}

/** All that is saved of a draft, to be told from another's. */
export const textOf = (draft: ScanDraft): string => JSON.stringify(savedBody(draft));

/** Which instruments are looked at, as a sentence. */
export function universeWords({ kinds, venues, sectors, watchlists, instruments, scan }: Partial<Universe>): string {
  const many = (words: readonly string[]): string =>
    words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words[words.length - 1] ?? ''}`;
  const what = kinds && kinds.length > 0 ? many(kinds.map((kind) => `${kind}s`)) : 'all that trades';
  const parts = [
    what,
    ...(venues && venues.length > 0 ? [`on ${many(venues)}`] : []),
    ...(sectors && sectors.length > 0 ? [`in ${many(sectors)}`] : []),
    ...(watchlists && watchlists.length > 0 ? [`in the list ${many(watchlists)}`] : []),
    ...(instruments && instruments.length > 0 ? [`of ${instruments.length} named`] : []),
    ...(scan ? [`that ${scan} found`] : []),
  ];
  return parts.join(' ');
}
