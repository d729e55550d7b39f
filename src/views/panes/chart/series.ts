import { parsePrice, type Instrument } from '../../../core/instrument/index.ts';
import { tradingDay } from '../../../core/market/index.ts';
import type { BarColumns } from '../../../core/study/index.ts';
import type { ApiBar } from '../../../live/index.ts';

const FIRST_ROOM = 4096;

/** Bars in typed arrays, oldest first; prices in the instrument's units. Grows at both ends. */
export class BarSeries implements BarColumns {
  length = 0;
  time = new Float64Array(FIRST_ROOM);
  open = new Float64Array(FIRST_ROOM);
  high = new Float64Array(FIRST_ROOM);
  low = new Float64Array(FIRST_ROOM);
  close = new Float64Array(FIRST_ROOM);
  volume = new Float64Array(FIRST_ROOM);
  /** Trading day of each bar. */
  day = new Float64Array(FIRST_ROOM);
  private readonly instrument: Instrument;

  constructor(instrument: Instrument) {
    this.instrument = instrument;
  }

  /** Puts older bars before all others. */
  prepend(bars: readonly ApiBar[]): void {
    if (bars.length === 0) return;
    this.reserve(this.length + bars.length);
    for (const array of this.arrays()) array.copyWithin(bars.length, 0, this.length);
    bars.forEach((bar, i) => this.write(i, bar));
    this.length += bars.length;
  }

  /**
   * Changes the newest bar or adds the next one. A bar older than both is passed over.
   *
   * @returns the index of the bar that changed
   */
  update(bar: ApiBar): number {
    const time = Date.parse(bar.time);
    const newest = this.length === 0 ? -Infinity : (this.time[this.length - 1] ?? 0);
    if (time === newest) this.write(this.length - 1, bar);
    else if (time > newest) {
      this.reserve(this.length + 1);
      this.write(this.length++, bar);
    } else if (this.length > 1 && time === this.time[this.length - 2]) {
      this.write(this.length - 2, bar);
      return this.length - 2;
    }
    return Math.max(0, this.length - 1);
  }

  /** The bar that holds a time: the last one that began by then; -1 before the first. */
  indexOf(time: number): number {
    let low = 0;
    let high = this.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.time[middle] as number) <= time) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  }

  private write(at: number, bar: ApiBar): void {
    const price = (text: string): number => parsePrice(this.instrument, text) ?? 0;
    this.time[at] = Date.parse(bar.time);
    this.open[at] = price(bar.open);
    this.high[at] = price(bar.high);
    this.low[at] = price(bar.low);
    this.close[at] = price(bar.close);
    this.volume[at] = Number(bar.volume);
    this.day[at] = tradingDay(this.instrument.venue, this.time[at]);
  }

  private arrays(): Float64Array[] {
    return [this.time, this.open, this.high, this.low, this.close, this.volume, this.day];
  }

  private reserve(room: number): void {
    if (room <= this.time.length) return;
    const size = Math.max(room, this.time.length * 2);
    const grow = (array: Float64Array<ArrayBuffer>): Float64Array<ArrayBuffer> => {
      const larger = new Float64Array(size);
      larger.set(array);
      return larger;
    };
    this.time = grow(this.time);
    this.open = grow(this.open);
    this.high = grow(this.high);
    this.low = grow(this.low);
    this.close = grow(this.close);
    this.volume = grow(this.volume);
    this.day = grow(this.day);
  }
}
