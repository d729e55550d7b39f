import { choice, columns, DECIMALS } from '../../workspace/settings.ts';

export const QUOTES = {
  columns: columns(
    [
      ['last', 'last'],
      ['change', 'change'],
      ['percent', '%'],
      ['bidQuantity', 'bid qty'],
      ['bid', 'bid'],
      ['ask', 'ask'],
      ['askQuantity', 'ask qty'],
      ['balance', 'balance'],
      ['day', 'day line'],
      ['open', 'open'],
      ['high', 'high'],
      ['low', 'low'],
      ['volume', 'volume'],
      ['vwap', 'VWAP'],
      ['previous', 'previous'],
      ['spread', 'spread'],
      ['lastQuantity', 'last qty'],
      ['lastTime', 'last time'],
      ['state', 'state'],
      ['position', 'position'],
      ['result', 'open result'],
      ['name', 'name'],
      ['kind', 'kind'],
      ['venue', 'venue'],
      ['sector', 'sector'],
      ['limits', 'price limits'],
    ],
    ['last', 'percent', 'bidQuantity', 'bid', 'ask', 'askQuantity', 'balance', 'day', 'position'],
  ),
  by: choice('Group by', [['none', 'nothing'], ['venue', 'venue'], ['kind', 'kind'], ['sector', 'sector']]), // prettier-ignore
  decimals: DECIMALS,
} as const;
