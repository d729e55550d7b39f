import { definePane } from '../definition.ts';
import { FILLS } from './settings.ts';

export const fillsPane = definePane('every fill of the day', 'name', FILLS, () => import('./FillsPane.tsx'));
