import type { Instrument, VenueId } from '../instrument/index.ts';
import { tradingDay, type Day, type Interval, type MarketState, type Quote } from '../market/index.ts';
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
  readonly state: MarketState[];
  readonly settlements: (readonly SettledDay[])[];
  readonly optionable: ReadonlySet<string>;
  /** The columns, in the order of their names. */
  readonly numbers: readonly Float64Array[];
  private readonly series: Map<Interval, BarSeries>[];
  /** Places by ticker, then venue. */
  private readonly listed: Uint32Array;
  /** Where each place stands in that. */
  private readonly rank: Uint32Array;

  constructor(instruments: readonly Instrument[]) {
    this.instruments = instruments;
    instruments.forEach((instrument, i) => this.place.set(instrument.id, i));
    this.numbers = QUOTE_COLUMNS.map(() => new Float64Array(instruments.length).fill(NaN));
    this.state = instruments.map(() => 'pre-open');
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
    return this.numbers[QUOTE_COLUMNS.indexOf(name)] as Float64Array;
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

  /** Takes what somebody saw of an instrument. */
  look(seen: Look): void {
    const i = this.place.get(seen.quote.instrument);
    if (i === undefined) return;
    this.quote(seen.quote);
    this.column('previousHigh')[i] = seen.previousHigh ?? NaN;
    this.column('previousLow')[i] = seen.previousLow ?? NaN;
    this.column('usualVolume')[i] = seen.usualVolume ?? NaN;
    if (seen.settlements) this.settlements[i] = seen.settlements;
    for (const { interval, block } of seen.bars) this.seriesOf(i, interval).take(block);
  }

  quote(quote: Quote): void {
    const i = this.place.get(quote.instrument);
    if (i === undefined) return;
    const { priceDecimals, quantityDecimals, multiplier } = this.instruments[i] as Instrument;
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
    this.state[i] = quote.state;
  }

  /** Counts a trade in every series that is kept of its instrument. */
  trade(instrument: string, time: number, price: number, quantity: number): void {
    const i = this.place.get(instrument);
    if (i !== undefined) for (const series of (this.series[i] as Map<Interval, BarSeries>).values()) series.trade(time, price, quantity);
  }
}
