import { definePane } from '../definition.ts';

export const cardPane = definePane('specification, hours, limits, issuer', 'instrument', {}, () => import('./CardPane.tsx'));
