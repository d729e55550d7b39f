import type { Interval } from '../core/market/index.ts';
import { QuoteTable, SETTLED_STRIDE, barBlock, type BlockSource, type Packed } from '../core/scan/index.ts';
import type { Exchange } from './exchange.ts';
import type { LookRequest, MarketLook } from './messages.ts';

const FIRST_NUMBERS = 1024;

/** Blocks of numbers one behind the other in shared memory: of all that is sent only where they lie. */
class Pack {
  readonly counts: number[] = [];
  private numbers = new Float64Array(new SharedArrayBuffer(FIRST_NUMBERS * Float64Array.BYTES_PER_ELEMENT));
  private used = 0;

  readonly block: BlockSource = (count) => {
    if (this.used + count > this.numbers.length) {
      const room = Math.max(this.used + count, this.numbers.length * 2);
      const grown = new Float64Array(new SharedArrayBuffer(room * Float64Array.BYTES_PER_ELEMENT));
      grown.set(this.numbers.subarray(0, this.used));
      this.numbers = grown;
    }
    this.used += count;
    return this.numbers.subarray(this.used - count, this.used);
  };

  packed(): Packed {
    return { counts: Uint32Array.from(this.counts), block: this.numbers.subarray(0, this.used) };
  }
}

/** Looks at instruments as they are now: their figures go into the table that was given, bars and settlements are packed. */
export function lookAt(exchange: Exchange, { instruments, places, table: memory, bars, since }: LookRequest): MarketLook {
  const table = QuoteTable.over(memory);
  const seen: number[] = [];
  const changed: number[] = [];
  const intervals = bars.map(({ interval, count }): { interval: Interval; count: number; pack: Pack } => ({ interval, count, pack: new Pack() }));
  const settlements = since === null ? new Pack() : null;
  instruments.forEach((id, k) => {
    const instrument = exchange.instruments.get(id);
    const look = exchange.look(id);
    const place = places[k];
    if (!instrument || !look || place === undefined) return;
    seen.push(place);
    if (table.put(place, instrument, look)) changed.push(place);
    for (const { interval, count, pack } of intervals) {
      const items = exchange.newestBars(instrument, interval, count, since);
      pack.counts.push(items.length);
      barBlock(items, instrument, pack.block);
    }
    if (!settlements) return;
    const days = exchange.source.settlements(id, exchange.time);
    const unit = 10 ** instrument.priceDecimals;
    settlements.counts.push(days.length);
    const block = settlements.block(days.length * SETTLED_STRIDE);
    days.forEach(({ day, price }, i) => block.set([day, price / unit], i * SETTLED_STRIDE));
  });
  return {
    time: exchange.time,
    number: exchange.number,
    places: Uint32Array.from(seen),
    changed: Uint32Array.from(changed),
    bars: intervals.map(({ interval, pack }) => ({ interval, ...pack.packed() })),
    settlements: settlements?.packed() ?? null,
  };
}
