import type { RulesText } from '../../../core/risk/index.ts';

interface Template {
  readonly name: string;
  readonly about: string;
  readonly rules: Partial<RulesText>;
}

/** Sets of rules to begin from; every figure is the trader's to change. */
export const TEMPLATES: readonly Template[] = [
  {
    name: 'first month',
    about: 'small, closed out, with pauses',
    rules: {
      dayLossLimit: '150.00',
      onDayLoss: 'close-out',
      instrumentLossLimit: '75.00',
      onInstrumentLoss: 'close-out',
      coolDownMinutes: 30,
      coolDownAfterLosses: 2,
      maxOrdersPerMinute: 6,
      maxDistancePercent: '3',
      openRisk: 'refuse',
      noTradeWindows: [{ from: '09:00', to: '09:05' }],
    },
  },
  {
    name: 'steady',
    about: 'a day limit that closes, a cool-down after three losses',
    rules: { dayLossLimit: '300.00', onDayLoss: 'close-out', coolDownMinutes: 15, coolDownAfterLosses: 3, maxDistancePercent: '5', openRisk: 'warn' },
  },
  {
    name: 'evaluation account',
    about: 'a hard day limit and a small position',
    rules: { dayLossLimit: '500.00', onDayLoss: 'close-out', maxPositionQuantity: '5', coolDownMinutes: 15, coolDownAfterLosses: 3 },
  },
];
