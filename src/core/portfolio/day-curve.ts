import { asHalves, type Halves, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { Side } from '../market/index.ts';
import { NO_MONEY, minus, plus, type Money } from '../number/index.ts';
import { applyFill, flatPosition, type Position, type Product } from './position.ts';
import { valuePosition } from './valuation.ts';

/** A fill of the day, as far as its result goes. */
export interface CurveFill {
  readonly time: number;
  readonly instrument: string;
  readonly side: Side;
  readonly price: Price;
  readonly quantity: Quantity;
  readonly fee: Money;
  readonly product: Product;
}

/** What an instrument traded at last, from a moment on. */
export interface CurvePrice {
  readonly time: number;
  readonly instrument: string;
  readonly price: Price;
}

/** An account's net of the day at a moment: day realised + day unrealised − fees (exact rule *Risk* 1), in EUR. */
export interface CurvePoint {
  readonly time: number;
  readonly net: Money;
}

/**
 * How the net of a day came about, at each fill and each price.
 *
 * @param start the positions as the day began, counted from the settlement before
 * @param fills of the day, oldest first
 * @param prices oldest first; those of instruments that are not held count nothing
 */
export function dayCurve(
  start: Iterable<Position>,
  fills: readonly CurveFill[],
  prices: readonly CurvePrice[],
  instrumentOf: (id: string) => Instrument,
  inEuro: (sum: Money, instrument: Instrument) => Money,
): CurvePoint[] {
  const positions = new Map([...start].map((position) => [position.instrument, position]));
  const marks = new Map<string, Halves>();
  const nets = new Map<string, Money>();
  let net = NO_MONEY;
  const value = (id: string): void => {
    const position = positions.get(id);
    if (!position) return;
    const instrument = instrumentOf(id);
    const { dayUnrealised } = valuePosition(instrument, position, marks.get(id) ?? null);
    const made = inEuro(minus(plus(position.dayRealised, dayUnrealised), position.dayFees), instrument);
    net = plus(minus(net, nets.get(id) ?? NO_MONEY), made);
    nets.set(id, made);
  };
  const points: CurvePoint[] = [];
  const say = (time: number): void => {
    if (points[points.length - 1]?.time === time) points.pop();
    points.push({ time, net });
  };
  let next = 0;
  const fill = (one: CurveFill): void => {
    const before = positions.get(one.instrument) ?? flatPosition(one.instrument, one.time);
    positions.set(one.instrument, applyFill(instrumentOf(one.instrument), before, one).position);
    marks.set(one.instrument, asHalves(one.price * 2));
    value(one.instrument);
    say(one.time);
  };
  for (const { time, instrument, price } of prices) {
    for (let one = fills[next]; one && one.time <= time; one = fills[++next]) fill(one);
    if (!positions.has(instrument)) continue;
    marks.set(instrument, asHalves(price * 2));
    value(instrument);
    say(time);
  }
  for (let one = fills[next]; one; one = fills[++next]) fill(one);
  return points;
}
