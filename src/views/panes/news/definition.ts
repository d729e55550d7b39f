import { definePane } from '../definition.ts';
import { NEWS } from './settings.ts';

export const newsPane = definePane('headlines, of one instrument or all', 'name', NEWS, () => import('./NewsPane.tsx'));
