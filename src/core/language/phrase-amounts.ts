import { asPrice, asQuantity, formatPrice, formatQuantity, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { trailedStop, type Side } from '../market/index.ts';
import {
  compareRatio,
  divideRatio,
  floorRatio,
  formatMoney,
  formatRatio,
  isWhole,
  multiplyRatio,
  parseScaled,
  plus,
  powerOfTen,
  ratio,
  ratioOf,
  type Money,
  type Ratio,
} from '../number/index.ts';
import { limitPriceOf, type Pricing } from '../orders/index.ts';
import { lossAt, valueAt, type Product } from '../portfolio/index.ts';
import type { Amount } from './order-phrase.ts';
import type { PhraseAccount } from './order-scene.ts';
import type { Prices } from './phrase-prices.ts';
import { faultAt } from './reader.ts';
import type { Span } from './tokens.ts';

/** Quantities by money, risk and shares: the largest on the step that fits. */
export class Amounts {
  readonly notes: string[] = [];

  constructor(
    private readonly side: Side,
    private readonly instrument: Instrument,
    private readonly account: PhraseAccount,
    private readonly prices: Prices,
    private readonly pricing: Pricing,
    private readonly product: Product,
  ) {}

  quantity(amount: Exclude<Amount, { kind: 'number' }>): Quantity {
    switch (amount.kind) {
      case 'position':
        return this.held(amount, true);
      case 'share':
        return amount.of === 'position' ? this.shareOfPosition(amount) : this.shareOfMoney(amount);
      case 'money': {
        const most = this.money(amount.value, amount);
        const entry = this.entry(amount);
        return this.largest(
          amount,
          most,
          (q) => this.withFee(q, this.value(q, entry)),
          () => `for ${amount.value}`,
        );
      }
      case 'risk':
        return this.atRisk(amount);
      default:
        return amount satisfies never;
    }
  }

  private held(at: Span, closes: boolean): Quantity {
    const signed = this.account.position(this.instrument.id)?.quantity ?? 0;
    if (signed === 0) throw faultAt(at, `${this.account.id} has no position in ${this.instrument.id}`);
    if (closes && signed > 0 !== (this.side === 'sell'))
      throw faultAt(at, `a ${this.side} does not close a position of ${formatQuantity(this.instrument, asQuantity(signed))}`);
    return asQuantity(Math.abs(signed));
  }

  private shareOfPosition({ percent, at, from, to }: Amount & { kind: 'share' }): Quantity {
    const held = this.held(at, false);
    const part = floorRatio(divideRatio(multiplyRatio(ratio(BigInt(held)), ratioOf(percent)), ratio(100n)));
    const quantity = part > BigInt(Number.MAX_SAFE_INTEGER) ? Infinity : Number(part);
    if (quantity < this.instrument.minimumQuantity)
      throw faultAt({ from, to }, `${percent} % of ${formatQuantity(this.instrument, held)} is less than the smallest quantity, ${this.least()}`);
    if (!Number.isSafeInteger(quantity)) throw faultAt({ from, to }, 'that quantity is too large');
    this.notes.push(`${percent} % of ${formatQuantity(this.instrument, held)}`);
    return asQuantity(quantity);
  }

  private shareOfMoney(amount: Amount & { kind: 'share'; of: unknown }): Quantity {
    const whole = amount.of === 'equity' ? this.account.equity : this.account.buyingPower(this.instrument);
    const most = divideRatio(multiplyRatio(ratio(whole), ratioOf(amount.percent)), ratio(100n));
    const entry = this.entry(amount);
    const needs = (q: Quantity): Money => {
      const sum = this.account.needs(this.instrument, this.side === 'buy', q, entry, this.product);
      if (sum === null) throw faultAt(amount, `${this.instrument.id} can't be valued now`);
      return sum;
    };
    return this.largest(amount, most, needs, () => `${amount.percent} % of the ${amount.of} of ${formatMoney(whole, 'EUR')}`);
  }

  private atRisk(amount: Amount & { kind: 'risk' }): Quantity {
    const { instrument } = this;
    const most = this.money(amount.value, amount);
    const entry = this.entry(amount);
    const exact = this.prices.exact(amount.until);
    if (exact.n <= 0n) throw faultAt(amount.until, 'that is no price above 0');
    const losing = compareRatio(exact, ratio(BigInt(entry)));
    if (this.side === 'buy' ? losing >= 0 : losing <= 0)
      throw faultAt(
        amount.until,
        `a ${this.side} at ${formatPrice(instrument, entry)} does not lose at that price; it must be ${this.side === 'buy' ? 'below' : 'above'}`,
      );
    const cost = (q: Quantity): Money => lossAt(instrument, q, entry, exact, this.account.fee);
    const to = isWhole(exact)
      ? formatPrice(instrument, asPrice(Number(floorRatio(exact))))
      : formatRatio(divideRatio(exact, ratio(powerOfTen(instrument.priceDecimals))));
    return this.largest(amount, most, cost, (q) => `risking ${amount.value} to ${to}, where it loses ${formatMoney(cost(q), instrument.settlesIn)} with fees`);
  }

  private money(text: string, at: Span): Ratio {
    const sum = parseScaled(text, 8);
    if (sum === null || sum <= 0n) throw faultAt(at, 'an amount of money is over 0 and has at most 8 decimals');
    return ratio(sum);
  }

  private value = (quantity: Quantity, price: Price): Money => valueAt(this.instrument, quantity, price);
  private withFee = (quantity: Quantity, value: Money): Money => plus(value, this.account.fee(this.instrument, quantity, value));

  /** Where the order is taken to come in: its limit, its stop price, its trail's first stop, at market the best opposite price. */
  private entry(at: Span): Price {
    const { pricing, instrument, side, prices } = this;
    const limit = limitPriceOf(pricing, side, instrument);
    if (limit !== null) return limit;
    if (pricing.type === 'stop') return pricing.stop;
    if (pricing.type === 'trailing-stop') {
      const best = prices.quote?.[pricing.triggerOn === 'last' ? 'lastEver' : pricing.triggerOn] ?? null;
      const stop = best === null ? null : trailedStop(instrument, side, pricing.trail, best);
      if (stop !== null) return stop;
    } else {
      const opposite = prices.quote?.[side === 'buy' ? 'ask' : 'bid'] ?? null;
      if (opposite !== null) return opposite;
    }
    throw faultAt(at, `${instrument.id} has no ${side === 'buy' ? 'ask' : 'bid'} to value the order at`);
  }

  private least = (): string => formatQuantity(this.instrument, this.instrument.minimumQuantity);

  /** The largest quantity that costs at most so much; what it costs never falls with the quantity. */
  private largest(at: Span, most: Ratio, cost: (quantity: Quantity) => Money, words: (quantity: Quantity) => string): Quantity {
    const fits = (steps: number): boolean => compareRatio(ratio(cost(asQuantity(steps))), most) <= 0;
    const smallest = this.instrument.minimumQuantity;
    if (!fits(smallest)) {
      const needed = formatMoney(cost(smallest), this.instrument.settlesIn);
      throw faultAt(at, `that is too little: the smallest quantity, ${this.least()}, needs ${needed}`);
    }
    let low: number = smallest;
    let high = smallest * 2;
    while (high < Number.MAX_SAFE_INTEGER / 4 && fits(high)) [low, high] = [high, high * 2];
    while (high - low > 1) {
      const middle = Math.floor((low + high) / 2);
      if (fits(middle)) low = middle;
      else high = middle;
    }
    const quantity = asQuantity(low);
    this.notes.push(words(quantity));
    return quantity;
  }
}
