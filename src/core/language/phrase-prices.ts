import {
  asPrice,
  formatPrice,
  gridCeil,
  gridFloor,
  isInverse,
  isOnGrid,
  nearestOnGrid,
  tickAt,
  type Instrument,
  type Price,
  type Quantity,
} from '../instrument/index.ts';
import type { Quote } from '../market/index.ts';
import {
  addRatio,
  ceilRatio,
  compareRatio,
  divideRatio,
  floorRatio,
  formatRatio,
  formatScaled,
  isWhole,
  multiplyRatio,
  parseScaled,
  powerOfTen,
  ratio,
  ratioOf,
  subtractRatio,
  type Money,
  type Ratio,
} from '../number/index.ts';
import { printPrice, type DistanceText, type PriceText, type Reference } from './order-phrase.ts';
import { faultAt } from './reader.ts';
import type { Span } from './tokens.ts';

/** The prices that a phrase names, exact, and how they are taken to the grid. */
export class Prices {
  readonly notes: string[] = [];

  constructor(
    private readonly instrument: Instrument,
    readonly quote: Quote | undefined,
    private readonly position: { readonly quantity: Quantity; readonly cost: Money } | null,
  ) {}

  /** A price on the grid: what is typed bare must lie there, all else is taken up or down to it. */
  grid(text: PriceText, up: boolean): { price: Price; exact: Ratio } {
    const { instrument } = this;
    const exact = this.exact(text);
    if (exact.n <= 0n) throw faultAt(text, 'that is no price above 0');
    const units = up ? ceilRatio(exact) : floorRatio(exact);
    if (units > BigInt(Number.MAX_SAFE_INTEGER)) throw faultAt(text, 'that price is too large');
    const price = up ? gridCeil(instrument, asPrice(Number(units))) : gridFloor(instrument, asPrice(Number(units)));
    const bare = text.reference.kind === 'number' && text.offset === null;
    if (bare && !(isWhole(exact) && isOnGrid(instrument, asPrice(Number(exact.n / exact.d))))) {
      const around = [...nearestOnGrid(instrument, asPrice(Number(floorRatio(exact)))), ...nearestOnGrid(instrument, asPrice(Number(ceilRatio(exact))))];
      const near = [...new Set(around)].map((one) => formatPrice(instrument, one));
      throw faultAt(text, `${this.inWhole(exact)} is off the tick grid; nearest: ${near.join(', ')}`, near);
    }
    if (price <= 0) throw faultAt(text, 'that is no price above 0');
    if (!bare) this.notes.push(this.derived(text, price, exact, up));
    return { price, exact };
  }

  private derived(text: PriceText, price: Price, exact: Ratio, up: boolean): string {
    const { reference, offset } = text;
    const from = reference.kind === 'number' ? '' : `${reference.name} ${this.say(this.of(reference))}`;
    const words = offset ? (reference.kind === 'number' ? printPrice(text) : printPrice(text).replace(reference.name, from)) : from;
    const taken =
      compareRatio(exact, ratio(BigInt(price))) === 0 ? '' : `, ${this.inWhole(exact)} taken ${up ? 'up' : 'down'} to ${formatPrice(this.instrument, price)}`;
    return `${words}${taken}`;
  }

  /** A price in whole currency, without zeros at the end. */
  private inWhole(exact: Ratio): string {
    return formatRatio(divideRatio(exact, ratio(powerOfTen(this.instrument.priceDecimals))));
  }

  private say(exact: Ratio): string {
    const text = this.inWhole(exact);
    const [, fraction = ''] = text.split('.');
    return fraction.length >= this.instrument.priceDecimals
      ? text
      : formatScaled(parseScaled(text, this.instrument.priceDecimals) ?? 0n, this.instrument.priceDecimals);
  }

  /** In price units. */
  exact({ reference, offset }: PriceText): Ratio {
    const base = this.of(reference);
    if (!offset) return base;
    if (base.n <= 0n) throw faultAt(reference, 'that is no price above 0');
    const band = floorRatio(base);
    if (band > BigInt(Number.MAX_SAFE_INTEGER)) throw faultAt(reference, 'that price is too large');
    const far = offset.unit === 'percent' ? divideRatio(multiplyRatio(base, ratioOf(offset.value)), ratio(100n)) : this.far(offset, asPrice(Number(band)));
    return offset.up ? addRatio(base, far) : subtractRatio(base, far);
  }

  /** A distance that is no percentage, in price units; ticks are those of the band of `near`. */
  far(distance: DistanceText, near: Price): Ratio {
    const value = ratioOf(distance.value);
    switch (distance.unit) {
      case 'price':
      case 'percent':
        return multiplyRatio(value, ratio(powerOfTen(this.instrument.priceDecimals)));
      case 'ticks':
        return multiplyRatio(value, ratio(BigInt(tickAt(this.instrument, near))));
      case 'spreads': {
        const { bid = null, ask = null } = this.quote ?? {};
        if (bid === null || ask === null) throw faultAt(distance, 'there is no spread: one side is empty');
        return multiplyRatio(value, ratio(BigInt(ask - bid)));
      }
      default:
        return distance.unit satisfies never;
    }
  }

  /** Where the market is. */
  near(at: Span): Price {
    const { lastEver = null, bid = null, ask = null, previousSettlement = null } = this.quote ?? {};
    const price = lastEver ?? bid ?? ask ?? previousSettlement;
    if (price === null) throw faultAt(at, `${this.instrument.id} has no price yet`);
    return price;
  }

  private of(reference: Reference): Ratio {
    if (reference.kind === 'number') return multiplyRatio(ratioOf(reference.text), ratio(powerOfTen(this.instrument.priceDecimals)));
    const found = this.named(reference.name);
    if (!found) throw faultAt(reference, `${this.instrument.id} has no ${reference.name === 'average' ? 'position, so no average' : reference.name} now`);
    return found;
  }

  named(name: Exclude<Reference, { kind: 'number' }>['name']): Ratio | null {
    const { quote, position, instrument } = this;
    const whole = (price: Price | null | undefined): Ratio | null => (price === null || price === undefined ? null : ratio(BigInt(price)));
    if (name === 'average') {
      if (!position || position.quantity === 0 || position.cost === 0n) return null;
      const size = BigInt(Math.abs(position.quantity));
      const { priceDecimals, quantityDecimals, multiplier } = instrument;
      if (isInverse(instrument)) return ratio(size * powerOfTen(8 + priceDecimals), position.cost * powerOfTen(quantityDecimals));
      return ratio(position.cost * powerOfTen(priceDecimals + quantityDecimals), 10n ** 8n * size * BigInt(multiplier));
    }
    if (!quote) return null;
    switch (name) {
      case 'bid':
      case 'ask':
      case 'open':
      case 'high':
      case 'low':
        return whole(quote[name]);
      case 'last':
        return whole(quote.lastEver);
      case 'settlement':
        return whole(quote.previousSettlement);
      case 'mid':
        return quote.bid === null || quote.ask === null ? null : ratio(BigInt(quote.bid + quote.ask), 2n);
      case 'vwap':
        return quote.dayVolume === 0 ? null : ratio(quote.turnover, BigInt(quote.dayVolume));
      default:
        return name satisfies never;
    }
  }
}
