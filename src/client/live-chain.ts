import type { Instrument } from '../core/instrument/index.ts';
import { expiryTime } from '../core/market/index.ts';
import { decimalText } from '../core/number/index.ts';
import { dividendYieldAt, optionTerms, readOption, yearsBetween, type UnderlyingNow } from '../core/options/index.ts';
import type { AnswerOf, ApiQuote } from '../live/index.ts';

export type Chain = AnswerOf<'GET /api/options/{underlying}'>;
export type ChainRow = Chain['rows'][number];
export type ChainCell = NonNullable<ChainRow['call']>;

const said = (value: number | null | undefined): string | null => (value == null || !Number.isFinite(value) ? null : decimalText(value));
const sameQuote = (cell: ChainCell, { bid, ask, last, volume }: ApiQuote): boolean =>
  cell.bid === bid && cell.ask === ask && cell.last === last && cell.volume === volume;

/** What a chain is brought up to date with. */
export interface ChainMarket {
  instrumentOf(id: string): Instrument | undefined;
  /** The newest quote; undefined while none has come. */
  quote(id: string): ApiQuote | undefined;
  /** Signed units of all accounts. */
  held(id: string): string;
  /** Market time in milliseconds; null while it is not known. */
  now(): number | null;
}

/** A cell as its quote has it now, read with what its underlying says. */
function cellNow(cell: ChainCell, market: ChainMarket, under: UnderlyingNow, moved: boolean): ChainCell {
  const option = market.instrumentOf(cell.instrument);
  const quote = market.quote(cell.instrument);
  const position = market.held(cell.instrument);
  if (!option || !quote) return position === cell.position ? cell : { ...cell, position };
  if (!moved && position === cell.position && sameQuote(cell, quote)) return cell;
  const { bid, ask, last, volume } = quote;
  const mid = bid === null || ask === null ? null : (Number(bid) + Number(ask)) / 2;
  const { impliedVolatility, value } = readOption(optionTerms(option, under), mid);
  return {
    instrument: cell.instrument,
    bid,
    ask,
    last,
    volume,
    mid: said(mid),
    impliedVolatility: said(impliedVolatility),
    delta: said(value?.delta),
    gamma: said(value?.gamma),
    theta: said(value?.theta),
    vega: said(value?.vega),
    position,
  };
}

/** A chain that is brought up to date strike by strike. */
export interface LiveChain {
  readonly chain: Chain;
  /** With which spot each of its rows was read. */
  readonly spots: readonly (string | null)[];
  /** The row to go on from. */
  readonly from: number;
  /** Rows may be left that are not up to date. */
  readonly more: boolean;
}

export const liveChain = (chain: Chain): LiveChain => ({ chain, spots: chain.rows.map(() => chain.spot), from: 0, more: false });

/**
 * A chain as the market is now: prices as the stream tells them, volatilities and greeks from them by the same
 * functions as at the server. What did not change is the very same row, so that only what changed is drawn.
 *
 * @param most so many rows are read anew; a spot that moves touches them all, and no frame is to be late for it
 */
export function chainStep({ chain, spots, from }: LiveChain, market: ChainMarket, most: number): LiveChain {
  const underlying = market.instrumentOf(chain.underlying);
  const first = chain.rows.map(({ call, put }) => call ?? put).find((cell) => cell !== null);
  const end = first ? expiryTime(market.instrumentOf(first.instrument) as Instrument) : null;
  const now = market.now();
  const mark = market.quote(chain.underlying)?.mark;
  const spot = mark == null ? (chain.spot === null ? null : Number(chain.spot)) : Number(mark);
  const years = end === null || now === null ? null : yearsBetween(now, end);
  const dividendYield = spot === null || !underlying ? null : dividendYieldAt(underlying, spot);
  const under: UnderlyingNow = { spot, years, rate: Number(chain.rate), dividendYield };
  const told = said(spot);
  const [rows, read] = [[...chain.rows], [...spots]];
  const count = rows.length;
  let [looked, changed] = [0, 0];
  for (; looked < count && changed < most; looked++) {
    const at = (from + looked) % count;
    const row = rows[at] as ChainRow;
    const moved = read[at] !== told;
    const [call, put] = [row.call, row.put].map((cell) => cell && cellNow(cell, market, under, moved));
    if (moved || call !== row.call || put !== row.put) changed++;
    if (call !== row.call || put !== row.put) rows[at] = { ...row, call: call ?? null, put: put ?? null };
    read[at] = told;
  }
  const next = { spots: read, from: count === 0 ? 0 : (from + looked) % count, more: looked < count };
  if (told === chain.spot && changed === 0) return { ...next, chain };
  return { ...next, chain: { ...chain, spot: told, years: said(years), dividendYield: said(dividendYield), rows } };
}

/** The whole of a chain as the market is now. */
export const chainNow = (chain: Chain, market: ChainMarket): Chain => chainStep(liveChain(chain), market, Infinity).chain;

/** Every option of a chain. */
export const optionsOf = ({ rows }: Chain): string[] => rows.flatMap(({ call, put }) => [call, put].flatMap((cell) => (cell ? [cell.instrument] : [])));
