import { expect } from 'chai';
import fc from 'fast-check';
import { density, impliedVolatility, normal, payoffOf, valueOption, type OptionTerms, type PayoffLeg } from '../../src/core/options/index.ts';

const RUNS = Number(process.env['KAVIX_RUNS'] ?? 2000);

const terms = (right: 'call' | 'put', spot: number, strike: number, years: number, rate: number, dividendYield = 0): OptionTerms => ({
  right,
  spot,
  strike,
  years,
  rate,
  dividendYield,
});

/** The value as an integral over what the share could cost at the end (Simpson's rule over ±12 deviations, split at the strike). */
function integrated({ right, spot, strike, years, rate, dividendYield }: OptionTerms, volatility: number): number {
  const spread = volatility * Math.sqrt(years);
  const mean = Math.log(spot) + (rate - dividendYield - (volatility * volatility) / 2) * years;
  const kink = (Math.log(strike) - mean) / spread;
  const [from, to] = right === 'call' ? [Math.max(-12, kink), 14] : [-12, Math.min(14, kink)];
  if (from >= to) return 0;
  const steps = 4000;
  const width = (to - from) / steps;
  const of = (z: number): number => density(z) * (right === 'call' ? Math.exp(mean + spread * z) - strike : strike - Math.exp(mean + spread * z));
  let sum = of(from) + of(to);
  for (let i = 1; i < steps; i++) sum += of(from + i * width) * (i % 2 === 1 ? 4 : 2);
  return (Math.exp(-rate * years) * sum * width) / 3;
}

const anyOption = fc.record({
  right: fc.constantFrom('call' as const, 'put' as const),
  spot: fc.double({ min: 5, max: 200, noNaN: true }),
  moneyness: fc.double({ min: 0.6, max: 1.6, noNaN: true }),
  years: fc.double({ min: 0.02, max: 3, noNaN: true }),
  rate: fc.double({ min: 0, max: 0.12, noNaN: true }),
  dividendYield: fc.double({ min: 0, max: 0.08, noNaN: true }),
  volatility: fc.double({ min: 0.08, max: 0.9, noNaN: true }),
});

describe('the normal distribution', () => {
  // Abramowitz and Stegun, Handbook of Mathematical Functions, table 26.1; tails from its series, to 15 digits.
  for (const [x, p] of [
    [0, 0.5],
    [0.1, 0.539827837277029],
    [1, 0.841344746068543],
    [1.96, 0.97500210485178],
    [-3, 0.00134989803163009],
    [-6, 9.86587645037698e-10],
    [-10, 7.61985302416053e-24],
  ] as const)
    it(`is ${p} at ${x}`, () => expect(normal(x) / p - 1).to.be.within(-1e-14, 1e-14));

  it('and its opposite sum to 1', () =>
    fc.assert(
      fc.property(fc.double({ min: -8, max: 8, noNaN: true }), (x) => Math.abs(normal(x) + normal(-x) - 1) < 3e-16),
      { numRuns: RUNS },
    ));
});

