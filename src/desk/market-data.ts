import { InstrumentSearch, type Halves, type Instrument } from '../core/instrument/index.ts';
import { markInHalves, type Quote } from '../core/market/index.ts';
import type { MarketView } from '../core/orders/index.ts';
import type { Market } from '../core/portfolio/index.ts';
import type { DepthView, Headline, MarketUpdate, Print } from '../venue/messages.ts';
import type { Prices } from './outside.ts';

/** A quote somebody asked for stays fresh for this long after the last question, in machine time. */
const REMEMBERED_MS = 120_000;
const TIDY_MS = 30_000;
/** Quotes asked for in one message. */
const SNAPSHOT = 10;

export interface MarketListener {
  quote(quote: Quote): void;
  depth(depth: DepthView): void;
  prints(instrument: string, prints: readonly Print[]): void;
  news(headlines: readonly Headline[]): void;
  /** Prints of these were left out: whoever follows them looks anew. */
  missed(instruments: readonly string[]): void;
  time(time: number): void;
}

/** The newest market data the desk has, and which instruments it keeps asking for. */
export class MarketData implements Market {
  time: number;
  private readonly quotes = new Map<string, Quote>();
  private readonly instruments: ReadonlyMap<string, Instrument>;
  private index: InstrumentSearch | null = null;
  private byTicker: ReadonlyMap<string, readonly Instrument[]> | null = null;
  private readonly prices: Prices;
  private readonly listener: MarketListener;
  private readonly asked = new Map<string, number>();
  private watched = new Set<string>();
  private depths = new Set<string>();
  /** Instruments that others need: topics of the streams, positions, working orders. */
  private readonly wanted: () => { quotes: Iterable<string>; depths: Iterable<string> };
  private watching: Promise<unknown> = Promise.resolve();
  /** The quotes that are about to be asked for. */
  private asking: { readonly ids: Set<string>; done: Promise<void> } | null = null;
  private readonly timer: NodeJS.Timeout;

  constructor(prices: Prices, listener: MarketListener, wanted: MarketData['wanted']) {
    this.prices = prices;
    this.listener = listener;
    this.wanted = wanted;
    this.time = prices.time;
    this.instruments = new Map(prices.instruments.map((instrument) => [instrument.id, instrument]));
    this.timer = setInterval(() => void this.followWanted(), TIDY_MS);
    this.timer.unref();
  }

  stop(): void {
    clearInterval(this.timer);
  }

  instrument(id: string): Instrument {
    const found = this.instruments.get(id);
    if (!found) throw new Error(`unknown instrument ${id}`);
    return found;
  }

  find(id: string): Instrument | undefined {
    return this.instruments.get(id);
  }

  all(): Iterable<Instrument> {
    return this.instruments.values();
  }

  /** All listings of a ticker, by venue. */
  listings(ticker: string): readonly Instrument[] {
    this.byTicker ??= grouped(this.instruments.values());
    return this.byTicker.get(ticker) ?? [];
  }

  /** Instruments that match a text, best first; all of them for an empty one. */
  search(text: string): Instrument[] {
    this.index ??= new InstrumentSearch(this.instruments.values());
    return this.index.find(text).map(({ instrument }) => instrument);
  }

  mark(id: string): Halves | null {
    const quote = this.quotes.get(id);
    return quote ? markInHalves(quote) : null;
  }

  quote(id: string): Quote | undefined {
    return this.quotes.get(id);
  }

  /** The market as orders are checked against; only after {@link ensure}. */
  view(id: string): MarketView {
    const quote = this.quotes.get(id);
    if (!quote) throw new Error(`no quote of ${id}`);
    return { state: quote.state, bid: quote.bid, ask: quote.ask, last: quote.lastEver, priceLimits: quote.priceLimits };
  }

  /** Whether the quotes of these instruments are known and kept fresh. */
  has(ids: Iterable<string>): boolean {
    for (const id of ids) if (this.instruments.has(id) && (!this.quotes.has(id) || !this.watched.has(id))) return false;
    return true;
  }

  /** Makes sure that the quotes of these instruments are known, and kept fresh for a while. */
  async ensure(ids: readonly string[]): Promise<void> {
    const now = Date.now();
    const known = ids.filter((id) => this.instruments.has(id));
    const missing = known.filter((id) => !this.quotes.has(id) || !this.watched.has(id));
    for (const id of known) this.asked.set(id, now);
    if (missing.length === 0) return;
    const unknown = missing.filter((id) => !this.quotes.has(id));
    await Promise.all([this.followWanted(), unknown.length > 0 ? this.fetch(unknown) : null]);
  }

  /** Asks for quotes, together with whatever else is asked for in the same moment: many questions would hold up others. */
  private fetch(ids: readonly string[]): Promise<void> {
    const moment = (this.asking ??= { ids: new Set(), done: Promise.resolve() });
    if (moment.ids.size === 0)
      moment.done = new Promise((resolve) => setImmediate(resolve)).then(async () => {
        this.asking = null;
        const all = [...moment.ids];
        const parts = Array.from({ length: Math.ceil(all.length / SNAPSHOT) }, (_, i) => all.slice(i * SNAPSHOT, (i + 1) * SNAPSHOT));
        await Promise.all(parts.map(async (part) => this.take(await this.prices.snapshot(part))));
      });
    for (const id of ids) moment.ids.add(id);
    return moment.done;
  }

  /** Tells the venue which instruments to keep awake, if that changed. */
  followWanted(): Promise<unknown> {
    this.watching = this.watching.then(() => this.updateWatch()).catch(() => undefined);
    return this.watching;
  }

  /** Sees to it that an instrument, or with null all that is wanted, is kept awake; what is no longer wanted is let go in its own time. */
  follow(instrument: string | null): void {
    if (instrument === null || !this.watched.has(instrument)) void this.followWanted();
  }

  private async updateWatch(): Promise<void> {
    const { quotes, depths } = this.wanted();
    const now = Date.now();
    for (const [id, at] of this.asked) if (now - at > REMEMBERED_MS) this.asked.delete(id);
    const next = new Set([...quotes, ...this.asked.keys()]);
    const nextDepths = new Set(depths);
    if (same(next, this.watched) && same(nextDepths, this.depths)) return;
    for (const id of this.watched) if (!next.has(id)) this.quotes.delete(id);
    this.watched = next;
    this.depths = nextDepths;
    await this.prices.watch([...next], [...nextDepths]);
  }

  /** Applies what came from the venue and passes it on. */
  take(update: MarketUpdate): void {
    this.time = Math.max(this.time, update.time);
    for (const quote of update.quotes) {
      this.quotes.set(quote.instrument, quote);
      this.listener.quote(quote);
    }
    for (const depth of update.depths) this.listener.depth(depth);
    const byInstrument = new Map<string, Print[]>();
    for (const print of update.prints) {
      const list = byInstrument.get(print.instrument);
      if (list) list.push(print);
      else byInstrument.set(print.instrument, [print]);
    }
    for (const [instrument, prints] of byInstrument) this.listener.prints(instrument, prints);
    if (update.missed.length > 0) this.listener.missed(update.missed);
    if (update.news.length > 0) this.listener.news(update.news);
    this.listener.time(this.time);
  }
}

const same = (a: ReadonlySet<string>, b: ReadonlySet<string>): boolean => a.size === b.size && [...a].every((one) => b.has(one));

function grouped(instruments: Iterable<Instrument>): Map<string, Instrument[]> {
  const groups = new Map<string, Instrument[]>();
  for (const one of instruments) groups.set(one.ticker, [...(groups.get(one.ticker) ?? []), one]);
  return groups;
}
