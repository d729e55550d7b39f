import { definePane } from '../definition.ts';
import { LADDER } from './settings.ts';

export const ladderPane = definePane('every price of one instrument, to order by a press', 'orders', LADDER, () => import('./LadderPane.tsx'));
