import { definePane } from '../definition.ts';
import { QUOTES } from './settings.ts';

export const quoteTablePane = definePane('any instruments side by side, to trade from', 'selected', QUOTES, () => import('./QuoteTablePane.tsx'));
