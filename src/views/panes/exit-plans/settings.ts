import { choice, columns } from '../../workspace/settings.ts';

export const EXIT_PLANS = {
  columns: columns(
    [['account', 'account'], ['name', 'plan'], ['held', 'held'], ['steps', 'waits for'], ['since', 'since']], // prettier-ignore
    ['account', 'name', 'held', 'steps', 'since'],
  ),
  by: choice('Group by', [['none', 'nothing'], ['account', 'account'], ['state', 'state']]), // prettier-ignore
} as const;
