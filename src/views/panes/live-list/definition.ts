import { definePane } from '../definition.ts';
import { LIVE_LIST } from './settings.ts';

export const liveListPane = definePane('risers, fallers, the active, over all that trades', 'name', LIVE_LIST, () => import('./LiveListPane.tsx'));
