import type { Instrument } from '../instrument/index.ts';
import { PhraseFault } from './reader.ts';
import type { Span } from './tokens.ts';

/**
 * The one listing that a phrase means: with its venue that one, else the only one there is to choose from.
 *
 * @param fits whether a listing is one to choose from: of the account, of the universe
 * @throws PhraseFault at the word, naming the listings where there are several
 */
export function listingMeant(
  named: Span & { readonly text: string },
  find: { instrumentOf(id: string): Instrument | undefined; listingsOf(ticker: string): readonly Instrument[] },
  fits: (instrument: Instrument) => boolean = () => true,
): Instrument {
  const at = { from: named.from, to: named.to };
  if (named.text.includes('.')) {
    const found = find.instrumentOf(named.text);
    if (!found) throw new PhraseFault({ ...at, message: `${named.text} is not known`, expected: ['an instrument'] });
    return found;
  }
  const all = find.listingsOf(named.text);
  const fitting = all.filter(fits);
  const meant = fitting.length > 0 ? fitting : all;
  const [one] = meant;
  if (!one) throw new PhraseFault({ ...at, message: `${named.text} is not known`, expected: ['an instrument'] });
  if (meant.length === 1) return one;
  const ids = meant.map(({ id }) => id);
  throw new PhraseFault({ ...at, message: `${named.text} has several listings: ${ids.join(', ')}`, expected: ids.slice(0, 12) });
}
