import { InstrumentSearch, type Found } from '../core/instrument/index.ts';
import { instruments } from './instruments.ts';

let index: { readonly of: number; readonly search: InstrumentSearch } | null = null;

/** What matches a text, best first; the index is made when it is first asked, and anew when more are known. */
export function findInstruments(text: string): Found[] {
  if (index?.of !== instruments.size) index = { of: instruments.size, search: new InstrumentSearch(instruments.values()) };
  return index.search.find(text);
}
