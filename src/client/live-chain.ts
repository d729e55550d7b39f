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

/**
 * A chain as the market is now: prices as the stream tells them, volatilities and greeks from them by the same
 * functions as at the server. What did not change is the very same row, so that only what changed is drawn.
 */
export function chainNow(chain: Chain, market: ChainMarket): Chain {
  const underlying = market.instrumentOf(chain.underlying);
  const first = chain.rows.map(({ call, put }) => call ?? put).find((cell) => cell !== null);
  const end = first ? expiryTime(market.instrumentOf(first.instrument) as Instrument) : null;
  const now = market.now();
  const mark = market.quote(chain.underlying)?.mark;
  const spot = mark == null ? (chain.spot === null ? null : Number(chain.spot)) : Number(mark);
  const years = end === null || now === null ? null : yearsBetween(now, end);
  const under: UnderlyingNow = {
    spot,
    years,
    rate: Number(chain.rate),
    dividendYield: spot === null || !underlying ? null : dividendYieldAt(underlying, spot),
  };
  const moved = said(spot) !== chain.spot;
  const rows = chain.rows.map((row) => {
    const [call, put] = [row.call, row.put].map((cell) => cell && cellNow(cell, market, under, moved));
    return call === row.call && put === row.put ? row : { ...row, call: call ?? null, put: put ?? null };
  });
  if (!moved && rows.every((row, i) => row === chain.rows[i])) return chain;
  return { ...chain, spot: said(spot), years: said(years), dividendYield: said(under.dividendYield), rows };
}

/** Every option of a chain. */
export const optionsOf = ({ rows }: Chain): string[] => rows.flatMap(({ call, put }) => [call, put].flatMap((cell) => (cell ? [cell.instrument] : [])));
