import Papa from 'papaparse';
import { readTapeRow, type TapeRow } from '../core/market/index.ts';
import { formatPrice, formatQuantity, type Instrument, type Price, type Quantity } from '../core/instrument/index.ts';
import type { ApiQuote } from '../live/index.ts';
import type { HeardMarket } from './order-reading.ts';

/** Rows of a book on a side, the best first. */
export type DrillSide = readonly { readonly price: Price; readonly quantity: Quantity }[];

/** The book of a tape at a moment. */
export interface DrillBook {
  readonly bids: DrillSide;
  readonly asks: DrillSide;
  readonly last: Price | null;
}

/**
 * Reads a tape of one instrument's book.
 *
 * @throws Error naming the line that is none
 */
export function readDrillTape(text: string, instrument: Instrument): TapeRow[] {
  const { data } = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true });
  const instruments = new Map([[instrument.id, instrument]]);
  return data.map((cells, i) => {
    try {
      return readTapeRow(cells as Parameters<typeof readTapeRow>[0], instruments);
    } catch (error) {
      throw new Error(`line ${i + 2} of the tape: ${(error as Error).message}`, { cause: error });
    }
  });
}

/** How long a tape is, in milliseconds. */
export const lengthOf = (rows: readonly TapeRow[]): number => (rows[rows.length - 1]?.time ?? 0) - (rows[0]?.time ?? 0);

/** The book after so many milliseconds of a tape, which begins again when it is over. */
export function bookAt(rows: readonly TapeRow[], passed: number): DrillBook {
  const until = (rows[0]?.time ?? 0) + (passed % (lengthOf(rows) + 1));
  const levels = { bid: new Map<Price, Quantity>(), ask: new Map<Price, Quantity>() };
  let last: Price | null = null;
  for (const row of rows) {
    if (row.time > until) break;
    if (!('market' in row)) continue;
    const { market } = row;
    if (market.event === 'trade') last = market.price;
    if (market.event !== 'level') continue;
    if (market.quantity === 0) levels[market.side].delete(market.price);
    else levels[market.side].set(market.price, market.quantity);
  }
  const side = (of: ReadonlyMap<Price, Quantity>, way: 1 | -1): DrillSide =>
    [...of].map(([price, quantity]) => ({ price, quantity })).sort((a, b) => way * (a.price - b.price));
  return { bids: side(levels.bid, -1), asks: side(levels.ask, 1), last };
}

/** A market that is this book alone: an account with nothing, which may trade the instrument. */
export function marketOf(instrument: Instrument, account: string, { bids, asks, last }: DrillBook): HeardMarket {
  const say = (price: Price | null | undefined): string | null => (price === null || price === undefined ? null : formatPrice(instrument, price));
  const [bid, ask] = [bids[0], asks[0]];
  const quote = {
    instrument: instrument.id,
    state: 'open',
    bid: say(bid?.price),
    bidQuantity: bid ? formatQuantity(instrument, bid.quantity) : null,
    ask: say(ask?.price),
    askQuantity: ask ? formatQuantity(instrument, ask.quantity) : null,
    last: say(last),
    open: null,
    high: null,
    low: null,
    previousSettlement: null,
  } as unknown as ApiQuote;
  return {
    now: null,
    accounts: [{ id: account, venues: [instrument.venue], kinds: [instrument.kind], commission: [] }],
    instrumentOf: (id) => (id === instrument.id ? instrument : undefined),
    listingsOf: (ticker) => (ticker === instrument.ticker ? [instrument] : []),
    quote: (id) => (id === instrument.id ? quote : undefined),
    position: () => undefined,
  };
}
