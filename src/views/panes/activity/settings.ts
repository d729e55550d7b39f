import { choice, columns } from '../../workspace/settings.ts';

export const ACTIVITY = {
  columns: columns(
    [['by', 'by'], ['account', 'account'], ['instrument', 'instrument'], ['order', 'order'], ['kind', 'kind']], // prettier-ignore
    ['by', 'account', 'instrument'],
  ),
  only: choice('Only', [['all', 'everything'], ['instrument', 'the instrument of its letter']]), // prettier-ignore
} as const;
