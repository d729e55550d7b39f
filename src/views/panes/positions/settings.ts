import { choice, columns } from '../../workspace/settings.ts';

export const POSITIONS = {
  columns: columns(
    [['account', 'account'], ['average', 'average'], ['mark', 'mark'], ['open', 'open'], ['percent', 'open %'], ['ticks', 'open ticks'], ['r', 'open R'], ['net', 'net today'], ['stopped', 'if stopped'], ['delta', 'delta'], ['gamma', 'gamma'], ['theta', 'theta'], ['vega', 'vega']], // prettier-ignore
    ['account', 'average', 'mark', 'open', 'net', 'stopped'],
  ),
  by: choice('Group by', [['none', 'nothing'], ['account', 'account'], ['venue', 'venue'], ['kind', 'kind'], ['underlying', 'underlying']]), // prettier-ignore
} as const;
