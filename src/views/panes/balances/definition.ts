import { definePane } from '../definition.ts';

export const balancesPane = definePane('cash and wallets: total, tied up, available', 'name', {}, () => import('./BalancesPane.tsx'));
