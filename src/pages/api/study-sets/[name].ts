import { savedDocument } from '../_saved.ts';

export const ALL = savedDocument('/api/study-sets/{name}', 'study-set');
