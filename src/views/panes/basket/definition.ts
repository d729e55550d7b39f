import { definePane } from '../definition.ts';
import { BASKET } from './settings.ts';

export const basketPane = definePane('many orders written, checked and sent as one', 'words', BASKET, () => import('./BasketPane.tsx'));
