import { asQuantity, formatQuantity, type Quantity, type Instrument, type Price } from '../../../core/instrument/index.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { writeText, writeWash } from '../../../kit/write.ts';
import type { LiveDepth, LivePosition, LiveQuote } from '../../../live/index.ts';
import { makesText, rowOf } from './rows.ts';

/** The newest market of a ladder's instrument. */
export interface Market {
  readonly quote: LiveQuote | undefined;
  readonly depth: LiveDepth | null;
}

export interface Held {
  readonly quantity: number;
  readonly average: number;
  readonly multiplier: number;
}

/** What of a position a ladder needs, or null when flat. */
export const heldOf = (position: LivePosition | undefined, { multiplier, quantityDecimals, priceDecimals }: Instrument): Held | null =>
  position && position.units.average !== null && position.units.quantity !== 0
    ? { quantity: position.units.quantity / 10 ** quantityDecimals, average: position.units.average / 10 ** priceDecimals, multiplier }
    : null;

/** Writes the market into the rows; React made them and leaves their text alone. */
export function paintRows(body: HTMLElement, prices: readonly Price[], instrument: Instrument, market: Market, held: Held | null): void {
  const { quote, depth } = market;
  const bids = new Map<number, Quantity>();
  const asks = new Map<number, Quantity>();
  let largest = 1;
  for (const [side, into, levels] of [
    ['bid', bids, depth?.bids],
    ['ask', asks, depth?.asks],
  ] as const)
    for (const level of levels?.values() ?? []) {
      const row = rowOf(prices, level.price, side);
      if (row >= 0) into.set(row, asQuantity((into.get(row) ?? 0) + level.quantity));
    }
  for (const quantity of [...bids.values(), ...asks.values()]) largest = Math.max(largest, quantity);
  const bestBid = quote?.bid === null || quote?.bid === undefined ? -1 : rowOf(prices, quote.bid, 'bid');
  const bestAsk = quote?.ask === null || quote?.ask === undefined ? -1 : rowOf(prices, quote.ask, 'ask');
  const last = quote?.last === null || quote?.last === undefined ? -1 : rowOf(prices, quote.last, 'bid');
  const elements = body.querySelectorAll<HTMLElement>('.ladder-row');
  elements.forEach((element, row) => {
    const [, bid, spine, ask, , result] = [...element.children] as HTMLElement[];
    if (!bid || !spine || !ask || !result) return;
    writeDepth(bid, 'bid', instrument, bids.get(row), largest);
    writeDepth(ask, 'ask', instrument, asks.get(row), largest);
    spine.classList.toggle('best', row === bestBid || row === bestAsk);
    spine.classList.toggle('last', row === last);
    const price = prices[row] ?? 0;
    const makes = held && price > 0 ? (price / 10 ** instrument.priceDecimals - held.average) * held.quantity * held.multiplier : null;
    const text = makesText(makes);
    if (result.textContent !== text) {
      writeText(result, text);
      result.className = `result figure ${makes === null ? '' : makes < 0 ? 'down' : 'up'}`;
    }
  });
}

function writeDepth(cell: HTMLElement, side: 'bid' | 'ask', instrument: Instrument, quantity: Quantity | undefined, largest: number): void {
  writeText(cell, quantity === undefined ? '' : grouped(formatQuantity(instrument, quantity)));
  writeWash(cell, side, (quantity ?? 0) / largest);
}
