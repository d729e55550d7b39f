import { presentQuote as textsOf } from '../../src/desk/present/index.ts';
import { instrument, type World } from './world.ts';

type QuoteAnswer = ReturnType<typeof textsOf>;

/** An instrument's quote as the API tells it. */
export async function presentQuote(w: World, id = 'GANET.HALM'): Promise<QuoteAnswer> {
  await w.desk.market.ensure([id]);
  const quote = w.desk.market.quote(id);
  if (!quote) throw new Error(`no quote of ${id}`);
  return textsOf(instrument(id), quote);
}

/** Some of its fields in a line, with a dash for what is not known. */
export const quoteTexts = (quote: QuoteAnswer, ...fields: readonly ('last' | 'previousSettlement' | 'change' | 'mark')[]): string =>
  fields.map((field) => quote[field] ?? '–').join(' ');
