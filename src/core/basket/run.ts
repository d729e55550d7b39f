import { asQuantity, isInverse, type Halves, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { Side } from '../market/index.ts';
import { divideRatio, floorRatio, formatRatio, multiplyRatio, ratio, ratioOf, subtractRatio, addRatio, type Ratio } from '../number/index.ts';
import { ORDER_STATES, TERMINAL_STATES } from '../orders/index.ts';

export const PACES = ['at-once', 'one-by-one'] as const;
export type Pace = (typeof PACES)[number];

export const RUN_STATES = ['sending', 'paused', 'done', 'canceled'] as const;
export type RunState = (typeof RUN_STATES)[number];

/** How a row of a run stands besides its order. */
export const ROW_STATES = [...ORDER_STATES, 'skipped', 'waiting', 'refused'] as const;
export type RowState = (typeof ROW_STATES)[number];

const TERMINAL: ReadonlySet<string> = new Set([...TERMINAL_STATES, 'skipped', 'refused']);
/** Whether nothing more will become of a row. */
export const isOver = (state: RowState): boolean => TERMINAL.has(state);

/** So much percent of a row's quantity, floored to the step, but no more than what is left of it. */
export function partOf(quantity: Quantity, percent: string, sentBefore: Quantity): Quantity {
  const part = floorRatio(divideRatio(multiplyRatio(ratio(BigInt(quantity)), ratioOf(percent)), ratio(100n)));
  return asQuantity(Math.max(0, Math.min(Number(part), quantity - sentBefore)));
}

/** A fill, as slippage and progress count it. */
export interface CountedFill {
  readonly price: Price;
  readonly quantity: Quantity;
}

const price = (instrument: Instrument, units: number, parts = 1n): Ratio => ratio(BigInt(units), parts * 10n ** BigInt(instrument.priceDecimals));
const quantityOf = (instrument: Instrument, steps: number): Ratio => ratio(BigInt(steps), 10n ** BigInt(instrument.quantityDecimals));

/**
 * What fills cost against the price when the row was sent: Σ (price − arrival) × quantity × multiplier, a buy's sign;
 * inverse: filled ÷ arrival − Σ quantity ÷ price. Positive is cost. Exact, then to 8 decimals.
 */
export function slippageOf(instrument: Instrument, side: Side, arrival: Halves, fills: readonly CountedFill[]): string {
  const start = price(instrument, arrival, 2n);
  let sum = ratio(0n);
  for (const fill of fills) {
    const [at, quantity] = [price(instrument, fill.price), quantityOf(instrument, fill.quantity)];
    const own = isInverse(instrument)
      ? subtractRatio(divideRatio(quantity, start), divideRatio(quantity, at))
      : multiplyRatio(multiplyRatio(subtractRatio(at, start), quantity), ratio(BigInt(instrument.multiplier)));
    sum = addRatio(sum, own);
  }
  return formatRatio(side === 'buy' ? sum : subtractRatio(ratio(0n), sum));
}

/** What a quantity is worth at a price in halves, in the currency it is quoted in; of an inverse contract what it stands for. */
export function worthOf(instrument: Instrument, quantity: Quantity, halves: Halves): Ratio {
  const held = quantityOf(instrument, quantity);
  if (isInverse(instrument)) return held;
  return multiplyRatio(multiplyRatio(price(instrument, halves, 2n), held), ratio(BigInt(instrument.multiplier)));
}

/** A row as progress counts it. */
export interface CountedRow {
  readonly instrument: Instrument;
  readonly state: RowState;
  readonly asked: Quantity;
  readonly filled: Quantity;
  readonly fills: readonly CountedFill[];
  /** The price that what remains counts at: of a row that was sent its arrival, else the mid now. */
  readonly remainsAt: Halves | null;
}

export interface Progress {
  readonly orders: { readonly done: number; readonly all: number };
  readonly units: { readonly filled: string; readonly asked: string };
  readonly money: { readonly filled: string; readonly asked: string };
}

/** How far a run is: orders that are over, units filled, money filled of what is filled and remains. Skipped rows count nowhere. */
export function progressOf(rows: readonly CountedRow[]): Progress {
  const counted = rows.filter(({ state }) => state !== 'skipped');
  let [filledUnits, askedUnits, filledMoney, askedMoney] = [ratio(0n), ratio(0n), ratio(0n), ratio(0n)];
  for (const { instrument, state, asked, filled, fills, remainsAt } of counted) {
    filledUnits = addRatio(filledUnits, quantityOf(instrument, filled));
    askedUnits = addRatio(askedUnits, quantityOf(instrument, asked));
    const worth = fills.reduce((sum, fill) => addRatio(sum, worthOf(instrument, fill.quantity, (fill.price * 2) as Halves)), ratio(0n));
    filledMoney = addRatio(filledMoney, worth);
    const rest = isOver(state) || remainsAt === null ? ratio(0n) : worthOf(instrument, asQuantity(asked - filled), remainsAt);
    askedMoney = addRatio(askedMoney, addRatio(worth, rest));
  }
  return {
    orders: { done: counted.filter(({ state }) => isOver(state)).length, all: counted.length },
    units: { filled: formatRatio(filledUnits), asked: formatRatio(askedUnits) },
    money: { filled: formatRatio(filledMoney), asked: formatRatio(askedMoney) },
  };
}

/** A price in halves as decimal text. */
export const halvesText = (instrument: Instrument, halves: Halves): string => formatRatio(price(instrument, halves, 2n));
