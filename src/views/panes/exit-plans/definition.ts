import { definePane } from '../definition.ts';
import { EXIT_PLANS } from './settings.ts';

export const exitPlansPane = definePane('exit plans that run, and those that are saved', 'name', EXIT_PLANS, () => import('./ExitPlansPane.tsx'));
