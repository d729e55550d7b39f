import { definePane } from '../definition.ts';
import { POSITIONS } from './settings.ts';

export const positionsPane = definePane('what is held, with results', 'name', POSITIONS, () => import('./PositionsPane.tsx'));
