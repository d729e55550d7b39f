import MiniSearch from 'minisearch';
import type { Instrument } from './instrument.ts';

const MONTHS = ['january', 'february', 'march', 'april', 'may', 'june', 'july', 'august', 'september', 'october', 'november', 'december'];

interface Entry {
  readonly id: string;
  readonly ticker: string;
  readonly name: string;
  readonly more: string;
}

export interface Found {
  readonly instrument: Instrument;
  /** How well it matches: 0 the ticker itself, 1 its beginning, 2 the name's beginning, 3 words, 4 nearly. */
  readonly rank: number;
}

const words = (text: string): string[] => text.toLowerCase().split(/[^\p{L}\p{N}]+/u).filter(Boolean); // prettier-ignore

/** Everything besides ticker and name by which an instrument is looked for. */
function moreOf({ sector, kind, venue, expiry, strike, right, priceDecimals, underlying }: Instrument): string {
  const month = expiry === null ? '' : `${MONTHS[Number(expiry.slice(5, 7)) - 1] ?? ''} ${expiry.slice(0, 4)} ${expiry}`;
  return [sector, kind, venue, month, strike === null ? '' : String(strike / 10 ** priceDecimals), right, underlying].filter(Boolean).join(' ');
}

/**
 * Looks instruments up by ticker, name, sector, kind, expiry and strike: whole words, their beginnings, and words
 * that are nearly so. Every word asked for must be found. Built once over all instruments.
 */
export class InstrumentSearch {
  private readonly index: MiniSearch<Entry>;
  private readonly instruments = new Map<string, Instrument>();

  constructor(instruments: Iterable<Instrument>) {
    this.index = new MiniSearch<Entry>({
      fields: ['ticker', 'name', 'more'],
      tokenize: words,
      processTerm: (term) => term,
    });
    for (const instrument of instruments) this.instruments.set(instrument.id, instrument);
    this.index.addAll([...this.instruments.values()].map((one) => ({ id: one.id, ticker: one.ticker, name: one.name, more: moreOf(one) })));
  }

  /** What matches, best first; other listings of a ticker stand right behind the first. All of them for an empty text. */
  find(text: string): Found[] {
    const wanted = text.trim().toUpperCase();
    if (wanted === '') return [...this.instruments.values()].sort(byTicker).map((instrument) => ({ instrument, rank: 0 }));
    const found = this.index
      .search(wanted, {
        combineWith: 'AND',
        prefix: true,
        // Short words are meant as they stand; longer ones may miss a letter or two.
        fuzzy: (term) => (term.length > 3 && !/\d/.test(term) ? 0.25 : false),
        boost: { ticker: 4, name: 2 },
      })
      .flatMap(({ id, score }) => {
        const instrument = this.instruments.get(String(id));
        return instrument ? [{ instrument, score, rank: rankOf(instrument, wanted) }] : [];
      });
    // A piece from the middle of a ticker or name is found where nothing better is.
    if (found.length === 0)
      for (const instrument of this.instruments.values())
        if (instrument.ticker.includes(wanted) || instrument.name.toUpperCase().includes(wanted)) found.push({ instrument, score: 0, rank: 4 });
    found.sort((a, b) => a.rank - b.rank || (a.rank >= 3 ? b.score - a.score : 0) || byTicker(a.instrument, b.instrument));
    return together(found.map(({ instrument, rank }) => ({ instrument, rank })));
  }
}

function rankOf({ ticker, id, name, sector }: Instrument, wanted: string): number {
  if (ticker === wanted || id === wanted) return 0;
  if (ticker.startsWith(wanted) || id.startsWith(wanted)) return 1;
  const upper = name.toUpperCase();
  if (upper.startsWith(wanted)) return 2;
  const text = `${upper} ${sector?.toUpperCase() ?? ''} ${ticker}`;
  return wanted.split(/\s+/).every((word) => text.includes(word)) ? 3 : 4;
}

/** Listings of one company stand together where the first of them stands. */
function together(found: readonly Found[]): Found[] {
  const groups = new Map<string, Found[]>();
  for (const one of found) {
    const group = groups.get(one.instrument.ticker);
    if (group) group.push(one);
    else groups.set(one.instrument.ticker, [one]);
  }
  return [...groups.values()].flat();
}

/** By ticker, then venue; what expires by its last day first. */
const byTicker = (a: Instrument, b: Instrument): number =>
  a.expiry !== null && b.expiry !== null && a.name === b.name && a.expiry !== b.expiry ? (a.expiry < b.expiry ? -1 : 1) : byName(a, b);

const byName = (a: Instrument, b: Instrument): number =>
  a.ticker < b.ticker ? -1 : a.ticker > b.ticker ? 1 : a.venue < b.venue ? -1 : a.venue > b.venue ? 1 : 0;
