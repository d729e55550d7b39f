import { NO_MONEY, money } from '../src/core/number/index.ts';
import { NO_RULES } from '../src/core/risk/index.ts';
import type { AccountTerms, Commission } from '../src/core/portfolio/index.ts';

const FIRST_DAY = '2026-03-02';

const equity = (kind: 'share' | 'fund'): Commission => ({
  kind,
  basis: 'percent',
  rate: money('0.10'),
  minimum: money('2.00'),
  maximum: money('40.00'),
  exchangeFee: NO_MONEY,
  currency: 'EUR',
  from: FIRST_DAY,
});

const contract = (kind: 'future' | 'option', rate: string): Commission => ({
  kind,
  basis: 'per-contract',
  rate: money(rate),
  minimum: null,
  maximum: null,
  exchangeFee: money('0.80'),
  currency: 'EUR',
  from: FIRST_DAY,
});

const MAIN: AccountTerms = {
  id: 'MAIN',
  user: 'demo',
  currency: 'EUR',
  products: ['overnight', 'intraday'],
  venues: ['HALM', 'QUAY'],
  kinds: ['share', 'fund', 'future', 'option'],
  cash: money('100000.00'),
  wallets: [],
  commission: [equity('share'), equity('fund'), contract('future', '1.20'), contract('option', '1.20')],
};

/** The accounts of the demo users, tapes included. */
export const ACCOUNTS: readonly AccountTerms[] = [
  MAIN,
  {
    ...MAIN,
    id: 'EVAL',
    venues: ['HALM'],
    kinds: ['future'],
    cash: money('25000.00'),
    commission: [contract('future', '0.90')],
    rules: {
      ...NO_RULES,
      dayLossLimit: money('500.00'),
      onDayLoss: 'close-out',
      maxPositionQuantity: 5n * 10n ** 8n,
      coolDownMinutes: 15,
      coolDownAfterLosses: 3,
    },
  },
  {
    ...MAIN,
    id: 'NIGHT',
    products: ['overnight'],
    venues: ['VSPR'],
    kinds: ['spot', 'inverse'],
    cash: NO_MONEY,
    wallets: [
      { asset: 'EUR', purpose: 'spot', total: money('20000.00') },
      { asset: 'CARB', purpose: 'spot', total: NO_MONEY },
      { asset: 'CARB', purpose: 'contract', total: money('50') },
    ],
    commission: [
      { kind: 'spot', basis: 'percent', rate: money('0.10'), minimum: null, maximum: null, exchangeFee: NO_MONEY, currency: 'EUR', from: FIRST_DAY },
      { kind: 'inverse', basis: 'percent', rate: money('0.05'), minimum: null, maximum: null, exchangeFee: NO_MONEY, currency: 'CARB', from: FIRST_DAY },
    ],
  },
  { ...MAIN, id: 'OTHER', user: 'second' },
];

/** On a tape no account begins with rules. */
export const TAPE_ACCOUNTS: readonly AccountTerms[] = ACCOUNTS.map(({ rules: _rules, ...terms }) => terms);

export const USERS = [
  { name: 'demo', password: 'kavix-demo' },
  { name: 'second', password: 'kavix-second' },
] as const;
