import { columns } from '../../workspace/settings.ts';

export const BASKET = {
  columns: columns(
    [
      ['stop', 'stop'],
      ['until', 'until'],
      ['account', 'account'],
      ['plan', 'exit plan'],
      ['setup', 'setup'],
      ['quote', 'bid / ask'],
      ['day', 'day %'],
      ['position', 'position'],
    ],
    ['until', 'account', 'quote'],
  ),
} as const;
