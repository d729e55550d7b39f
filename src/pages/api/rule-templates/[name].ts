import { savedDocument } from '../_saved.ts';

export const ALL = savedDocument('/api/rule-templates/{name}', 'rule-template');
