import { savedDocument } from '../_saved.ts';

export const ALL = savedDocument('/api/watchlists/{name}', 'watchlist');
