import type { Fill } from '../desk/index.ts';
import { NO_QUANTITY, asQuantity, isInverse, type Instrument, type Quantity } from '../instrument/index.ts';
import { tradingDay, type Day, type Side } from '../market/index.ts';
import { NO_MONEY, minus, negated, plus, type Money } from '../number/index.ts';
import { settlesAt, valueAt } from '../portfolio/index.ts';

/** What was done of an order on a trading day, and what it comes to: as a broker confirms it on paper. */
export interface ContractNote {
  readonly orderId: string;
  readonly instrument: Instrument;
  readonly side: Side;
  readonly day: Day;
  /** In the order in which they came. */
  readonly fills: readonly Fill[];
  readonly quantity: Quantity;
  /** In the currency that the instrument settles in, or its base asset; without fees. */
  readonly value: Money;
  readonly fees: Money;
  /** What the account paid (below 0) or got for it, fees included. */
  readonly amount: Money;
  /** When what was bought changes hands; null where nothing does. */
  readonly settlesAt: number | null;
}

/** The money that a fill moves, without its fee: its value, or what closing made where only that changes hands. */
export function movedBy(instrument: Instrument, fill: Pick<Fill, 'side' | 'quantity' | 'price' | 'realised'>): Money {
  if (instrument.kind === 'future' || isInverse(instrument)) return fill.realised;
  const value = valueAt(instrument, fill.quantity, fill.price);
  return fill.side === 'buy' ? negated(value) : value;
}

/** The notes of fills: one for each order and trading day, by the last fill of each. */
export function contractNotes(fills: readonly Fill[], instrumentOf: (id: string) => Instrument): ContractNote[] {
  const notes = new Map<string, ContractNote>();
  for (const fill of fills) {
    const instrument = instrumentOf(fill.instrument);
    const day = tradingDay(instrument.venue, fill.time);
    const key = `${fill.orderId} ${day}`;
    const before = notes.get(key);
    notes.delete(key);
    notes.set(key, {
      orderId: fill.orderId,
      instrument,
      side: fill.side,
      day,
      fills: [...(before?.fills ?? []), fill],
      quantity: asQuantity((before?.quantity ?? NO_QUANTITY) + fill.quantity),
      value: plus(before?.value ?? NO_MONEY, valueAt(instrument, fill.quantity, fill.price)),
      fees: plus(before?.fees ?? NO_MONEY, fill.fee),
      amount: plus(before?.amount ?? NO_MONEY, minus(movedBy(instrument, fill), fill.fee)),
      settlesAt: instrument.kind === 'share' || instrument.kind === 'fund' ? settlesAt(instrument, fill.time) : null,
    });
  }
  return [...notes.values()];
}
