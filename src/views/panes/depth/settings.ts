import { columns, DECIMALS, GROUP, toggle } from '../../workspace/settings.ts';

export const DEPTH = {
  group: GROUP,
  columns: columns([['orders', 'orders'], ['total', 'running total']], ['orders', 'total']), // prettier-ignore
  statistics: toggle('Day statistics', true),
  decimals: DECIMALS,
} as const;
