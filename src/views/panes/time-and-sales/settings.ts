import { columns, number } from '../../workspace/settings.ts';

export const PRINTS = {
  least: number('Smallest quantity shown', 0, 1_000_000, 0),
  large: number('Large from quantity', 0, 10_000_000, 0),
  columns: columns([['time', 'time'], ['side', 'aggressor'], ['value', 'value']], ['time', 'side']), // prettier-ignore
} as const;
