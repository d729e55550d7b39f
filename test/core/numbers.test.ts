import { expect } from 'chai';
import fc from 'fast-check';
import { asHalves, asPrice, asQuantity, type Instrument } from '../../src/core/instrument/index.ts';
import {
  absolute,
  addRatio,
  ceilRatio,
  compareRatio,
  decimalText,
  divideHalfEven,
  divideHalfUp,
  divideRatio,
  floorRatio,
  formatMoney,
  formatRatio,
  formatScaled,
  inCents,
  isDecimal,
  isWhole,
  minorUnit,
  minus,
  money,
  moneyOf,
  multiplyRatio,
  negated,
  parseScaled,
  plus,
  powerOfTen,
  ratio,
  ratioOf,
  subtractRatio,
  sumOf,
  type Money,
} from '../../src/core/number/index.ts';
import { applyFill, flatPosition, valueAt, valueAtHalves } from '../../src/core/portfolio/index.ts';
import { instrument } from '../support/world.ts';

const RUNS = 2000;
const whole = fc.bigInt({ min: -(10n ** 17n), max: 10n ** 17n });
const sums = fc.array(whole.map(moneyOf), { maxLength: 6 });
const below = fc.bigInt({ min: 1n, max: 10n ** 20n });
const ratios = fc.tuple(fc.bigInt({ min: -(10n ** 12n), max: 10n ** 12n }), fc.bigInt({ min: 1n, max: 10n ** 9n })).map(([n, d]) => ratio(n, d));
const check = (property: fc.IRawProperty<unknown>): void => void fc.assert(property, { numRuns: RUNS });

describe('money', () => {
  it('adds and subtracts any number of sums, none included', () => {
    check(
      fc.property(sums, whole.map(moneyOf), (all, from) => {
        const total = all.reduce<bigint>((sum, one) => sum + one, 0n);
        expect(plus(...all)).to.equal(total);
        expect(minus(from, ...all)).to.equal(from - total);
      }),
    );
    expect([plus(), plus(money('1')), minus(money('1'))]).to.deep.equal([0n, 100_000_000n, 100_000_000n]);
  });

  it('has a size and an opposite', () => {
    check(
      fc.property(whole.map(moneyOf), (sum) => {
        expect(plus(sum, negated(sum))).to.equal(0n);
        expect(absolute(sum)).to.equal(sum < 0n ? 0n - sum : sum);
      }),
    );
  });

  it('is told with its currency’s decimals at least, exact, and read back', () => {
    check(
      fc.property(whole.map(moneyOf), fc.constantFrom('EUR' as const, 'CARB' as const), (sum, currency) => {
        const text = formatMoney(sum, currency);
        expect(money(text)).to.equal(sum);
        expect(text.split('.')[1]?.length ?? 0).to.be.within(currency === 'EUR' ? 2 : 8, 8);
      }),
    );
    for (const text of ['', '1e3', '1.123456789', 'NaN', ' 1', '+1', '01']) expect(() => money(text), text).to.throw(RangeError);
  });

  it('has a smallest unit, and cents half to even', () => {
    expect([minorUnit('EUR'), minorUnit('CARB')]).to.deep.equal([1_000_000n, 1n]);
    const said = ['0.005', '0.015', '0.025', '-0.005', '-0.015', '0.00500001', '2.67499999'].map((text) => inCents(money(text)));
    expect(said).to.deep.equal(['0.00', '0.02', '0.02', '0.00', '-0.02', '0.01', '2.67']);
  });
});

