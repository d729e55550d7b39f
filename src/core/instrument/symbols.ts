import type { Instrument } from './instrument.ts';

export interface ReadSymbols {
  readonly known: readonly { readonly line: number; readonly instrument: Instrument }[];
  readonly unknown: readonly { readonly line: number; readonly text: string }[];
}

/** The order in which a ticker without a venue is looked for. */
const HOME_FIRST = ['HALM', 'QUAY', 'VSPR'] as const;

/**
 * Reads symbols, one to a line: an id such as `GANET.HALM`, or a ticker, which means its home listing.
 * Case does not matter; empty lines are passed over. Unknown ones are named with their line, from 1.
 */
export function readSymbols(lines: readonly string[], instruments: ReadonlyMap<string, Instrument>): ReadSymbols {
  const known: { line: number; instrument: Instrument }[] = [];
  const unknown: { line: number; text: string }[] = [];
  lines.forEach((raw, i) => {
    const text = raw.trim().toUpperCase();
    if (text === '') return;
    const instrument = instruments.get(text) ?? HOME_FIRST.map((venue) => instruments.get(`${text}.${venue}`)).find((found) => found !== undefined);
    if (instrument) known.push({ line: i + 1, instrument });
    else unknown.push({ line: i + 1, text: raw.trim() });
  });
  return { known, unknown };
}
