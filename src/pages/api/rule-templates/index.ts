import { savedList } from '../_saved.ts';

export const ALL = savedList('/api/rule-templates', 'rule-template');
