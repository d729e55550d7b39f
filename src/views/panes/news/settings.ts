import { toggle } from '../../workspace/settings.ts';

export const NEWS = { all: toggle('All headlines', false) } as const;