describe('whole numbers divided', () => {
  /** By the definition: the nearest, and of two that are as near the even one. */
  const nearestEven = (n: bigint, d: bigint): bigint => {
    const low = (n - (((n % d) + d) % d)) / d;
    const twice = 2n * (n - low * d);
    if (twice !== d) return twice < d ? low : low + 1n;
    return low % 2n === 0n ? low : low + 1n;
  };

  it('go to the nearest, a half to the even neighbour, whatever the signs', () => {
    const near = fc.tuple(fc.bigInt({ min: -1000n, max: 1000n }), fc.bigInt({ min: 1n, max: 40n }));
    check(
      fc.property(fc.oneof(fc.tuple(whole, below), near), ([n, d]) => {
        expect(divideHalfEven(n, d)).to.equal(nearestEven(n, d));
        expect(divideHalfEven(n, -d)).to.equal(nearestEven(-n, d));
      }),
    );
    expect(() => divideHalfEven(1n, 0n)).to.throw(RangeError, 'division by zero');
  });

  it('go away from zero at a half where that is asked', () => {
    check(
      fc.property(fc.bigInt({ min: -1000n, max: 1000n }), fc.bigInt({ min: 1n, max: 40n }), (n, d) => {
        const size = n < 0n ? -n : n;
        const up = (2n * size + d) / (2n * d);
        expect(divideHalfUp(n, d)).to.equal(n < 0n ? -up : up);
      }),
    );
    expect([divideHalfUp(5n, 2n), divideHalfUp(-5n, 2n)]).to.deep.equal([3n, -3n]);
    expect(() => divideHalfUp(1n, 0n)).to.throw(RangeError);
  });

  it('know the powers of ten, the large ones too', () => {
    for (const power of [0, 1, 8, 16, 31, 32, 60]) expect(powerOfTen(power)).to.equal(10n ** BigInt(power));
    expect(() => powerOfTen(-1)).to.throw(RangeError);
  });
});

describe('decimal text', () => {
  it('is read and said exactly, with no more decimals than are wanted and no fewer', () => {
    check(
      fc.property(whole, fc.integer({ min: 0, max: 12 }), fc.integer({ min: 0, max: 12 }), (value, decimals, least) => {
        const atLeast = Math.min(least, decimals);
        const text = formatScaled(value, decimals, atLeast);
        expect(isDecimal(text) || text === '-0').to.equal(true);
        expect(parseScaled(text, decimals)).to.equal(value);
        expect(text.split('.')[1]?.length ?? 0).to.be.within(atLeast, decimals);
      }),
    );
  });

  it('is no decimal where it is anything else', () => {
    for (const text of ['', '.', '1.', '.5', '+1', '1e3', '0x1', '١', '1,5', '00', '--1', ' 1', '1 ', 'Infinity'])
      expect(isDecimal(text), text).to.equal(false);
    for (const text of ['0', '-0.5', '12', '0.00000001', '-12.30']) expect(isDecimal(text), text).to.equal(true);
  });

  it('is summed exactly, whatever the decimals', () => {
    const texts = fc.array(fc.tuple(fc.bigInt({ min: -(10n ** 9n), max: 10n ** 9n }), fc.integer({ min: 0, max: 8 })), { maxLength: 8 });
    check(
      fc.property(texts, (all) => {
        const said = all.map(([value, decimals]) => formatScaled(value, decimals));
        const total = all.reduce((sum, [value, decimals]) => sum + value * 10n ** BigInt(8 - decimals), 0n);
        expect(parseScaled(sumOf(said), 8)).to.equal(total);
      }),
    );
    expect(sumOf([])).to.equal('0');
  });

  it('of a double never has an exponent, and says it again', () => {
    check(
      fc.property(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e18, max: 1e18 }), (value) => {
        const text = decimalText(value);
        expect(text).to.match(/^-?\d+(\.\d+)?$/);
        if (Math.abs(value) > 1e-7) expect(Number(text) / value).to.be.closeTo(1, 1e-9);
      }),
    );
  });
});

