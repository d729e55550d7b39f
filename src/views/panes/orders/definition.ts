import { definePane } from '../definition.ts';
import { ORDERS } from './settings.ts';

export const ordersPane = definePane('working, done and rejected orders', 'name', ORDERS, () => import('./OrdersPane.tsx'));
