import { choice, columns } from '../../workspace/settings.ts';

export const CHAIN = {
  columns: columns(
    [
      ['position', 'position'],
      ['impliedVolatility', 'volatility'],
      ['delta', 'delta'],
      ['gamma', 'gamma'],
      ['theta', 'theta'],
      ['vega', 'vega'],
      ['mid', 'value'],
      ['last', 'last'],
      ['volume', 'volume'],
    ],
    ['position', 'impliedVolatility', 'delta'],
  ),
  range: choice('Strikes', [
    ['all', 'all'],
    ['3', '3 either side of the spot'],
    ['5', '5 either side of the spot'],
    ['10', '10 either side of the spot'],
    ['delta', 'deltas from 0.05 to 0.95'],
  ]),
} as const;
