import { columns, DECIMALS } from '../../workspace/settings.ts';

export const WATCHLIST = {
  columns: columns([['last', 'last'], ['percent', '%'], ['change', 'change'], ['volume', 'volume'], ['mark', 'letter'], ['note', 'note']], ['last', 'percent']), // prettier-ignore
  decimals: DECIMALS,
} as const;
