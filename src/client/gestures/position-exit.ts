import {
  addTicks,
  asQuantity,
  formatPrice,
  formatQuantity,
  isInverse,
  venueOrderTypes,
  type Instrument,
  type Price,
  type Quantity,
} from '../../core/instrument/index.ts';
import { ghostAt, type MarketView } from '../../core/orders/index.ts';
import { accepted, refused, type Result } from '../../core/result.ts';
import type { LivePosition } from '../../live/index.ts';

type Held = Pick<LivePosition, 'units' | 'firstRisk'>;

const decimalsOf = (instrument: Instrument): number => (instrument.settlesIn === 'EUR' ? 2 : 8);

/**
 * What a quantity of a position makes when it leaves at a price, before fees, in what the instrument settles in.
 *
 * @param from in units of the price, with its fraction
 */
export function exitMoney(instrument: Instrument, { units }: Pick<Held, 'units'>, quantity: Quantity, price: Price, from = units.average ?? price): string {
  const [average, at] = [from / 10 ** instrument.priceDecimals, price / 10 ** instrument.priceDecimals];
  const each = isInverse(instrument) ? 1 / average - 1 / at : (at - average) * instrument.multiplier;
  const size = quantity / 10 ** instrument.quantityDecimals;
  return (each * size * Math.sign(units.quantity)).toFixed(decimalsOf(instrument));
}

/** An exit of a whole position at a price that its handle was pulled to. */
export interface PulledExit {
  readonly leg: 'stop' | 'target';
  readonly price: Price;
  readonly quantity: string;
  /** Before fees; with its multiple of the first risk, for a first stop 1. */
  readonly money: string;
  readonly r: string | null;
  /** From the average. */
  readonly ticks: number;
}

const MOST_TICKS = 100_000;

function ticksBetween(instrument: Instrument, from: number, to: Price): number {
  let ticks = 0;
  for (let at = to; at !== from && ticks < MOST_TICKS; ticks++) {
    const next = addTicks(instrument, at, at < from ? 1 : -1);
    if (at < from ? next > from : next < from) break;
    at = next;
  }
  return ticks;
}

/**
 * What pulling a position's handle to a price asks for: beyond the market against it a stop, else a target.
 *
 * @returns in words why nothing is possible there
 */
export function pulledExit(instrument: Instrument, position: Held, price: Price, market: MarketView): Result<PulledExit, string> {
  const { quantity: held, average } = position.units;
  const quantity = asQuantity(Math.abs(held));
  if (quantity === 0 || average === null) return refused('nothing is held');
  const ghost = ghostAt({ instrument, side: held > 0 ? 'sell' : 'buy', price, quantity, market, want: 'either', here: true });
  if (!ghost.ok) return ghost;
  if (ghost.value.effect === 'fills now') return refused(`at ${formatPrice(instrument, price)} it would leave at once: close does that`);
  const leg = ghost.value.type === 'limit' ? 'target' : 'stop';
  const money = exitMoney(instrument, position, quantity, price);
  const risk = position.firstRisk === null ? (leg === 'stop' ? Math.abs(Number(money)) : 0) : Number(position.firstRisk);
  const r = risk > 0 ? (Number(money) / risk).toFixed(1) : null;
  return accepted({ leg, price, quantity: formatQuantity(instrument, quantity), money, r, ticks: ticksBetween(instrument, Math.round(average), price) });
}

/** A plan of one step on a whole position, held at the venue where that takes its stop. */
export function wholeExit(instrument: Instrument, step: { readonly stop?: object; readonly target?: object }): object {
  const atVenue = !('stop' in step) || venueOrderTypes(instrument.venue, instrument.kind).includes('stop');
  return { heldBy: atVenue ? 'venue' : 'here', onSizeChange: 'follow', onMissedLevel: 'fire', steps: [{ share: '100', ...step }] };
}

/** The plan that a pulled exit is. */
export const pulledPlan = (instrument: Instrument, { leg, price }: PulledExit): object =>
  wholeExit(instrument, { [leg]: { by: 'price', value: formatPrice(instrument, price), order: leg === 'stop' ? 'market' : 'limit' } });
