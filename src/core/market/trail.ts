import { NO_QUANTITY, gridCeil, gridFloor, asPrice, tickAt, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { moneyOf, parseScaled, type Money } from '../number/index.ts';
import type { Side } from './tape-row.ts';

export const TRAIL_UNITS = ['ticks', 'percent', 'money'] as const;
export type TrailUnit = (typeof TRAIL_UNITS)[number];

/** How far a trailing stop stays behind the best price. */
export type Trail =
  | { readonly unit: 'ticks'; readonly ticks: number }
  /** Of the best price, in 10⁻⁸ percent. */
  | { readonly unit: 'percent'; readonly percent: bigint }
  /** Money for the quantity the order had when it was accepted. */
  | { readonly unit: 'money'; readonly value: Money; readonly quantity: Quantity };

export interface TrailText {
  readonly unit: TrailUnit;
  readonly value: string;
}

const MOST_TICKS = 100_000;
const HUNDRED_PERCENT = 10n ** 10n;

/** A trail as it comes; what is wrong with its value is told. Money is for a quantity that is known later. */
export function readTrail({ unit, value }: TrailText, note: (message: string) => void): Trail | null {
  const wrong = (message: string): null => {
    note(message);
    return null;
  };
  const fine = parseScaled(value, 8);
  if (fine === null || fine <= 0n) return wrong('must be above 0 with at most 8 decimals');
  switch (unit) {
    case 'ticks': {
      const ticks = Number(value);
      return Number.isInteger(ticks) && ticks <= MOST_TICKS ? { unit, ticks } : wrong(`must be a whole number of ticks, at most ${MOST_TICKS}`);
    }
    case 'percent':
      return fine < HUNDRED_PERCENT ? { unit, percent: fine } : wrong('must be below 100 percent');
    case 'money':
      return { unit, value: moneyOf(fine), quantity: NO_QUANTITY };
    default:
      return unit satisfies never;
  }
}

/** The price a trail is away from, as numerator and denominator in price units: exact, before any rounding. */
function distance(instrument: Instrument, trail: Trail, best: Price): readonly [bigint, bigint] {
  switch (trail.unit) {
    case 'ticks':
      return [BigInt(trail.ticks) * BigInt(tickAt(instrument, best)), 1n];
    case 'percent':
      return [BigInt(best) * trail.percent, 10n ** 10n];
    case 'money': {
      const units = 10n ** BigInt(instrument.priceDecimals + instrument.quantityDecimals);
      return [trail.value * units, 10n ** 8n * BigInt(trail.quantity) * BigInt(instrument.multiplier)];
    }
    default:
      return trail satisfies never;
  }
}

/**
 * The stop price that a trail gives at a best price: a sell's below it, taken up to the grid, a buy's above it,
 * taken down; at least one tick away (exact rule *Exits* 9).
 *
 * @returns null where there is no positive price that far away
 */
export function trailedStop(instrument: Instrument, side: Side, trail: Trail, best: Price): Price | null {
  const [numerator, denominator] = distance(instrument, trail, best);
  if (side === 'sell') {
    const exact = BigInt(best) * denominator - numerator;
    if (exact <= 0n) return null;
    const up = gridCeil(instrument, asPrice(Number((exact + denominator - 1n) / denominator)));
    return asPrice(Math.min(up, gridFloor(instrument, asPrice(best - 1))));
  }
  const down = gridFloor(instrument, asPrice(Number((BigInt(best) * denominator + numerator) / denominator)));
  return asPrice(Math.max(down, gridCeil(instrument, asPrice(best + 1))));
}

/** The one of two stop prices that is nearer to the market. */
export const tighter = (side: Side, a: Price | null, b: Price | null): Price | null =>
  a === null || b === null ? (a ?? b) : asPrice(side === 'sell' ? Math.max(a, b) : Math.min(a, b));
