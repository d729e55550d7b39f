import type { Instrument, VenueId } from '../instrument/index.ts';
import { MARKET_STATES, tradingDay, type Day, type Interval, type MarketState, type Quote } from '../market/index.ts';
import { BarSeries, type BarBlock } from './series.ts';

/** What is kept of a quote and a day, a number an instrument; NaN is not known. Prices in whole currency, quantities whole. */
export const QUOTE_COLUMNS = [
  'last',
  'lastToday',
  'bid',
  'ask',
  'open',
  'high',
  'low',
  'volume',
  'dayVolume',
  'turnover',
  'previousClose',
  'previousHigh',
  'previousLow',
  'usualVolume',
  'sharesOutstanding',
  'earningsPerShare',
  'dividendPerShare',
] as const;
export type QuoteColumn = (typeof QUOTE_COLUMNS)[number];

/** A number in each column, and a byte for the state. */
const BYTES_A_PLACE = QUOTE_COLUMNS.length * Float64Array.BYTES_PER_ELEMENT + 1;

type Units = Pick<Instrument, 'priceDecimals' | 'quantityDecimals' | 'multiplier'>;

/** A settled trading day. */
export interface SettledDay {
  readonly day: Day;
  readonly price: number;
}

/** An instrument as somebody looked at it: its quote, what is known of the days before, the bars that were asked for. */
export interface Look {
  readonly quote: Quote;
  /** In whole currency; null where nothing is known. */
  readonly previousHigh: number | null;
  readonly previousLow: number | null;
  readonly usualVolume: number | null;
  /** Null where they are what they were. */
  readonly settlements: readonly SettledDay[] | null;
  readonly bars: readonly { readonly interval: Interval; readonly block: BarBlock }[];
}

/** What of a look is not in the table of quotes: it goes from thread to thread as it is. */
export interface Seen extends Pick<Look, 'settlements' | 'bars'> {
  readonly place: number;
}

/**
 * Quotes, days and figures of a universe in columns over shared memory: one thread writes into them while another one
 * waits for its answer, and then reads. Nothing of them is sent.
 */
export class QuoteTable {
  readonly memory: SharedArrayBuffer;
  /** The columns, in the order of their names. */
  readonly numbers: readonly Float64Array[];
  private readonly states: Uint8Array;

  private constructor(memory: SharedArrayBuffer, size: number) {
    this.memory = memory;
    const bytes = size * Float64Array.BYTES_PER_ELEMENT;
    this.numbers = QUOTE_COLUMNS.map((_name, at) => new Float64Array(memory, at * bytes, size));
    this.states = new Uint8Array(memory, QUOTE_COLUMNS.length * bytes, size);
  }

  /** A table for so many instruments, nothing of them known. */
  static of(size: number): QuoteTable {
    const table = new QuoteTable(new SharedArrayBuffer(size * BYTES_A_PLACE), size);
    for (const column of table.numbers) column.fill(NaN);
    return table;
  }

  /** The same table as another thread has it. */
  static over(memory: SharedArrayBuffer): QuoteTable {
    return new QuoteTable(memory, memory.byteLength / BYTES_A_PLACE);
  }

  column(name: QuoteColumn): Float64Array {
    return this.numbers[QUOTE_COLUMNS.indexOf(name)] as Float64Array;
  }

  state(i: number): MarketState {
    return MARKET_STATES[this.states[i] ?? 0] ?? 'pre-open';
  }

  /** Takes what was seen of the instrument at a place. */
  put(i: number, instrument: Units, { quote, previousHigh, previousLow, usualVolume }: Omit<Look, 'settlements' | 'bars'>): void {
    this.quote(i, instrument, quote);
    this.column('previousHigh')[i] = previousHigh ?? NaN;
    this.column('previousLow')[i] = previousLow ?? NaN;
    this.column('usualVolume')[i] = usualVolume ?? NaN;
  }

  quote(i: number, { priceDecimals, quantityDecimals, multiplier }: Units, quote: Quote): void {
    const price = 10 ** priceDecimals;
    const quantity = 10 ** quantityDecimals;
    const set = (name: QuoteColumn, value: number | null, unit: number): void => {
      this.column(name)[i] = value === null ? NaN : value / unit;
    };
    set('last', quote.lastEver, price);
    set('lastToday', quote.last, price);
    set('bid', quote.bid, price);
    set('ask', quote.ask, price);
    set('open', quote.open, price);
    set('high', quote.high, price);
    set('low', quote.low, price);
    set('volume', quote.volume, quantity);
    set('dayVolume', quote.dayVolume, quantity);
    set('turnover', (Number(quote.turnover) / (price * quantity)) * multiplier, 1);
    set('previousClose', quote.previousSettlement, price);
    this.states[i] = MARKET_STATES.indexOf(quote.state);
  }
}

