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

/** What of an option's terms its value is made of at every volatility: `forward` is the logarithm of how far it is in the money. */
const carried = ({ right, spot, strike, years, rate, dividendYield }: OptionTerms) => ({
  sign: right === 'call' ? 1 : -1,
  root: Math.sqrt(years),
  paid: Math.exp(-dividendYield * years),
  discount: Math.exp(-rate * years),
  forward: Math.log(spot / strike) + (rate - dividendYield) * years,
});

/**
 * Value and greeks in closed form (Black and Scholes, The Pricing of Options and Corporate Liabilities, 1973; Merton,
 * Theory of Rational Option Pricing, 1973). At and after expiry the intrinsic value, delta 0 or ±1, all else 0.
 */
export function valueOption(terms: OptionTerms, volatility: number): OptionValue {
  const { spot, strike, years, rate, dividendYield } = terms;
  const { sign, root, paid, discount, forward } = carried(terms);
  if (years <= 0) {
    const price = intrinsic(terms);
    return { price, delta: price > 0 ? sign : 0, gamma: 0, theta: 0, vega: 0, rho: 0 };
  }
  const spread = volatility * root;
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
/** A cubic step so short leaves nothing that a double could hold. */
const SETTLED = 1e-7;
const MOST_STEPS = 200;

/**
 * The volatility at which an option has a price: bracketed, then refined by steps along its vega and how that bends
 * (Halley's method), which never leave the bracket. It begins where the price bends over (Manaster and Koehler, The
 * Calculation of Implied Variances from the Black-Scholes Model, 1982).
 *
 * @returns null outside the values at 0.1 % and 500 %, and at or after expiry
 */
export function impliedVolatility(terms: OptionTerms, price: number): number | null {
  if (terms.years <= 0 || !Number.isFinite(price)) return null;
  const { sign, root, paid, discount, forward } = carried(terms);
  const [own, owed] = [terms.spot * paid, terms.strike * discount];
  const valueAt = (volatility: number): number => {
    const spread = volatility * root;
    const d1 = forward / spread + spread / 2;
    return Math.max(0, sign * (own * normal(sign * d1) - owed * normal(sign * (d1 - spread))));
  };
  let [low, high] = [LEAST_VOLATILITY, MOST_VOLATILITY];
  const least = valueAt(low);
  if (price < least) return null;
  if (price === least) return low;
  let at = Math.min(Math.max(Math.sqrt((2 * Math.abs(forward)) / terms.years), 0.15), 1.5);
  for (let step = 0; step < MOST_STEPS && high - low > CLOSE_ENOUGH; step++) {
    const off = valueAt(at) - price;
    if (off > 0) high = at;
    else low = at;
    const spread = at * root;
    const d1 = forward / spread + spread / 2;
    const newton = off / (own * density(d1) * root);
    const bend = 1 - (newton * d1 * (d1 - spread)) / (2 * at);
    const wanted = at - (bend > 0.5 && bend < 2 ? newton / bend : newton);
    const inside = wanted > low && wanted < high;
    const next = inside ? wanted : (low + high) / 2;
    const settled = Math.abs(next - at) <= (inside ? SETTLED : CLOSE_ENOUGH);
    at = next;
    if (settled) break;
  }
  // Only what was pushed against the upper end can lie beyond it.
  return at > MOST_VOLATILITY - SETTLED && price > valueAt(MOST_VOLATILITY) ? null : at;
}
