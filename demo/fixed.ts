import { asPrice, asQuantity, type Fundamentals, type Instrument, type MarginRates, type TickBand } from '../src/core/instrument/index.ts';
import { Chance, textKey } from '../src/core/random/index.ts';

const EQUITY: MarginRates = { overnight: 5000, intraday: 2000, maintenance: 1500 };
const FUTURE: MarginRates = { overnight: 1000, intraday: 500, maintenance: 400 };
const INVERSE: MarginRates = { overnight: 1000, intraday: 1000, maintenance: 500 };
const FULL: MarginRates = { overnight: 10000, intraday: 10000, maintenance: 10000 };
const SHORT_OPTION: MarginRates = { overnight: 2000, intraday: 2000, maintenance: 2000 };

export const MARGINS = { EQUITY, FUTURE, INVERSE, FULL, SHORT_OPTION };

const band = (tick: number, from = 0): TickBand => ({ from: asPrice(from), tick: asPrice(tick) });

const base = {
  currency: 'EUR',
  settlesIn: 'EUR',
  sector: null,
  priceDecimals: 2,
  quantityDecimals: 0,
  minimumQuantity: asQuantity(1),
  multiplier: 1,
  underlying: null,
  expiry: null,
  strike: null,
  right: null,
  fundamentals: null,
  listsOn: null,
} as const;

/** What an issuer earns and pays, from its ticker alone: both listings of a company say the same. */
export function fundamentalsOf(ticker: string, price: number): Fundamentals {
  const chance = new Chance(textKey(ticker), 77);
  const shares = Math.round(Math.exp(15.5 + 3 * chance.next()) / 10_000) * 10_000;
  const earnings = chance.next() < 0.12 ? -price * 0.08 * chance.next() : price / (8 + 18 * chance.next());
  const dividend = earnings <= 0 || chance.next() < 0.2 ? 0 : earnings * (0.2 + 0.5 * chance.next());
  return { sharesOutstanding: String(shares), earningsPerShare: earnings.toFixed(2), dividendPerShare: dividend.toFixed(2) };
}

/** A share of the demo world with the usual tick. */
export const share = (ticker: string, venue: 'HALM' | 'QUAY', name: string, sector: string): Instrument => ({
  ...base,
  id: `${ticker}.${venue}`,
  ticker,
  venue,
  name,
  kind: 'share',
  sector,
  tickBands: [band(1)],
  margin: EQUITY,
});

/** A future; `tick` in units of `priceDecimals`. */
export const future = (
  ticker: string,
  name: string,
  terms: { priceDecimals: number; tick: number; multiplier: number; underlying: string | null; expiry: string; sector?: string },
): Instrument => ({
  ...base,
  id: `${ticker}.HALM`,
  ticker,
  venue: 'HALM',
  name,
  kind: 'future',
  sector: terms.sector ?? null,
  priceDecimals: terms.priceDecimals,
  tickBands: [band(terms.tick)],
  multiplier: terms.multiplier,
  underlying: terms.underlying,
  expiry: terms.expiry,
  margin: FUTURE,
});

export const fund = (ticker: string, name: string, sector: string | null): Instrument => ({
  ...base,
  id: `${ticker}.HALM`,
  ticker,
  venue: 'HALM',
  name,
  kind: 'fund',
  sector,
  tickBands: [band(1)],
  margin: EQUITY,
});

export const option = (ticker: string, name: string, terms: { underlying: string; expiry: string; strike: number; right: 'call' | 'put' }): Instrument => ({
  ...base,
  id: `${ticker}.HALM`,
  ticker,
  venue: 'HALM',
  name,
  kind: 'option',
  tickBands: [band(1)],
  multiplier: 100,
  ...terms,
  strike: asPrice(terms.strike),
  margin: SHORT_OPTION,
});

export const spot = (ticker: string, name: string): Instrument => ({
  ...base,
  id: `${ticker}.VSPR`,
  ticker,
  venue: 'VSPR',
  name,
  kind: 'spot',
  quantityDecimals: 4,
  tickBands: [band(1)],
  margin: FULL,
});

const FIXED_PRICES: Readonly<Record<string, number>> = { GANET: 40.6, KELPA: 9.96, BRINE: 27.3, HALMF: 164 };
const withFundamentals = (instrument: Instrument): Instrument => {
  const price = FIXED_PRICES[instrument.ticker];
  return price === undefined ? instrument : { ...instrument, fundamentals: fundamentalsOf(instrument.ticker, price) };
};

const FIXED: readonly Instrument[] = [
  share('GANET', 'HALM', 'Gannet Shipping', 'Shipping'),
  share('GANET', 'QUAY', 'Gannet Shipping', 'Shipping'),
  { ...share('KELPA', 'HALM', 'Kelpa Foods', 'Seaweed'), priceDecimals: 3, tickBands: [band(5), band(10, 10_000)] },
  share('BRINE', 'HALM', 'Brine and Daughters', 'Salt'),
  { ...base, id: 'HALM40.HALM', ticker: 'HALM40', venue: 'HALM', name: 'Halm 40', kind: 'index', tickBands: [band(1)], margin: FULL },
  fund('HALMF', 'Halm 40 Fund', null),
  future('SALMO-JUN26', 'Salmon future', { priceDecimals: 2, tick: 5, multiplier: 500, underlying: null, expiry: '2026-06-19', sector: 'Fisheries' }),
  future('HALM40-JUN26', 'Halm 40 future', { priceDecimals: 1, tick: 5, multiplier: 10, underlying: 'HALM40.HALM', expiry: '2026-06-19' }),
  future('HALM40M-JUN26', 'Halm 40 micro future', { priceDecimals: 1, tick: 5, multiplier: 1, underlying: 'HALM40.HALM', expiry: '2026-06-19' }),
  option('GANET-APR26-40C', 'Gannet call 40', { underlying: 'GANET.HALM', expiry: '2026-04-17', strike: 4000, right: 'call' }),
  spot('CARB-EUR', 'Carbon spot, tonnes'),
  {
    ...base,
    id: 'CARBI.VSPR',
    ticker: 'CARBI',
    venue: 'VSPR',
    name: 'Carbon inverse',
    kind: 'inverse',
    settlesIn: 'CARB',
    tickBands: [band(5)],
    margin: INVERSE,
  },
];

/** The fixed instruments, for documentation, tapes and tests. */
export const FIXED_INSTRUMENTS: readonly Instrument[] = FIXED.map(withFundamentals);
