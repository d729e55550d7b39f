import { definePane } from '../definition.ts';

export const alertsPane = definePane('what you want to be told of, and what was told', 'name', {}, () => import('./AlertsPane.tsx'));
