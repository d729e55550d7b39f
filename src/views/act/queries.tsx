import { useStore } from '@nanostores/react';
import { QueryClient, QueryClientProvider, keepPreviousData, useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { $platePlans, planFor } from '../../client/exit-plans.ts';
import { request, type AnswerOf, type ApiPlan, type Asked, type Problem } from '../../live/index.ts';
import type { OperationName } from '../../schemas/operations.ts';

/** An answer that is no success. */
export class Refused extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

const lost = (error: Error): boolean => error instanceof Refused && error.problem.status === 0;

const client = new QueryClient({
  defaultOptions: { queries: { refetchOnWindowFocus: false, retry: (count, error) => lost(error) && count < 3, retryDelay: 1000 } },
});

export function Queries({ children }: { children: ReactNode }) {
  return <QueryClientProvider client={client}>{children}</QueryClientProvider>;
}

/** What is asked for and not streamed: known for `freshMs`, asked again every `everyMs`, which may follow from what is known, kept while another is on its way. */
export function useAsked<N extends OperationName>(
  name: N,
  asked: Asked<N>,
  {
    freshMs = 0,
    everyMs,
    when = true,
  }: { freshMs?: number; everyMs?: number | ((known: AnswerOf<N> | undefined) => number | undefined) | undefined; when?: boolean } = {},
) {
  return useQuery<AnswerOf<N>, Refused>({
    queryKey: [name, asked],
    queryFn: async () => {
      const answer = await request(name, asked as never);
      if (!answer.ok) throw new Refused(answer.problem);
      return answer.value;
    },
    enabled: when,
    staleTime: freshMs,
    refetchInterval: typeof everyMs === 'function' ? ({ state }) => everyMs(state.data) ?? false : (everyMs ?? false),
    placeholderData: keepPreviousData,
  });
}

/** The saved exit plans; one saved in another window is known here within five seconds. */
export const useSavedPlans = () => useAsked('GET /api/exit-plans', {}, { everyMs: 5000 });

/** The saved plan that goes on every entry of an instrument in an account; null where none does. */
export function usePlatePlan(account: string, instrument: string): ApiPlan | null {
  useStore($platePlans);
  const name = planFor(account, instrument);
  return useSavedPlans().data?.items.find((plan) => plan.name === name) ?? null;
}

/** Something changed what an operation answers: whoever shows it asks again. */
export const askAgain = (name: OperationName): Promise<void> => client.invalidateQueries({ queryKey: [name] });
