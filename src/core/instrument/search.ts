import type { Instrument } from './instrument.ts';

/**
 * Instruments that match a text, best first: exact ticker, ticker that begins with it, a word of the name
 * that begins with it, then anything that contains it. Listings of one ticker stay together.
 */
export function searchInstruments(instruments: Iterable<Instrument>, text: string): Instrument[] {
  const wanted = text.trim().toUpperCase();
  const found: { rank: number; instrument: Instrument }[] = [];
  for (const instrument of instruments) {
    const rank = rankOf(instrument, wanted);
    if (rank !== null) found.push({ rank, instrument });
  }
  return found.sort((a, b) => a.rank - b.rank || compare(a.instrument, b.instrument)).map(({ instrument }) => instrument);
}

function rankOf(instrument: Instrument, wanted: string): number | null {
  if (wanted === '') return 0;
  const { ticker, id } = instrument;
  const name = instrument.name.toUpperCase();
  if (ticker === wanted || id === wanted) return 0;
  if (ticker.startsWith(wanted) || id.startsWith(wanted)) return 1;
  if (name.startsWith(wanted)) return 2;
  if (name.split(' ').some((word) => word.startsWith(wanted))) return 3;
  return ticker.includes(wanted) || name.includes(wanted) || instrument.sector?.toUpperCase().startsWith(wanted) ? 4 : null;
}

const compare = (a: Instrument, b: Instrument): number =>
  a.ticker < b.ticker ? -1 : a.ticker > b.ticker ? 1 : a.venue < b.venue ? -1 : a.venue > b.venue ? 1 : 0;
