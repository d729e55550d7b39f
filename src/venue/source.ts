import type { Instrument, Price, Quantity } from '../core/instrument/index.ts';
import type { Bar, Day, DayFigures, Quote, Side } from '../core/market/index.ts';
import type { BarsRequest, Headline } from './messages.ts';
import type { Listing } from './listing.ts';
import type { SourceEvent } from './demo-market/ticks.ts';

export type { SourceEvent };

/** Where the market comes from: a tape, or the generated market of the demo. */
export interface MarketSource {
  readonly kind: 'demo' | 'tape';
  /** Where a new world's clock stands. */
  readonly start: number;
  readonly endsAt: number | null;
  /** When something next happens, or null. */
  next(): number | null;
  /** The next event in order; only after `next` named its time. */
  take(): SourceEvent | Headline;
  /** Brings a listing that is first needed at `time` up to date, and its events from then on. */
  wake(listing: Listing, time: number): void;
  /** Instruments that nobody needs any more. */
  rest(instrument: string): void;
  /** After a restart: everything up to `time` has happened. Listings that were saved are loaded afterwards. */
  seek(time: number, taken: number): void;
  /** Events taken so far, for {@link seek}. */
  readonly taken: number;
  bars(request: BarsRequest, listing: Listing | null, time: number): Bar[];
  /** Whether nothing of an instrument that sleeps was traded from a time on; false where that is not known without a look. */
  isQuiet(instrument: Instrument, since: number, time: number): boolean;
  /** Prints of before a restart that the source can tell again. */
  printsOf(instrument: string): readonly { time: number; side: Side; price: Price; quantity: Quantity }[];
  /** Brings a few more instruments' days up to a time, and tells what is known of all that were counted. */
  survey(time: number, count: number): DayFigures[];
  /** The trading day before a time's own, if anything was traded on it or before. */
  dayBefore(instrument: string, time: number): { readonly high: Price; readonly low: Price } | null;
  /** What trading days before a time's own were settled at, oldest first; a day without a price of its own is left out. */
  settlements(instrument: string, time: number): readonly { readonly day: Day; readonly price: Price }[];
  /** The volume that is usual by now; null where nothing is known. */
  usualVolume(instrument: string): number | null;
  /** An instrument that nobody follows, by the minute; null where everything is awake. */
  glance(instrument: string, time: number): Quote | null;
  headlines(time: number): readonly Headline[];
  ordersAt(instrument: string): ((quantity: number, price: number) => number) | null;
}
