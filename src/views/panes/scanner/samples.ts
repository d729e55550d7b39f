import type { ScanDraft } from './draft.ts';

interface Sample {
  readonly name: string;
  readonly about: string;
  readonly draft: Partial<ScanDraft> & { readonly phrases: readonly string[] };
}

const SHARES = { kinds: ['share'] } as const;

/** Scans to begin with, by what they look for: every line a phrase that can be read and changed. */
export const SAMPLES: Readonly<Record<string, readonly Sample[]>> = {
  movers: [
    {
      name: 'Strong all day',
      about: 'up on volume, near the high',
      draft: { universe: SHARES, phrases: ['change % > 2 %', 'relative volume > 1.5', 'last within 0.5 % of high'] },
    },
    {
      name: 'Weak all day',
      about: 'down on volume, near the low',
      draft: { universe: SHARES, phrases: ['change % < -2 %', 'relative volume > 1.5', 'last within 0.5 % of low'] },
    },
  ],
  gaps: [
    {
      name: 'Gap that holds',
      about: 'opened higher and stayed above the open',
      draft: { universe: SHARES, phrases: ['gap % > 1 %', 'last > open', 'low > previous high'] },
    },
    {
      name: 'Gap that fills',
      about: 'opened higher and came back to yesterday',
      draft: { universe: SHARES, phrases: ['gap % > 1 %', 'last within 0.3 % of previous close'] },
    },
  ],
  pullbacks: [
    {
      name: 'Back to the mean',
      about: 'a rise over weeks, now at its average',
      draft: { universe: SHARES, phrases: ['sma(20) > sma(50)', 'change over 4 weeks > 4 %', 'last within 1 % of sma(20)'] },
    },
    {
      name: 'Tired fall',
      about: 'oversold and turning on five minutes',
      draft: { universe: SHARES, phrases: ['rsi(14) on 5m < 35', 'close on 5m turns up within 3 bars'] },
    },
  ],
  'quiet before news': [
    {
      name: 'Narrow days',
      about: 'a range of half its usual, little volume',
      draft: { universe: SHARES, phrases: ['range < atr(14) / 2', 'relative volume < 0.7', 'earnings per share > 0'] },
    },
  ],
  volume: [
    { name: 'Unusual volume', about: 'three times what is usual by now', draft: { universe: {}, phrases: ['relative volume > 3', 'turnover > 100000'] } },
    {
      name: 'Volume before price',
      about: 'traded a lot, hardly moved',
      draft: { universe: SHARES, phrases: ['relative volume > 2', 'change % between -0.5 % and 0.5 %'] },
    },
  ],
  value: [
    {
      name: 'Cheap on earnings',
      about: 'earns a tenth of its price, above its average',
      draft: { universe: SHARES, phrases: ['price to earnings < 10', 'price to earnings > 0', 'last > sma(50)'] },
    },
  ],
  dividend: [
    { name: 'Pays well', about: 'a yield over four percent, calm', draft: { universe: SHARES, phrases: ['dividend yield > 4 %', 'atr(14) < last / 50'] } },
  ],
  'spreads for scalping': [
    {
      name: 'Tight and busy',
      about: 'two ticks wide at most, traded without pause',
      draft: { universe: { kinds: ['share', 'future'] }, phrases: ['spread <= 2 ticks', 'relative volume > 1', 'open now'] },
    },
  ],
  'options by volatility': [
    {
      name: 'Wide underlyings',
      about: 'with options, moving more than usual',
      draft: { universe: SHARES, phrases: ['optionable', 'range > atr(14)', 'relative volume > 1'] },
    },
  ],
};
