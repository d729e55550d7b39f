import { VENUES, asPrice, tickAt } from '../instrument/index.ts';
import { isTradingDay, localDay, previousTradingDay, type Day } from '../market/index.ts';
import { QUOTE_COLUMNS, SETTLED_STRIDE, type MarketColumns, type QuoteColumn } from './columns.ts';
import { EXACT, exactly } from './evaluation.ts';

type Cell = (columns: MarketColumns, i: number) => number;
/** What a column has of an instrument, by the column's name: where it lies among them is found once. */
export const CELLS = Object.fromEntries(
  QUOTE_COLUMNS.map((name, at): [string, Cell] => [name, (columns, i) => (i < 0 ? NaN : ((columns.table.numbers[at] as Float64Array)[i] as number))]),
) as Record<QuoteColumn, Cell>;

export const percentOf = (now: number, then: number): number => ((now - then) / then) * 100;

/** The fields of a quote: prices, quantities and their differences exact, what is divided as it comes. */
export function quoteField(name: string): { exact: boolean; get: (columns: MarketColumns, i: number) => number } {
  const exact = (get: (columns: MarketColumns, i: number) => number): { exact: boolean; get: typeof get } => ({ exact: true, get });
  const inexact = (get: (columns: MarketColumns, i: number) => number): { exact: boolean; get: typeof get } => ({ exact: false, get });
  const mid = (columns: MarketColumns, i: number): number => (exactly(CELLS.bid(columns, i)) + exactly(CELLS.ask(columns, i))) / 2 / EXACT;
  const less = (a: QuoteColumn, b: QuoteColumn) => (columns: MarketColumns, i: number) =>
    (exactly(CELLS[a](columns, i)) - exactly(CELLS[b](columns, i))) / EXACT;
  switch (name) {
    case 'last':
    case 'bid':
    case 'ask':
    case 'open':
    case 'high':
    case 'low':
    case 'volume':
      return exact(CELLS[name]);
    case 'mid':
      return exact(mid);
    case 'spread':
      return exact(less('ask', 'bid'));
    case 'mark':
      return exact((columns, i) => {
        const last = CELLS.lastToday(columns, i);
        if (!Number.isNaN(last)) return last;
        const middle = mid(columns, i);
        return Number.isNaN(middle) ? CELLS.previousClose(columns, i) : middle;
      });
    case 'vwap':
      return inexact((columns, i) => CELLS.turnover(columns, i) / (CELLS.dayVolume(columns, i) * multiplierOf(columns, i)));
    case 'turnover':
      return inexact(CELLS.turnover);
    case 'range':
      return exact(less('high', 'low'));
    case 'change':
      return exact(less('lastToday', 'previousClose'));
    case 'change %':
      return inexact((columns, i) => percentOf(CELLS.lastToday(columns, i), CELLS.previousClose(columns, i)));
    case 'gap %':
      return inexact((columns, i) => percentOf(CELLS.open(columns, i), CELLS.previousClose(columns, i)));
    case 'previous high':
      return exact(CELLS.previousHigh);
    case 'previous low':
      return exact(CELLS.previousLow);
    case 'previous close':
      return exact(CELLS.previousClose);
    case 'usual volume':
      return inexact(CELLS.usualVolume);
    case 'relative volume':
      return inexact((columns, i) => CELLS.volume(columns, i) / CELLS.usualVolume(columns, i));
    case 'shares outstanding':
      return exact(CELLS.sharesOutstanding);
    case 'market value':
      return inexact((columns, i) => CELLS.sharesOutstanding(columns, i) * CELLS.last(columns, i));
    case 'earnings per share':
      return exact(CELLS.earningsPerShare);
    case 'price to earnings':
      return inexact((columns, i) => CELLS.last(columns, i) / CELLS.earningsPerShare(columns, i));
    case 'dividend per share':
      return exact(CELLS.dividendPerShare);
    case 'dividend yield':
      return inexact((columns, i) => (CELLS.dividendPerShare(columns, i) / CELLS.last(columns, i)) * 100);
    default:
      throw new Error(`no quote has ${name}`);
  }
}

export const multiplierOf = (columns: MarketColumns, i: number): number => columns.instruments[i]?.multiplier ?? 1;

/** The tick of the band in which an instrument's price lies now, in whole currency. */
export function tickOf(columns: MarketColumns, i: number): number {
  const instrument = columns.instruments[i];
  if (!instrument) return NaN;
  const near = ['last', 'bid', 'ask', 'previousClose'] as const;
  const price = near.map((name) => CELLS[name](columns, i)).find((one) => !Number.isNaN(one));
  if (price === undefined) return NaN;
  const unit = 10 ** instrument.priceDecimals;
  return tickAt(instrument, asPrice(Math.round(price * unit))) / unit;
}

/** The settlement that a change over days, weeks or months is against; NaN where history does not go back so far. */
export function settledBack(columns: MarketColumns, i: number, count: number, unit: 'days' | 'weeks' | 'months'): number {
  const venue = columns.venue(i);
  let day = columns.today(i);
  if (unit === 'days') for (let k = 0; k < count; k++) day = previousTradingDay(venue, day);
  else {
    const date = localDay(VENUES[venue].zone, columns.now);
    day = unit === 'weeks' ? date - 7 * count : monthsBack(date, count);
    while (!isTradingDay(VENUES[venue], day)) day--;
  }
  const settled = columns.settlements[i] as Float64Array;
  let low = 0;
  let high = settled.length / SETTLED_STRIDE;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((settled[middle * SETTLED_STRIDE] as number) <= day) low = middle + 1;
    else high = middle;
  }
  return low === 0 ? NaN : (settled[(low - 1) * SETTLED_STRIDE + 1] as number);
}

function monthsBack(day: Day, months: number): Day {
  const date = new Date(day * 86_400_000);
  const first = Date.UTC(date.getUTCFullYear(), date.getUTCMonth() - months, 1);
  const length = new Date(Date.UTC(new Date(first).getUTCFullYear(), new Date(first).getUTCMonth() + 1, 0)).getUTCDate();
  return first / 86_400_000 + Math.min(date.getUTCDate(), length) - 1;
}
