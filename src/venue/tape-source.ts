import { addPrint, aggregate, barStart, tradingDay, type Bar, type Day, type Side } from '../core/market/index.ts';
import type { TapeRow } from '../core/market/index.ts';
import type { BarsRequest, Headline } from './messages.ts';
import type { Listing } from './listing.ts';
import type { MarketSource, SourceEvent } from './source.ts';
import type { Instrument, Price, Quantity } from '../core/instrument/index.ts';

/** A market that is replayed row by row. */
export class TapeSource implements MarketSource {
  readonly kind = 'tape';
  readonly start: number;
  readonly endsAt: number | null;
  taken = 0;
  private readonly rows: readonly TapeRow[];
  private readonly instruments: ReadonlyMap<string, Instrument>;
  private readonly minutes = new Map<string, Bar[]>();
  /** What each day was settled at, or last traded at. */
  private readonly settled = new Map<string, Map<Day, { settled: Price | null; last: Price | null }>>();
  private readonly told: Headline[] = [];

  constructor(rows: readonly TapeRow[], instruments: ReadonlyMap<string, Instrument>) {
    this.rows = rows;
    this.instruments = instruments;
    this.start = (rows[0]?.time ?? Date.UTC(2026, 2, 2, 9)) - 1;
    this.endsAt = rows[rows.length - 1]?.time ?? null;
  }

  next(): number | null {
    return this.rows[this.taken]?.time ?? null;
  }

  take(): SourceEvent | Headline {
    const row = this.rows[this.taken++];
    if (!row) throw new Error('the tape has ended');
    return this.note(row);
  }

  wake(): void {
    // A tape's instruments are all awake from the start.
  }

  rest(): void {
    // And stay so.
  }

  seek(_time: number, taken: number): void {
    for (this.taken = 0; this.taken < taken; this.taken++) this.note(this.rows[this.taken] as TapeRow);
  }

  /** The prints of the rows taken so far, for a listing that was loaded. */
  printsOf(instrument: string): { time: number; side: Side; price: Price; quantity: Quantity }[] {
    const found = [];
    for (const row of this.rows.slice(0, this.taken))
      if (row.instrument === instrument && 'market' in row && row.market.event === 'trade')
        found.push({ time: row.time, side: row.market.side, price: row.market.price, quantity: row.market.quantity });
    return found;
  }

  bars(request: BarsRequest, _listing: Listing | null, _time: number): Bar[] {
    const { venue } = this.instruments.get(request.instrument) as Instrument;
    const items = aggregate(venue, this.minutes.get(request.instrument) ?? [], request.interval).filter(
      (bar) => (request.from === null || bar.time >= request.from) && (request.to === null || bar.time < request.to),
    );
    return items.slice(-request.limit);
  }

  // Everything on a tape is awake.
  survey(): [] {
    return [];
  }

  isQuiet(): boolean {
    return false;
  }

  dayBefore(instrument: string, time: number): { high: Price; low: Price } | null {
    const { venue } = this.instruments.get(instrument) as Instrument;
    const days = aggregate(venue, this.minutes.get(instrument) ?? [], '1d').filter((bar) => tradingDay(venue, bar.time) < tradingDay(venue, time));
    return days[days.length - 1] ?? null;
  }

  settlements(instrument: string, time: number): { day: Day; price: Price }[] {
    const { venue } = this.instruments.get(instrument) as Instrument;
    const days = [...(this.settled.get(instrument) ?? [])].filter(([day]) => day < tradingDay(venue, time));
    return days.flatMap(([day, { settled, last }]) => (settled === null && last === null ? [] : [{ day, price: (settled ?? last) as Price }]));
  }

  usualVolume(): null {
    return null;
  }

  glance(): null {
    // Everything on a tape is awake.
    return null;
  }

  headlines(): readonly Headline[] {
    return this.told;
  }

  ordersAt(): null {
    return null;
  }

  private settle(instrument: string, time: number, { event, price }: { event: 'trade' | 'settlement'; price: Price }): void {
    const { venue } = this.instruments.get(instrument) as Instrument;
    let days = this.settled.get(instrument);
    if (!days) this.settled.set(instrument, (days = new Map<Day, { settled: Price | null; last: Price | null }>()));
    const day = tradingDay(venue, time);
    const known = days.get(day) ?? { settled: null, last: null };
    days.set(day, event === 'trade' ? { ...known, last: price } : { ...known, settled: price });
  }

  private note(row: TapeRow): SourceEvent | Headline {
    if ('news' in row) {
      const headline = { seq: this.told.length + 1, time: row.time, instrument: row.instrument, text: row.news };
      this.told.push(headline);
      return headline;
    }
    if (row.market.event === 'trade' || row.market.event === 'settlement') this.settle(row.instrument, row.time, row.market);
    if (row.market.event === 'trade') {
      const { venue } = this.instruments.get(row.instrument) as Instrument;
      let bars = this.minutes.get(row.instrument);
      if (!bars) this.minutes.set(row.instrument, (bars = []));
      addPrint(bars, barStart(venue, '1m', row.time), row.market.price, row.market.quantity);
    }
    return { time: row.time, instrument: row.instrument, event: row.market };
  }
}
