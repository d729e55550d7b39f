import { definePane } from '../definition.ts';
import { WATCHLIST } from './settings.ts';

export const watchlistPane = definePane('your own lists, with notes and letters', 'selected', WATCHLIST, () => import('./WatchlistPane.tsx'));
