import { useStore } from '@nanostores/react';
import { SCALE_SESSIONS, scaleWithoutLimit } from '../../client/day-scale.ts';
import { $accounts, $risk, type AnswerOf } from '../../live/index.ts';
import { useAsked } from './queries.tsx';

/** So many days are shown. */
export const DAYS = 20;

export type RiskDay = AnswerOf<'GET /api/risk/{account}/days'>['items'][number];

/** The last days of an account against its rules, the present one last; undefined until they are known. */
export const useRiskDays = (account: string): readonly RiskDay[] | undefined =>
  useAsked('GET /api/risk/{account}/days', { path: { account }, query: { limit: DAYS } }, { everyMs: 10_000 }).data?.items;

const SCALE_AGAIN_MS = 600_000;

/** What the day's gauge of an account stands for from its wall to zero, in EUR: its limit, else what is usual for it. */
export function useDayScale(account: string, limit: number | null): number {
  const equity = useStore($accounts)[account]?.equity;
  const today = useStore($risk)[account]?.day;
  const query = { limit: SCALE_SESSIONS + 1 };
  const asked = useAsked(
    'GET /api/risk/{account}/days',
    { path: { account }, query },
    { everyMs: SCALE_AGAIN_MS, freshMs: SCALE_AGAIN_MS, when: limit === null },
  );
  return limit ?? scaleWithoutLimit(asked.data?.items ?? [], today, equity);
}