describe('an option', () => {
  // Hull, Options, Futures, and Other Derivatives: 42, 40, half a year, 10 %, 20 %; and an index with a yield of 3 %.
  it('is worth what is published of it', () => {
    expect(valueOption(terms('call', 42, 40, 0.5, 0.1), 0.2).price).to.be.closeTo(4.759422392871532, 1e-12);
    expect(valueOption(terms('put', 42, 40, 0.5, 0.1), 0.2).price).to.be.closeTo(0.8085993729000922, 1e-12);
    expect(valueOption(terms('call', 930, 900, 2 / 12, 0.08, 0.03), 0.2).price).to.be.closeTo(51.8329, 1e-4);
  });

  it('is worth the integral over all ends', () => {
    fc.assert(
      fc.property(anyOption, ({ moneyness, volatility, ...of }) => {
        const own = { ...of, strike: of.spot * moneyness };
        expect(valueOption(own, volatility).price).to.be.closeTo(integrated(own, volatility), 1e-8 * of.spot);
      }),
      { numRuns: Math.ceil(RUNS / 10) },
    );
  });

  it('keeps parity, and its greeks are its slopes', () => {
    fc.assert(
      fc.property(anyOption, ({ moneyness, volatility, ...of }) => {
        const own = { ...of, strike: of.spot * moneyness };
        const [call, put] = [valueOption({ ...own, right: 'call' }, volatility), valueOption({ ...own, right: 'put' }, volatility)];
        const forward = of.spot * Math.exp(-of.dividendYield * of.years) - own.strike * Math.exp(-of.rate * of.years);
        expect(call.price - put.price).to.be.closeTo(forward, 1e-12 * of.spot);
        const value = valueOption(own, volatility);
        const slope = (up: number, down: number, step: number): number => (up - down) / (2 * step);
        const step = of.spot * 1e-5;
        const [up, down] = [valueOption({ ...own, spot: of.spot + step }, volatility), valueOption({ ...own, spot: of.spot - step }, volatility)];
        expect(value.delta).to.be.closeTo(slope(up.price, down.price, step), 1e-6);
        expect(value.gamma).to.be.closeTo(slope(up.delta, down.delta, step), 1e-5 / Math.min(1, of.spot / 20));
        expect(value.vega * 100).to.be.closeTo(
          slope(valueOption(own, volatility + 1e-5).price, valueOption(own, volatility - 1e-5).price, 1e-5),
          1e-4 * of.spot,
        );
        const later = slope(
          valueOption({ ...own, years: of.years + 1e-6 }, volatility).price,
          valueOption({ ...own, years: of.years - 1e-6 }, volatility).price,
          1e-6,
        );
        expect(value.theta * 365).to.be.closeTo(-later, 1e-3 * of.spot);
      }),
      { numRuns: RUNS },
    );
  });

  it('has an implied volatility that gives its price back, and none outside what 0.1 % and 500 % give', () => {
    fc.assert(
      fc.property(anyOption, ({ moneyness, volatility, ...of }) => {
        const own = { ...of, strike: of.spot * moneyness };
        const { price, vega } = valueOption(own, volatility);
        // Where a price says nothing of its volatility, none can be found again.
        if (vega * 100 < 1e-3 * of.spot) return;
        expect(impliedVolatility(own, price)).to.be.closeTo(volatility, 1e-10);
      }),
      { numRuns: RUNS },
    );
    const own = terms('call', 42, 40, 0.5, 0.1);
    const [least, most] = [0.001, 5].map((volatility) => valueOption(own, volatility).price) as [number, number];
    expect(impliedVolatility(own, least)).to.equal(0.001);
    expect(impliedVolatility(own, most)).to.be.closeTo(5, 1e-10);
    expect([impliedVolatility(own, least - 1e-9), impliedVolatility(own, most + 1e-9)]).to.deep.equal([null, null]);
    expect(impliedVolatility(own, 1)).to.equal(null);
    expect(impliedVolatility(own, 42)).to.equal(null);
    expect(impliedVolatility({ ...own, years: 0 }, 3)).to.equal(null);
  });

  it('is its intrinsic value at expiry, with a delta of 0 or 1', () => {
    expect(valueOption(terms('call', 42, 40, 0, 0.1), 0.2)).to.deep.equal({ price: 2, delta: 1, gamma: 0, theta: 0, vega: 0, rho: 0 });
    expect(valueOption(terms('put', 42, 40, -1, 0.1), 0.2)).to.deep.equal({ price: 0, delta: 0, gamma: 0, theta: 0, vega: 0, rho: 0 });
  });
});

describe('a payoff', () => {
  const option = (right: 'call' | 'put', strike: number, quantity: number, price: number): PayoffLeg => ({
    quantity,
    unit: 100,
    price,
    option: { right, strike, expiresAt: 0, volatility: 0.3 },
  });
  const share = (quantity: number, price: number): PayoffLeg => ({ quantity, unit: 1, price, option: null });
  const of = (...legs: PayoffLeg[]): [number[], number | null, number | null] => {
    const { breakEvens, worst, best } = payoffOf(legs, 41.2, 0, 0.02, 0);
    return [breakEvens.map((one) => Math.round(one * 1e8) / 1e8), worst === null ? null : Math.round(worst), best === null ? null : Math.round(best)];
  };

  it('ends, and is even, where its legs say', () => {
    expect(of(option('call', 40, 5, 1.6))).to.deep.equal([[41.6], -800, null]);
    expect(of(option('call', 40, -5, 1.6))).to.deep.equal([[41.6], null, 800]);
    expect(of(share(500, 41.2), option('call', 40, -5, 1.6))).to.deep.equal([[39.6], -19800, 200]);
    // A call spread, bought at 40 and sold at 44 for 1.12.
    expect(of(option('call', 40, 1, 1.6), option('call', 44, -1, 0.48))).to.deep.equal([[41.12], -112, 288]);
    expect(of(option('call', 40, 1, 2), option('put', 40, 1, 1))).to.deep.equal([[37, 43], -300, null]);
  });
});
