import { definePane } from '../definition.ts';
import { CHART } from './settings.ts';

export const chartPane = definePane('bars of one instrument, studies, drawings, orders', 'orders', CHART, () => import('./ChartPane.tsx'));
