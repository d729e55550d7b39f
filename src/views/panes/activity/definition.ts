import { definePane } from '../definition.ts';
import { ACTIVITY } from './settings.ts';

export const activityPane = definePane('everything asked, answered, triggered and changed', 'name', ACTIVITY, () => import('./ActivityPane.tsx'));
