import { useEffect } from 'react';
import { follow, type ApiBasketRun } from '../../live/index.ts';
import { askAgain, useAsked } from './queries.tsx';

/** While a run goes on its orders' fills are looked at this often; what else it comes to is told. */
const AGAIN_MS = 2000;

export const isUnderWay = ({ state }: ApiBasketRun): boolean => state === 'sending' || state === 'paused';

/** The runs of a basket, or with null of all, oldest first. */
export function useBasketRuns(basket: string | null): readonly ApiBasketRun[] {
  const query = basket === null ? {} : { basket };
  const asked = useAsked(
    'GET /api/basket-runs',
    { query },
    { when: basket !== '', everyMs: (items) => (items?.items.some(isUnderWay) ? AGAIN_MS : undefined) },
  );
  useEffect(() => follow('baskets', () => void askAgain('GET /api/basket-runs')), []);
  return asked.data?.items ?? [];
}
