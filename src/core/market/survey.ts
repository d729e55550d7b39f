import type { Instrument, InstrumentKind, Price, Quantity, VenueId } from '../instrument/index.ts';

/** How an instrument's day stands, for lists over the whole universe. Prices and quantities in its own units. */
export interface DayFigures {
  readonly instrument: string;
  readonly open: Price | null;
  readonly last: Price | null;
  readonly high: Price | null;
  readonly low: Price | null;
  readonly previousSettlement: Price | null;
  readonly volume: Quantity;
  /** The volume that is usual by this time of the day; null where nothing is known. */
  readonly usualVolume: number | null;
  /** When the day's high and low were made. */
  readonly highAt: number | null;
  readonly lowAt: number | null;
  readonly halted: boolean;
  /** Up to when this is known. */
  readonly asOf: number;
  /** False where nobody watches it and it is known by the minute only. */
  readonly live: boolean;
}

export const LIVE_LISTS = ['risers', 'fallers', 'most active', 'unusually active', 'new highs', 'new lows', 'gaps up', 'gaps down', 'halted'] as const;
export type LiveListName = (typeof LIVE_LISTS)[number];

export interface LiveListFilter {
  readonly venue?: VenueId | undefined;
  readonly kind?: InstrumentKind | undefined;
  readonly sector?: string | undefined;
  /** In whole currency. */
  readonly leastPrice?: number | undefined;
  /** In whole quantity. */
  readonly leastVolume?: number | undefined;
}

/** New highs and lows are those of the last minutes. */
const RECENT_MS = 15 * 60_000;

const change = (from: Price | null, to: Price | null): number | null => (from === null || to === null || from <= 0 ? null : to / from - 1);

/**
 * One of the lists over all instruments, best first: a share of change for risers, fallers and gaps (last or
 * open against the previous settlement), value traded, volume against the usual by now, the time of the extreme.
 */
export function liveList(
  name: LiveListName,
  figures: Iterable<DayFigures>,
  instrumentOf: (id: string) => Instrument,
  filter: LiveListFilter,
  now: number,
  limit: number,
): { readonly figures: DayFigures; readonly measure: number }[] {
  const found: { figures: DayFigures; measure: number }[] = [];
  for (const one of figures) {
    const instrument = instrumentOf(one.instrument);
    if (!passes(instrument, one, filter)) continue;
    const measure = measureOf(name, instrument, one, now);
    if (measure !== null) found.push({ figures: one, measure });
  }
  const falling = name === 'fallers' || name === 'gaps down' ? 1 : -1;
  return found.sort((a, b) => falling * (a.measure - b.measure) || (a.figures.instrument < b.figures.instrument ? -1 : 1)).slice(0, limit);
}

function passes(instrument: Instrument, one: DayFigures, { venue, kind, sector, leastPrice, leastVolume }: LiveListFilter): boolean {
  const price = one.last ?? one.previousSettlement;
  return (
    (venue === undefined || instrument.venue === venue) &&
    (kind === undefined || instrument.kind === kind) &&
    (sector === undefined || instrument.sector === sector) &&
    (leastPrice === undefined || (price !== null && price / 10 ** instrument.priceDecimals >= leastPrice)) &&
    (leastVolume === undefined || one.volume / 10 ** instrument.quantityDecimals >= leastVolume)
  );
}

/** What a list orders by; null where the instrument does not belong there. */
function measureOf(name: LiveListName, instrument: Instrument, one: DayFigures, now: number): number | null {
  const { last, open, previousSettlement, volume, usualVolume, highAt, lowAt } = one;
  const moved = change(previousSettlement, last);
  const gap = change(previousSettlement, open);
  const recent = (at: number | null): number | null => (at !== null && now - at <= RECENT_MS ? at : null);
  switch (name) {
    case 'risers':
      return moved !== null && moved > 0 ? moved : null;
    case 'fallers':
      return moved !== null && moved < 0 ? moved : null;
    case 'most active':
      return last === null || volume === 0 ? null : (last * volume * instrument.multiplier) / 10 ** (instrument.priceDecimals + instrument.quantityDecimals);
    case 'unusually active':
      return usualVolume === null || usualVolume <= 0 || volume === 0 ? null : volume / usualVolume;
    case 'new highs':
      return recent(highAt);
    case 'new lows':
      return recent(lowAt);
    case 'gaps up':
      return gap !== null && gap > 0 ? gap : null;
    case 'gaps down':
      return gap !== null && gap < 0 ? gap : null;
    case 'halted':
      return one.halted ? one.asOf : null;
    default:
      return name satisfies never;
  }
}
