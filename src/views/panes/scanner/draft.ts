import type { AnswerOf } from '../../../live/index.ts';

export type ApiScan = AnswerOf<'GET /api/scans/{name}'>;
export type ApiScanResult = AnswerOf<'POST /api/scan'>;
type Universe = ApiScan['universe'];

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
  readonly version: number;
}

let made = 0;
export const line = (phrase: string, on = true): Line => ({ id: `l${++made}`, phrase, on });

export const EMPTY: ScanDraft = { name: '', notes: '', universe: { kinds: ['share'] }, join: 'all', lines: [line('')], keep: false, times: [], version: 0 };

export const draftOf = (scan: ApiScan): ScanDraft => ({
  ...scan,
  lines: scan.lines.map(({ phrase, on }) => line(phrase, on)),
  times: (scan.schedule as { times?: string[] } | null)?.times ?? [],
});

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
  schedule: draft.times.length === 0 ? null : { times: draft.times },
});

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
