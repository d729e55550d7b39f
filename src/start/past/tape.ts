import type { Idea, PastHistory } from '../../../demo/habits.ts';
import type { TapeRow } from '../../core/market/index.ts';
import { NO_QUANTITY, addTicks, asPrice, asQuantity, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { sessionTimes, type Day, type MarketEvent } from '../../core/market/index.ts';
import type { Minutes } from '../../venue/demo-market/minutes.ts';

const MINUTE = 60_000;
/** Displayed at each price, in EUR or thereabouts: more than the habits ever take. */
const DEPTH_VALUE = 150_000;

/**
 * The market of a day as far as the ideas need it, from its history by the minute: each minute runs from its open by
 * low and high to its close, where something may happen on that way; else it is shown now and then.
 */
export function dayRows(day: Day, ideas: readonly Idea[], held: readonly Instrument[], history: PastHistory): TapeRow[] {
  const rows: TapeRow[] = [];
  const instruments = new Map(ideas.map(({ instrument }) => [instrument.id, instrument]));
  for (const instrument of instruments.values()) {
    const minutes = history.sessionOf(instrument.id, day);
    if (minutes)
      rows.push(
        ...rowsOf(
          instrument,
          minutes,
          day,
          ideas.filter((idea) => idea.instrument === instrument),
        ),
      );
  }
  for (const instrument of [...held, ...instruments.values()]) {
    const price = history.closeOf(instrument.id, day);
    if (price !== undefined)
      rows.push({ time: sessionTimes(instrument.venue, day).close - 1, instrument: instrument.id, market: { event: 'settlement', price } });
  }
  return rows.sort((a, b) => a.time - b.time);
}

interface Shown {
  readonly bid: Price;
  readonly ask: Price;
}
type Row = (time: number, market: MarketEvent) => TapeRow;

const levelsOf = (row: Row, time: number, { bid, ask }: Shown, quantity: Quantity): TapeRow[] => [
  row(time, { event: 'level', side: 'bid', price: bid, quantity }),
  row(time, { event: 'level', side: 'ask', price: ask, quantity }),
];

function* rowsOf(instrument: Instrument, minutes: Minutes, day: Day, ideas: readonly Idea[]): Generator<TapeRow, void> {
  const { open, close } = sessionTimes(instrument.venue, day);
  const row: Row = (time, market) => ({ time, instrument: instrument.id, market });
  yield row(open, { event: 'state', state: 'open' });
  const levels = ideas.flatMap((idea) => idea.levels);
  const from = Math.min(...ideas.map((idea) => idea.from));
  const to = Math.max(...ideas.map((idea) => idea.to));
  const depth = asQuantity(Math.ceil(DEPTH_VALUE / ((minutes.close[0] ?? 1) / 10 ** instrument.priceDecimals)) * 10 ** instrument.quantityDecimals);
  let shown: Shown | null = null;
  for (let i = Math.max(0, Math.floor((from - open) / MINUTE)); i < Math.min(minutes.close.length, Math.ceil((to - open) / MINUTE)); i++) {
    if (minutes.volume[i] === 0) continue;
    const path = pathOf(minutes, i, levels);
    for (const [at, price] of path.entries()) {
      const time = open + i * MINUTE + Math.floor((at * MINUTE) / path.length);
      const next = { bid: price, ask: addTicks(instrument, price, 1) };
      if (shown?.bid !== next.bid) {
        if (shown) yield* levelsOf(row, time, shown, NO_QUANTITY);
        yield* levelsOf(row, time, next, depth);
        shown = next;
      }
      const quantity = asQuantity(Math.max(1, Math.floor((minutes.volume[i] ?? 1) / path.length)));
      yield row(time, { event: 'trade', side: at % 2 === 0 ? 'buy' : 'sell', price, quantity });
    }
  }
  if (shown) yield* levelsOf(row, to + MINUTE, shown, NO_QUANTITY);
  if (close < open + 24 * 60 * MINUTE) yield row(close, { event: 'state', state: 'closed' });
}

/** Without anything that could happen the market is shown this often. */
const SHOWN_EVERY = 15;

/** The prices that a minute is shown at: on its way by the nearer extreme first, those where something waits. */
function pathOf(minutes: Minutes, i: number, levels: readonly Price[]): Price[] {
  const [open = 0, high = 0, low = 0, close = 0] = [minutes.open[i], minutes.high[i], minutes.low[i], minutes.close[i]];
  const near = levels.filter((level) => level >= low && level <= high);
  if (near.length === 0) return i % SHOWN_EVERY === 0 ? [asPrice(close)] : [];
  const turns = close >= open ? [open, low, high, close] : [open, high, low, close];
  const path: number[] = near.includes(asPrice(open)) ? [open] : [];
  for (let n = 1; n < turns.length; n++) {
    const [before = 0, after = 0] = [turns[n - 1], turns[n]];
    const passed = near.filter((level) => level !== before && (level - before) * (level - after) <= 0).sort((a, b) => (after > before ? a - b : b - a));
    path.push(...passed.filter((price, k) => price !== (passed[k - 1] ?? path[path.length - 1])));
  }
  if (path[path.length - 1] !== close) path.push(close);
  return path.map(asPrice);
}
