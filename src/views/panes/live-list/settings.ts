import { number } from '../../workspace/settings.ts';

export const LIVE_LIST = { rows: number('Rows', 5, 200, 40) } as const;