/** What a trader's own things say of an instrument. */
export interface OwnThings {
  readonly held: ReadonlySet<string>;
  readonly withOrders: ReadonlySet<string>;
  readonly lists: ReadonlyMap<string, ReadonlySet<string>>;
}

export const NOTHING_OWN: OwnThings = { held: new Set(), withOrders: new Set(), lists: new Map() };

const byText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);
const byListing = ({ instrument: a }: { instrument: Instrument }, { instrument: b }: { instrument: Instrument }): number =>
  byText(a.ticker, b.ticker) || byText(a.venue, b.venue);

/** A universe in columns: one place an instrument. Conditions are evaluated over it. */
export class MarketColumns {
  /** Market time of what is known. */
  now = 0;
  readonly instruments: readonly Instrument[];
  readonly place = new Map<string, number>();
  readonly settlements: (readonly SettledDay[])[];
  readonly optionable: ReadonlySet<string>;
  readonly table: QuoteTable;
  private readonly series: Map<Interval, BarSeries>[];
  /** Places by ticker, then venue. */
  private readonly listed: Uint32Array;
  /** Where each place stands in that. */
  private readonly rank: Uint32Array;

  constructor(instruments: readonly Instrument[]) {
    this.instruments = instruments;
    instruments.forEach((instrument, i) => this.place.set(instrument.id, i));
    this.table = QuoteTable.of(instruments.length);
    this.settlements = instruments.map(() => []);
    this.series = instruments.map(() => new Map<Interval, BarSeries>());
    this.listed = Uint32Array.from(instruments.map((instrument, i) => ({ instrument, i })).sort(byListing), ({ i }) => i);
    this.rank = new Uint32Array(instruments.length);
    this.listed.forEach((i, at) => (this.rank[i] = at));
    this.optionable = new Set(instruments.flatMap(({ kind, underlying }) => (kind === 'option' && underlying !== null ? [underlying] : [])));
    instruments.forEach(({ fundamentals }, i) => {
      if (!fundamentals) return;
      this.column('sharesOutstanding')[i] = Number(fundamentals.sharesOutstanding);
      this.column('earningsPerShare')[i] = Number(fundamentals.earningsPerShare);
      this.column('dividendPerShare')[i] = Number(fundamentals.dividendPerShare);
    });
  }

  column(name: QuoteColumn): Float64Array {
    return this.table.column(name);
  }

  /** Places by ticker, then venue. */
  inOrder(places: readonly number[]): number[] {
    const ranks = new Uint32Array(places.length);
    for (let k = 0; k < ranks.length; k++) ranks[k] = this.rank[places[k] as number] as number;
    ranks.sort();
    const ordered: number[] = [];
    for (const rank of ranks) ordered.push(this.listed[rank] as number);
    return ordered;
  }

  venue(i: number): VenueId {
    return (this.instruments[i] as Instrument).venue;
  }

  today(i: number): Day {
    return tradingDay(this.venue(i), this.now);
  }

  bars(i: number, interval: Interval): BarSeries | null {
    return this.series[i]?.get(interval) ?? null;
  }

  /** The series of an interval, empty where nothing of it is known. */
  seriesOf(i: number, interval: Interval): BarSeries {
    const own = this.series[i] as Map<Interval, BarSeries>;
    let found = own.get(interval);
    if (!found) own.set(interval, (found = new BarSeries(this.venue(i), interval)));
    return found;
  }

  /** Takes what was seen of an instrument. */
  look(seen: Look): void {
    const place = this.place.get(seen.quote.instrument);
    if (place === undefined) return;
    this.table.put(place, this.instruments[place] as Instrument, seen);
    this.take({ place, settlements: seen.settlements, bars: seen.bars });
  }

  /** The same, where its figures are in the table already. */
  take({ place, settlements, bars }: Seen): void {
    if (settlements) this.settlements[place] = settlements;
    for (const { interval, block } of bars) this.seriesOf(place, interval).take(block);
  }

  quote(quote: Quote): void {
    const i = this.place.get(quote.instrument);
    if (i !== undefined) this.table.quote(i, this.instruments[i] as Instrument, quote);
  }

  /** Counts a trade in every series that is kept of its instrument. */
  trade(instrument: string, time: number, price: number, quantity: number): void {
    const i = this.place.get(instrument);
    if (i !== undefined) for (const series of (this.series[i] as Map<Interval, BarSeries>).values()) series.trade(time, price, quantity);
  }
}
