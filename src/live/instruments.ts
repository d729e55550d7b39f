import type { Instrument, InstrumentKind, Price, VenueId } from '../core/instrument/index.ts';
import { VENUES, VENUE_IDS, asPrice, asQuantity, parsePrice } from '../core/instrument/index.ts';
import { request } from './api.ts';
import type { ApiInstrument } from './shapes.ts';

const known = new Map<string, Instrument>();

/** Every instrument, by id. Loaded once, before anything is drawn. */
export const instruments: ReadonlyMap<string, Instrument> = known;

const decimalsOf = (text: string): number => text.split('.')[1]?.length ?? 0;

/** An instrument as the core computes with it. */
function toCore(from: ApiInstrument): Instrument {
  const priceDecimals = Math.max(...from.tickBands.map(({ tick }) => decimalsOf(tick)));
  const units = (text: string): Price => asPrice(Math.round(Number(text) * 10 ** priceDecimals));
  const share = (text: string): number => Math.round(Number(text) * 10_000);
  return {
    id: from.id,
    ticker: from.ticker,
    venue: from.venue as VenueId,
    name: from.name,
    kind: from.kind as InstrumentKind,
    currency: from.currency as Instrument['currency'],
    settlesIn: from.inverse ? 'CARB' : (from.currency as Instrument['currency']),
    sector: from.sector,
    priceDecimals,
    quantityDecimals: decimalsOf(from.quantityStep),
    tickBands: from.tickBands.map(({ from: start, tick }) => ({ from: units(start), tick: units(tick) })),
    minimumQuantity: asQuantity(Math.round(Number(from.minimumQuantity) * 10 ** decimalsOf(from.quantityStep))),
    multiplier: Number(from.multiplier ?? 1),
    underlying: from.underlying,
    expiry: from.expiry,
    strike: from.strike === null ? null : units(from.strike),
    right: from.right as Instrument['right'],
    margin: { overnight: share(from.margin.overnight), intraday: share(from.margin.intraday), maintenance: share(from.margin.maintenance) },
    fundamentals: from.fundamentals,
    listsOn: from.listsOn,
  };
}

/** @returns false where not all could be read */
export async function loadInstruments(): Promise<boolean> {
  const pages = await Promise.all(VENUE_IDS.map((venue) => request('GET /api/instruments', { query: { venue, limit: 1000 } })));
  for (const page of pages) if (page.ok) for (const item of page.value.items) known.set(item.id, toCore(item));
  optioned = null;
  return pages.every(({ ok }) => ok);
}

let optioned: ReadonlySet<string> | null = null;

/** Whether there are options of an instrument. */
export function hasOptions(id: string): boolean {
  optioned ??= new Set([...known.values()].flatMap(({ kind, underlying }) => (kind === 'option' && underlying !== null ? [underlying] : [])));
  return optioned.has(id);
}

export const instrumentOf = (id: string): Instrument | undefined => known.get(id);

/** An instrument's ticker, without its venue. */
export const tickerOf = (id: string): string => id.slice(0, id.lastIndexOf('.'));

/** The time zone an instrument is traded in; the first venue's where it is not known. */
export const zoneOf = (id: string | null): string => VENUES[(id === null ? undefined : known.get(id))?.venue ?? 'HALM'].zone;

/** A price of the API in the instrument's units; null stays null. */
export const priceOf = (instrument: Instrument, text: string | null): Price | null => (text === null ? null : parsePrice(instrument, text));
