import { definePane } from '../definition.ts';
import { PRINTS } from './settings.ts';

export const printsPane = definePane('every trade as it prints', 'instrument', PRINTS, () => import('./PrintsPane.tsx'));
