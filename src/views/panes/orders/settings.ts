import { choice, columns } from '../../workspace/settings.ts';

export const ORDERS = {
  columns: columns(
    [['type', 'type'], ['price', 'price'], ['until', 'until'], ['state', 'state'], ['waits', 'waits'], ['filled', 'filled'], ['account', 'account']], // prettier-ignore
    ['type', 'price', 'state', 'waits', 'filled', 'account'],
  ),
  by: choice('Group by', [['none', 'nothing'], ['instrument', 'instrument'], ['account', 'account'], ['side', 'side']]), // prettier-ignore
} as const;
