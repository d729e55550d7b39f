import { TAPE_HEAD, tapeLine } from '../core/formats/index.ts';
import type { Instrument } from '../core/instrument/index.ts';
import type { BookSide, TapeRow } from '../core/market/index.ts';
import { NO_QUANTITY } from '../core/instrument/index.ts';
import type { Listing } from './listing.ts';

const SIDES: readonly BookSide[] = ['bid', 'ask'];

/**
 * Writes a running market down as a tape: replayed with the same orders at the same times it fills them as it did.
 * Its instruments are those a tape may hold; they stay awake, so that nothing of them is missing.
 */
export class Recorder {
  private readonly instruments: ReadonlyMap<string, Instrument>;
  private readonly write: (line: string) => void;
  /** The levels that stand on the tape, by instrument. */
  private readonly shown = new Map<string, Map<string, Extract<TapeRow, { market: unknown }>['market'] & { event: 'level' }>>();

  /** @param write takes a line without its end */
  constructor(instruments: ReadonlyMap<string, Instrument>, write: (line: string) => void) {
    this.instruments = instruments;
    this.write = write;
    write(TAPE_HEAD);
  }

  get ids(): Iterable<string> {
    return this.instruments.keys();
  }

  has(instrument: string): boolean {
    return this.instruments.has(instrument);
  }

  /** A market as it stands from now on: what of it is on the tape already is not written again. */
  stands(time: number, { instrument: { id }, book }: Listing): void {
    if (!this.has(id)) return;
    const row = (market: Extract<TapeRow, { market: unknown }>['market']): void => this.happened({ time, instrument: id, market });
    const now = SIDES.flatMap((side) => book.levels(side, Infinity).map(({ price, quantity }) => ({ event: 'level', side, price, quantity }) as const));
    const stays = new Set(now.map(({ side, price }) => `${side} ${price}`));
    for (const [key, level] of [...(this.shown.get(id) ?? [])]) if (!stays.has(key)) row({ ...level, quantity: NO_QUANTITY });
    for (const level of now) if (this.shown.get(id)?.get(`${level.side} ${level.price}`)?.quantity !== level.quantity) row(level);
    row({ event: 'state', state: book.state });
    const { lower, upper } = book.limits;
    for (const [bound, price] of [
      ['lower', lower],
      ['upper', upper],
    ] as const)
      if (price !== null) row({ event: 'price-limit', bound, price });
  }

  /** What happened in a market, or a headline; of an instrument that is on no tape it is one of the whole market. */
  happened(row: TapeRow): void {
    if ('news' in row) {
      this.write(tapeLine({ ...row, instrument: row.instrument !== null && this.has(row.instrument) ? row.instrument : null }, this.instruments));
      return;
    }
    if (!this.has(row.instrument)) return;
    if (row.market.event === 'level') {
      const levels = this.shown.get(row.instrument) ?? new Map<string, typeof row.market>();
      const key = `${row.market.side} ${row.market.price}`;
      if (row.market.quantity === 0) levels.delete(key);
      else levels.set(key, row.market);
      this.shown.set(row.instrument, levels);
    }
    this.write(tapeLine(row, this.instruments));
  }
}
