import type { Entry, Fill, Touched } from '../desk/index.ts';
import { asQuantity, isInverse, sizeOf, type Instrument, type Quantity } from '../instrument/index.ts';
import { NO_MONEY, divideHalfEven, minus, moneyOf, plus, type Money } from '../number/index.ts';
import { applyFill, feePart, flatPosition, partsAtFlat, positionOf, settlePosition, valueAt, type AccountBook, type Position } from '../portfolio/index.ts';

export const LOT_METHODS = ['fifo', 'average'] as const;
export type LotMethod = (typeof LOT_METHODS)[number];

/** Units that were closed, and what they made. Money is in what the instrument settles in. */
export interface ClosedLot {
  readonly instrument: string;
  readonly quantity: Quantity;
  readonly openedAt: number;
  readonly closedAt: number;
  /** What the units cost: of a short position what buying them back did. */
  readonly cost: Money;
  readonly proceeds: Money;
  readonly fees: Money;
  readonly result: Money;
}

/** Units bought or sold together: how many, at what fee, and what of them is left. */
interface Lot {
  readonly openedAt: number;
  readonly quantity: Quantity;
  readonly fee: Money;
  readonly left: { readonly quantity: Quantity; readonly value: Money; readonly fee: Money };
}

const newLot = (openedAt: number, quantity: Quantity, value: Money, fee: Money): Lot => ({ openedAt, quantity, fee, left: { quantity, value, fee } });

/** What is open of an instrument: lot by lot, and as one with the average cost. */
interface Open {
  lots: Lot[];
  position: Position;
  /** Fees of what is open, by the average. */
  fees: Money;
}

/** What lots still need of the entries behind them. */
export type SavedLots = readonly Open[];

interface Closing {
  readonly time: number;
  readonly quantity: Quantity;
  /** What the closing was worth. */
  readonly value: Money;
  readonly fee: Money;
  readonly realised: Money;
}

/**
 * Lots of an account, entry by entry: what is closed takes the oldest first (FIFO), or all in proportion (average).
 * Both are kept, so that a report has its choice.
 */
export class Lots {
  /** As they are closed; whoever keeps them elsewhere takes them out. */
  readonly closed: Readonly<Record<LotMethod, ClosedLot[]>> = { fifo: [], average: [] };
  private readonly open = new Map<string, Open>();
  private readonly instrumentOf: (id: string) => Instrument;

  constructor(instrumentOf: (id: string) => Instrument) {
    this.instrumentOf = instrumentOf;
  }

  save(): SavedLots {
    return [...this.open.values()];
  }

  load(open: SavedLots): void {
    for (const one of open) this.open.set(one.position.instrument, one);
  }

  /** Takes an entry that touched these. */
  take(entry: Entry, touched: Touched): void {
    const { data } = entry;
    for (const fill of touched.fills) this.fill(fill);
    if (data.kind === 'position-settled') this.settle(data.instrument, data.worth, entry.time);
    if (data.kind === 'difference' && data.book) this.agree(data.book, entry.time);
  }

  private of(id: string): Open {
    let found = this.open.get(id);
    if (!found) this.open.set(id, (found = { lots: [], position: flatPosition(id, 0), fees: NO_MONEY }));
    return found;
  }

  private fill(fill: Fill): void {
    const instrument = this.instrumentOf(fill.instrument);
    const open = this.of(fill.instrument);
    const { closing, closingFee, opening, openingFee } = partsAtFlat(instrument, open.position.quantity, fill);
    const { side, price, time } = fill;
    const applied = (quantity: Quantity) => applyFill(instrument, open.position, { side, price, quantity, fee: NO_MONEY, product: 'overnight', time });
    if (closing > 0) {
      const { position, realised } = applied(closing);
      this.close(instrument, open, { time, quantity: closing, value: valueAt(instrument, closing, price), fee: closingFee, realised }, position);
    }
    if (opening === 0) return;
    open.position = applied(opening).position;
    open.lots.push(newLot(time, opening, valueAt(instrument, opening, price), openingFee));
    open.fees = plus(open.fees, openingFee);
  }

  private settle(id: string, worth: Money, time: number): void {
    const open = this.of(id);
    const instrument = this.instrumentOf(id);
    const { position, realised } = settlePosition(instrument, open.position, worth, time);
    this.close(instrument, open, { time, quantity: sizeOf(open.position.quantity), value: worth, fee: NO_MONEY, realised }, position);
  }

  private close(instrument: Instrument, open: Open, closing: Closing, after: Position): void {
    const before = open.position;
    if (before.quantity === 0) return;
    const gains = before.quantity > 0 !== isInverse(instrument);
    const line = (part: Omit<ClosedLot, 'instrument' | 'closedAt' | 'cost' | 'proceeds' | 'result'>, opened: Money, closed: Money): ClosedLot => {
      const [cost, proceeds] = gains ? [opened, closed] : [closed, opened];
      return { instrument: instrument.id, closedAt: closing.time, cost, proceeds, result: minus(proceeds, cost, part.fees), ...part };
    };
    const openFees = after.quantity === 0 ? open.fees : feePart(instrument, open.fees, closing.quantity, sizeOf(before.quantity));
    const { quantity } = closing;
    const openedAt = open.lots[0]?.openedAt ?? closing.time;
    this.closed.average.push(line({ quantity, openedAt, fees: plus(openFees, closing.fee) }, minus(before.cost, after.cost), closing.value));
    open.fees = minus(open.fees, openFees);
    open.position = after;

    let rest = { quantity, value: closing.value, fee: closing.fee };
    for (let lot = open.lots[0]; lot && rest.quantity > 0; lot = open.lots[0]) {
      const { left } = lot;
      const units = asQuantity(Math.min(rest.quantity, left.quantity));
      const lotFee = units === left.quantity ? left.fee : feePart(instrument, lot.fee, units, lot.quantity);
      const outFee = units === rest.quantity ? rest.fee : feePart(instrument, closing.fee, units, quantity);
      const lotValue = part(left.value, units, left.quantity);
      const outValue = part(rest.value, units, rest.quantity);
      this.closed.fifo.push(line({ quantity: units, openedAt: lot.openedAt, fees: plus(lotFee, outFee) }, lotValue, outValue));
      if (units === left.quantity) open.lots.shift();
      else open.lots[0] = { ...lot, left: { quantity: asQuantity(left.quantity - units), value: minus(left.value, lotValue), fee: minus(left.fee, lotFee) } };
      rest = { quantity: asQuantity(rest.quantity - units), value: minus(rest.value, outValue), fee: minus(rest.fee, outFee) };
    }
  }

  /** The broker's positions stand: what differs is one lot from now on, at the broker's cost. */
  private agree(book: AccountBook, time: number): void {
    for (const id of new Set([...this.open.keys(), ...Object.keys(book.positions)])) {
      const theirs = positionOf(book, id);
      const open = this.of(id);
      if (theirs.quantity === open.position.quantity && theirs.cost === open.position.cost) continue;
      open.position = theirs;
      open.fees = NO_MONEY;
      open.lots = theirs.quantity === 0 ? [] : [newLot(theirs.openedAt ?? time, sizeOf(theirs.quantity), theirs.cost, NO_MONEY)];
    }
  }
}

/** The part of a value that goes with so many of its units, half to even at 8 decimals; the last takes what is left. */
const part = (value: Money, units: Quantity, of: Quantity): Money => (units === of ? value : moneyOf(divideHalfEven(value * BigInt(units), BigInt(of))));
