/** Cumulative normal distribution (Abramowitz and Stegun, Handbook of Mathematical Functions, 26.2.17; error below 7.5e-8). */
function normal(x: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(x));
  const tail =
    (Math.exp((-x * x) / 2) / Math.sqrt(2 * Math.PI)) * t * (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return x >= 0 ? 1 - tail : tail;
}

/**
 * European option without interest (Black and Scholes, The Pricing of Options and Corporate Liabilities, 1973),
 * as the market makers of the demo world quote it.
 */
export function optionValue(price: number, strike: number, years: number, volatility: number, right: 'call' | 'put'): number {
  const inner = right === 'call' ? Math.max(0, price - strike) : Math.max(0, strike - price);
  if (years <= 0) return inner;
  const spread = volatility * Math.sqrt(years);
  const d1 = Math.log(price / strike) / spread + spread / 2;
  const call = price * normal(d1) - strike * normal(d1 - spread);
  return Math.max(inner, right === 'call' ? call : call - price + strike);
}
