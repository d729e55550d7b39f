import type { AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';

/** So many days are shown. */
export const DAYS = 20;

export type RiskDay = AnswerOf<'GET /api/risk/{account}/days'>['items'][number];

/** The last days of an account against its rules, the present one last; undefined until they are known. */
export const useRiskDays = (account: string): readonly RiskDay[] | undefined =>
  useAsked('GET /api/risk/{account}/days', { path: { account }, query: { limit: DAYS } }, { everyMs: 10_000 }).data?.items;
