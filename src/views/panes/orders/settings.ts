import { choice, columns } from '../../workspace/settings.ts';

export const ORDERS = {
  columns: columns(
    [['type', 'type'], ['price', 'price'], ['until', 'until'], ['state', 'state'], ['waits', 'waits'], ['filled', 'filled'], ['held', 'held'], ['role', 'role'], ['account', 'account']], // prettier-ignore
    ['type', 'price', 'state', 'waits', 'filled', 'held', 'account'],
  ),
  by: choice('Group by', [['none', 'nothing'], ['instrument', 'instrument'], ['account', 'account'], ['side', 'side'], ['group', 'group']]), // prettier-ignore
} as const;