describe('ratios', () => {
  const same = (a: ReturnType<typeof ratio>, n: bigint, d: bigint): boolean => a.n * d === n * a.d;

  it('are added, subtracted, multiplied and divided exactly', () => {
    check(
      fc.property(ratios, ratios, (a, b) => {
        expect(same(addRatio(a, b), a.n * b.d + b.n * a.d, a.d * b.d)).to.equal(true);
        expect(compareRatio(subtractRatio(addRatio(a, b), b), a)).to.equal(0);
        expect(same(multiplyRatio(a, b), a.n * b.n, a.d * b.d)).to.equal(true);
        if (b.n !== 0n) expect(compareRatio(multiplyRatio(divideRatio(a, b), b), a)).to.equal(0);
      }),
    );
  });

  it('are ordered, and lie between the whole numbers below and above', () => {
    check(
      fc.property(ratios, ratios, (a, b) => {
        expect(compareRatio(a, b)).to.equal(Number(a.n * b.d > b.n * a.d) - Number(a.n * b.d < b.n * a.d));
        const [low, high] = [floorRatio(a), ceilRatio(a)];
        expect(low * a.d <= a.n && a.n <= high * a.d).to.equal(true);
        expect(high - low).to.equal(isWhole(a) ? 0n : 1n);
      }),
    );
  });

  it('are read from decimal text and said to eight decimals, half to even', () => {
    check(
      fc.property(fc.bigInt({ min: -(10n ** 15n), max: 10n ** 15n }), (value) => {
        const text = formatScaled(value, 8, 0);
        expect(formatRatio(ratioOf(text))).to.equal(text);
      }),
    );
    expect([formatRatio(ratio(1n, 3n)), formatRatio(ratio(2n, 3n)), formatRatio(ratio(-1n, 3n))]).to.deep.equal(['0.33333333', '0.66666667', '-0.33333333']);
  });
});

describe('what a quantity is worth', () => {
  const GANET = instrument('GANET.HALM');
  const INVERSE = instrument('CARBI.VSPR');
  const FUTURE = instrument('HALM40-JUN26.HALM');
  const plain = ({ priceDecimals, quantityDecimals, multiplier }: Instrument, quantity: number, price: number): bigint =>
    BigInt(quantity) * BigInt(price) * BigInt(multiplier) * 10n ** BigInt(8 - priceDecimals - quantityDecimals);

  it('is exact, also where the product is larger than a double holds', () => {
    const amounts = fc.oneof(fc.integer({ min: 0, max: 10_000 }), fc.integer({ min: 0, max: Number.MAX_SAFE_INTEGER }));
    const prices = fc.oneof(fc.integer({ min: 1, max: 100_000 }), fc.integer({ min: 1, max: 10 ** 12 }));
    check(
      fc.property(fc.constantFrom(GANET, FUTURE), amounts, prices, (of, quantity, price) => {
        expect(valueAt(of, asQuantity(quantity), asPrice(price))).to.equal(plain(of, quantity, price));
      }),
    );
  });

  it('is the same by halves of a price, for every kind', () => {
    check(
      fc.property(
        fc.constantFrom(GANET, FUTURE, INVERSE),
        fc.integer({ min: 0, max: 10 ** 6 }),
        fc.integer({ min: 1, max: 10 ** 7 }),
        (of, quantity, price) => {
          const at = valueAt(of, asQuantity(quantity), asPrice(price));
          expect(at).to.equal(valueAtHalves(of, asQuantity(quantity), asHalves(price * 2)));
        },
      ),
    );
  });

  it('adds up over a position’s life: what it made is what it brought less what it cost', () => {
    const fills = fc.array(fc.record({ buy: fc.boolean(), quantity: fc.integer({ min: 1, max: 300 }), price: fc.integer({ min: 3000, max: 5000 }) }), {
      minLength: 1,
      maxLength: 25,
    });
    check(
      fc.property(fills, (all) => {
        let position = flatPosition(GANET.id, 0);
        let made: Money = moneyOf(0n);
        let spent = 0n;
        const step = (buy: boolean, quantity: number, price: number): void => {
          const terms = { side: buy ? ('buy' as const) : ('sell' as const), price: asPrice(price), quantity: asQuantity(quantity), fee: money('0') };
          const applied = applyFill(GANET, position, { ...terms, product: 'overnight', time: 0 });
          position = applied.position;
          made = plus(made, applied.realised);
          spent += (buy ? 1n : -1n) * plain(GANET, quantity, price);
        };
        for (const { buy, quantity, price } of all) step(buy, quantity, price);
        expect(position.dayCost, 'opened today: it costs what it costs the day').to.equal(position.cost);
        if (position.quantity !== 0) step(position.quantity < 0, Math.abs(position.quantity), 4000);
        expect(made).to.equal(-spent);
        expect([position.cost, position.dayCost]).to.deep.equal([0n, 0n]);
      }),
    );
  });
});
