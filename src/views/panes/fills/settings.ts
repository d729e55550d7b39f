import { choice, columns } from '../../workspace/settings.ts';

export const FILLS = {
  columns: columns([['price', 'price'], ['fee', 'fee'], ['realised', 'realised'], ['account', 'account']], ['price', 'fee', 'realised', 'account']), // prettier-ignore
  by: choice('Group by', [['none', 'nothing'], ['instrument', 'instrument'], ['account', 'account'], ['side', 'side']]), // prettier-ignore
} as const;
