import { density, normal } from './normal.ts';

export type Right = 'call' | 'put';

/** A European option on something that pays a continuous yield; rates a year, continuous. */
export interface OptionTerms {
  readonly right: Right;
  readonly spot: number;
  readonly strike: number;
  readonly years: number;
  readonly rate: number;
  readonly dividendYield: number;
}

/** Delta per 1.00, gamma per 1.00², theta per calendar day, vega and rho per percentage point. */
export interface OptionValue {
  readonly price: number;
  readonly delta: number;
  readonly gamma: number;
  readonly theta: number;
  readonly vega: number;
  readonly rho: number;
}

const DAYS = 365;
const MS_A_YEAR = 31_536_000_000;

/** Years of 365 days between two moments. */
export const yearsBetween = (from: number, to: number): number => (to - from) / MS_A_YEAR;

export const intrinsic = ({ right, spot, strike }: Pick<OptionTerms, 'right' | 'spot' | 'strike'>): number =>
  Math.max(0, right === 'call' ? spot - strike : strike - spot);

/**
 * Value and greeks in closed form (Black and Scholes, The Pricing of Options and Corporate Liabilities, 1973; Merton,
 * Theory of Rational Option Pricing, 1973). At and after expiry the intrinsic value, delta 0 or ±1, all else 0.
 */
export function valueOption(terms: OptionTerms, volatility: number): OptionValue {
  const { right, spot, strike, years, rate, dividendYield } = terms;
  const sign = right === 'call' ? 1 : -1;
  if (years <= 0) {
    const price = intrinsic(terms);
    return { price, delta: price > 0 ? sign : 0, gamma: 0, theta: 0, vega: 0, rho: 0 };
  }
  const root = Math.sqrt(years);
  const spread = volatility * root;
  const paid = Math.exp(-dividendYield * years);
  const discount = Math.exp(-rate * years);
  const forward = Math.log(spot / strike) + (rate - dividendYield) * years;
  if (spread === 0) {
    const price = Math.max(0, sign * (spot * paid - strike * discount));
    return { price, delta: price > 0 ? sign * paid : 0, gamma: 0, theta: 0, vega: 0, rho: 0 };
  }
  const d1 = forward / spread + spread / 2;
  const d2 = d1 - spread;
  const [n1, n2] = [normal(sign * d1), normal(sign * d2)];
  const pdf = density(d1);
  const own = spot * paid * n1;
  const owed = strike * discount * n2;
  const decay = -(spot * paid * pdf * volatility) / (2 * root) + sign * (dividendYield * own - rate * owed);
  return {
    price: Math.max(0, sign * (own - owed)),
    delta: sign * paid * n1,
    gamma: (paid * pdf) / (spot * spread),
    theta: decay / DAYS,
    vega: (spot * paid * pdf * root) / 100,
    rho: (sign * owed * years) / 100,
  };
}

export const LEAST_VOLATILITY = 0.001;
export const MOST_VOLATILITY = 5;
const CLOSE_ENOUGH = 1e-13;
const MOST_STEPS = 200;

/**
 * The volatility at which an option has a price: bracketed, then refined by steps along its vega that never leave the
 * bracket.
 *
 * @returns null outside the values at 0.1 % and 500 %, and at or after expiry
 */
export function impliedVolatility(terms: OptionTerms, price: number): number | null {
  if (terms.years <= 0 || !Number.isFinite(price)) return null;
  let low = LEAST_VOLATILITY;
  let high = MOST_VOLATILITY;
  const [least, most] = [valueOption(terms, low).price, valueOption(terms, high).price];
  if (price < least || price > most) return null;
  if (price === least) return low;
  let at = 0.3;
  for (let step = 0; step < MOST_STEPS && high - low > CLOSE_ENOUGH; step++) {
    const { price: value, vega } = valueOption(terms, at);
    if (value > price) high = at;
    else low = at;
    const newton = at - (value - price) / (vega * 100);
    const next = newton > low && newton < high ? newton : (low + high) / 2;
    if (Math.abs(next - at) <= CLOSE_ENOUGH) return next;
    at = next;
  }
  return at;
}
