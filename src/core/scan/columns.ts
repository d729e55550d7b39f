import type { Instrument, VenueId } from '../instrument/index.ts';
import { MARKET_STATES, tradingDay, type Day, type Interval, type MarketState, type Quote } from '../market/index.ts';
import { BAR_STRIDE, BarSeries } from './series.ts';

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

/** Where each column lies. */
const COLUMN_AT = Object.fromEntries(QUOTE_COLUMNS.map((name, at) => [name, at])) as Readonly<Record<QuoteColumn, number>>;

/** A number in each column, and a byte for the state. */
const BYTES_A_PLACE = QUOTE_COLUMNS.length * Float64Array.BYTES_PER_ELEMENT + 1;

const NOTHING = new Float64Array(0);

type Units = Pick<Instrument, 'priceDecimals' | 'quantityDecimals' | 'multiplier'>;

/** Numbers a settled trading day takes: the day and its settlement in whole currency. */
export const SETTLED_STRIDE = 2;

/** What somebody sees of an instrument at a glance: its quote, and what is known of the days before, in whole currency. */
export interface Glance {
  readonly quote: Quote;
  /** Null where nothing is known. */
  readonly previousHigh: number | null;
  readonly previousLow: number | null;
  readonly usualVolume: number | null;
}

/** Numbers of several instruments in one block, one behind the other: how many items each of them has. */
export interface Packed {
  readonly counts: Uint32Array;
  readonly block: Float64Array;
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
    return this.numbers[COLUMN_AT[name]] as Float64Array;
  }

  state(i: number): MarketState {
    return MARKET_STATES[this.states[i] ?? 0] ?? 'pre-open';
  }

  /**
   * Takes what was seen of the instrument at a place.
   *
   * @returns whether anything of it is other than before
   */
  put(i: number, instrument: Units, { quote, previousHigh, previousLow, usualVolume }: Glance): boolean {
    const byQuote = this.quote(i, instrument, quote);
    const byDays = [this.set('previousHigh', i, previousHigh), this.set('previousLow', i, previousLow), this.set('usualVolume', i, usualVolume)];
    return byQuote || byDays.includes(true);
  }

  /** @returns whether anything of it is other than before */
  quote(i: number, { priceDecimals, quantityDecimals, multiplier }: Units, quote: Quote): boolean {
    const price = 10 ** priceDecimals;
    const quantity = 10 ** quantityDecimals;
    let changed = false;
    const set = (name: QuoteColumn, value: number | null, unit: number): void => {
      if (this.set(name, i, value === null ? null : value / unit)) changed = true;
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
    const state = MARKET_STATES.indexOf(quote.state);
    if (this.states[i] !== state) changed = true;
    this.states[i] = state;
    return changed;
  }

  private set(name: QuoteColumn, i: number, value: number | null): boolean {
    const column = this.column(name);
    const next = value ?? NaN;
    const changed = !Object.is(column[i], next);
    column[i] = next;
    return changed;
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
  /** Settled days, oldest first, each {@link SETTLED_STRIDE} numbers. */
  readonly settlements: Float64Array[];
  readonly optionable: ReadonlySet<string>;
  readonly table: QuoteTable;
  /** Counts what changed in it; of each place the count at its last change. */
  changes = 0;
  readonly changedAt: Uint32Array;
  private readonly series: Map<Interval, BarSeries>[];
  /** Places by ticker, then venue. */
  private readonly listed: Uint32Array;
  /** Where each place stands in that. */
  private readonly rank: Uint32Array;

  constructor(instruments: readonly Instrument[]) {
    this.instruments = instruments;
    instruments.forEach((instrument, i) => this.place.set(instrument.id, i));
    this.table = QuoteTable.of(instruments.length);
    this.changedAt = new Uint32Array(instruments.length);
    this.settlements = instruments.map(() => NOTHING);
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

  /** Something of these places is other than before. */
  touch(places: Iterable<number>): void {
    const count = this.changes + 1;
    for (const place of places) this.changedAt[place] = this.changes = count;
  }

  /** Takes what was seen of an instrument at a glance. */
  look(seen: Glance): void {
    const place = this.place.get(seen.quote.instrument);
    if (place !== undefined && this.table.put(place, this.instruments[place] as Instrument, seen)) this.touch([place]);
  }

  /** Takes bars of several places. */
  takeBars(interval: Interval, places: Uint32Array, { counts, block }: Packed): void {
    let at = 0;
    places.forEach((place, k) => {
      const from = at;
      at += (counts[k] ?? 0) * BAR_STRIDE;
      this.seriesOf(place, interval).take(block.subarray(from, at));
    });
    this.touch(places.filter((_place, k) => (counts[k] ?? 0) > 0));
  }

  takeSettlements(places: Uint32Array, { counts, block }: Packed): void {
    let at = 0;
    places.forEach((place, k) => {
      const from = at;
      at += (counts[k] ?? 0) * SETTLED_STRIDE;
      this.settlements[place] = block.slice(from, at);
    });
    this.touch(places);
  }

  quote(quote: Quote): void {
    const i = this.place.get(quote.instrument);
    if (i !== undefined && this.table.quote(i, this.instruments[i] as Instrument, quote)) this.touch([i]);
  }

  /** Counts a trade in every series that is kept of its instrument. */
  trade(instrument: string, time: number, price: number, quantity: number): void {
    const i = this.place.get(instrument);
    if (i === undefined) return;
    for (const series of (this.series[i] as Map<Interval, BarSeries>).values()) series.trade(time, price, quantity);
    this.touch([i]);
  }
}
