import type { Instrument, VenueId } from '../instrument/index.ts';
import { barEnd, barStart, tradingDay, type Bar, type Interval } from '../market/index.ts';
import { StudySeries, type BarColumns, type Parameters, type StudyDefinition } from '../study/index.ts';

/** Numbers a bar takes in a {@link BarBlock}: time, open, high, low, close, volume. */
export const BAR_STRIDE = 6;
/** Bars one behind the other in plain numbers: prices in whole currency, volume in whole quantity. */
export type BarBlock = Float64Array;

/** Where blocks are made: so many numbers. */
export type BlockSource = (numbers: number) => BarBlock;
const ownMemory: BlockSource = (numbers) => new Float64Array(numbers);

/** Bars as a block. */
export function barBlock(
  bars: readonly Bar[],
  { priceDecimals, quantityDecimals }: Pick<Instrument, 'priceDecimals' | 'quantityDecimals'>,
  memory: BlockSource = ownMemory,
): BarBlock {
  const block = memory(bars.length * BAR_STRIDE);
  const [price, quantity] = [10 ** priceDecimals, 10 ** quantityDecimals];
  bars.forEach(({ time, open, high, low, close, volume }, i) => {
    block.set([time, open / price, high / price, low / price, close / price, volume / quantity], i * BAR_STRIDE);
  });
  return block;
}

/** A line of a study with its parameters, as it is asked for again and again. */
export interface StudyAsked {
  /** The same for the same study and parameters. */
  readonly key: string;
  readonly definition: StudyDefinition;
  readonly parameters: Parameters;
  readonly line: number;
}

type Column = 'time' | 'open' | 'high' | 'low' | 'close' | 'volume' | 'day';
const COLUMNS: readonly Column[] = ['time', 'open', 'high', 'low', 'close', 'volume', 'day'];

/** The bars of one instrument and interval in columns, the live one last, with the studies that were asked of them. */
export class BarSeries implements BarColumns {
  length = 0;
  time = new Float64Array(0);
  open = new Float64Array(0);
  high = new Float64Array(0);
  low = new Float64Array(0);
  close = new Float64Array(0);
  volume = new Float64Array(0);
  day = new Float64Array(0);
  private changedFrom = 0;
  private readonly studies = new Map<string, { series: StudySeries; upTo: number }>();

  constructor(
    readonly venue: VenueId,
    readonly interval: Interval,
  ) {}

  /** Takes bars from the first of them on: what was there from that time is replaced. */
  take(block: BarBlock): void {
    const count = Math.floor(block.length / BAR_STRIDE);
    if (count === 0) return;
    const from = this.indexAt(block[0] as number);
    this.length = from;
    this.makeRoom(from + count);
    for (let k = 0; k < count; k++) {
      const at = k * BAR_STRIDE;
      this.put(
        from + k,
        block[at] as number,
        block[at + 1] as number,
        block[at + 2] as number,
        block[at + 3] as number,
        block[at + 4] as number,
        block[at + 5] as number,
      );
    }
    this.length = from + count;
    this.changedFrom = Math.min(this.changedFrom, from);
  }

  /** Counts one trade. */
  trade(time: number, price: number, quantity: number): void {
    const start = barStart(this.venue, this.interval, time);
    const last = this.length - 1;
    if (last >= 0 && this.time[last] === start) {
      this.high[last] = Math.max(this.high[last] as number, price);
      this.low[last] = Math.min(this.low[last] as number, price);
      this.close[last] = price;
      this.volume[last] = (this.volume[last] as number) + quantity;
      this.changedFrom = Math.min(this.changedFrom, last);
      return;
    }
    this.makeRoom(this.length + 1);
    this.put(this.length, start, price, price, price, price, quantity);
    this.changedFrom = Math.min(this.changedFrom, this.length);
    this.length++;
  }

  /** The first bar that starts at or after a time. */
  indexAt(time: number): number {
    let low = 0;
    let high = this.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.time[middle] as number) < time) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  end(index: number): number {
    return barEnd(this.venue, this.interval, this.time[index] as number);
  }

  /** The newest bar that is closed at a time; −1 where there is none. */
  closedBy(time: number): number {
    let index = this.indexAt(time) - 1;
    while (index >= 0 && this.end(index) > time) index--;
    return index;
  }

  /** The values of a study's line, one a bar, brought up to the newest. */
  study({ key, definition, parameters, line }: StudyAsked): Float64Array {
    if (this.changedFrom < this.length) {
      for (const known of this.studies.values()) known.upTo = Math.min(known.upTo, this.changedFrom);
      this.changedFrom = this.length;
    }
    let known = this.studies.get(key);
    if (!known) this.studies.set(key, (known = { series: new StudySeries(definition, parameters), upTo: 0 }));
    if (known.upTo < this.length) {
      known.series.update(this, known.upTo);
      known.upTo = this.length;
    }
    return known.series.line(line);
  }

  private put(index: number, time: number, open: number, high: number, low: number, close: number, volume: number): void {
    this.time[index] = time;
    this.open[index] = open;
    this.high[index] = high;
    this.low[index] = low;
    this.close[index] = close;
    this.volume[index] = volume;
    this.day[index] = tradingDay(this.venue, time);
  }

  private makeRoom(count: number): void {
    if (count <= this.time.length) return;
    const room = Math.max(count, this.time.length * 2, 64);
    for (const column of COLUMNS) {
      const grown = new Float64Array(room);
      grown.set(this[column].subarray(0, this.length));
      this[column] = grown;
    }
  }
}
