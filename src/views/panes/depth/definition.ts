import { definePane } from '../definition.ts';
import { DEPTH } from './settings.ts';

export const depthPane = definePane('what rests at each price, and the day’s figures', 'orders', DEPTH, () => import('./DepthPane.tsx'));
