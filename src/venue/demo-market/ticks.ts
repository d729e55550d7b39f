import { addTicks, gridFloor, isListed, asPrice, asQuantity, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { formatDay, sessionTimes, type BookSide, type Day, type MarketEvent } from '../../core/market/index.ts';
import { Chance, hash, textKey } from '../../core/random/index.ts';
import { tradesIn, type MinuteHistory, type Minutes } from './minutes.ts';
import type { History } from './history.ts';
import type { Profile } from './profile.ts';

/** An event of one instrument's market at a time. */
export interface SourceEvent {
  readonly time: number;
  readonly instrument: string;
  readonly event: MarketEvent;
}

export interface MinuteTrade {
  readonly time: number;
  readonly price: Price;
  readonly quantity: Quantity;
}

const MINUTE = 60_000;

const barIn = (session: Minutes, index: number) => ({
  open: asPrice(session.open[index] ?? 0),
  high: asPrice(session.high[index] ?? 0),
  low: asPrice(session.low[index] ?? 0),
  close: asPrice(session.close[index] ?? 0),
  volume: asQuantity(session.volume[index] ?? 0),
});
const LEVELS = 18;

/**
 * What happens inside the minutes of one instrument, made only while somebody looks: prints that add up
 * to the minute's bar, and a book round them. The prints of a minute are a pure function of seed,
 * instrument and minute; the book shown between them follows from where it stood.
 */
export class TickMaker {
  /** What this maker has displayed: only differences are sent. */
  private readonly shown = { bid: new Map<Price, Quantity>(), ask: new Map<Price, Quantity>() };
  private readonly instrument: Instrument;
  private readonly key: number;
  private readonly history: History;
  private readonly minutes: MinuteHistory;
  private readonly usualTrade: Quantity;
  private readonly usualSpread: number;
  private readonly usualDepth: number;
  /** Distance of bid and ask in ticks in this minute, and how much of the usual stands there. */
  private spread: number;
  private depth = 1;
  private usualRange: { day: Day; ticks: number } | null = null;

  constructor(instrument: Instrument, history: History, minutes: MinuteHistory) {
    this.instrument = instrument;
    this.key = textKey(instrument.id);
    this.history = history;
    this.minutes = minutes;
    const profile = history.profile(instrument.id);
    this.usualSpread = profile.spreadTicks;
    this.spread = profile.spreadTicks;
    this.usualTrade = usualTrade(profile);
    this.usualDepth = Math.max(1, Math.round(profile.dailyVolume / QUIET_TRADES));
  }

  /** The events of the n-th minute of a session, in order of time. */
  minute(day: Day, index: number): SourceEvent[] {
    const session = this.minutes.session(this.instrument.id, day);
    if (!session) return [];
    const start = session.start + index * MINUTE;
    const bar = barIn(session, index);
    const chance = this.chanceOf(day, index);
    const events: SourceEvent[] = [];
    const say = (time: number, event: MarketEvent): void => {
      events.push({ time, instrument: this.instrument.id, event });
    };
    const hasBook = this.instrument.kind !== 'index';
    this.feel(bar.high - bar.low, session, day);
    const prints = this.prints(bar, start, chance);
    let price = bar.open;
    let side: 'buy' | 'sell' = chance.next() < 0.5 ? 'buy' : 'sell';
    const lull = (from: number, to: number): void => {
      if (!hasBook) return;
      for (let at = from + 300 + chance.below(2600); at < to - 50; at += 400 + chance.below(3600)) this.flicker(at, price, side, chance, say);
    };
    if (hasBook) this.show(start, price, side, index, say);
    let before = start;
    for (const print of prints) {
      lull(before, print.time);
      // What is shown before a print comes after what the print before it took.
      const shownAt = Math.max(before + 4, print.time - 40);
      before = print.time;
      side = print.price > price ? 'buy' : print.price < price ? 'sell' : chance.next() < 0.5 ? 'buy' : 'sell';
      price = print.price;
      if (hasBook) this.show(shownAt, price, side, index, say);
      say(print.time, { event: 'trade', side, price, quantity: print.quantity });
      if (hasBook) this.takeShown(print.time + 3, side, price, print.quantity, say);
    }
    lull(before, start + MINUTE);
    return events.sort((a, b) => a.time - b.time);
  }

  /** The trades of the n-th minute of a session alone, as {@link minute} tells them: no book is made for them. */
  trades(day: Day, index: number): MinuteTrade[] {
    const session = this.minutes.session(this.instrument.id, day);
    return session ? this.prints(barIn(session, index), session.start + index * MINUTE, this.chanceOf(day, index)) : [];
  }

  private chanceOf(day: Day, index: number): Chance {
    return new Chance(this.history.seed, this.key, day, index, 7);
  }

  /** A minute that moves further than usual has a wider spread and a thinner book. */
  private feel(range: number, session: Minutes, day: Day): void {
    if (this.usualRange?.day !== day) {
      let sum = 0;
      for (let i = 0; i < session.high.length; i++) sum += (session.high[i] ?? 0) - (session.low[i] ?? 0);
      this.usualRange = { day, ticks: sum / Math.max(1, session.high.length) };
    }
    const moved = Math.min(4, Math.max(1, range / Math.max(1, this.usualRange.ticks)));
    this.spread = Math.max(1, Math.round(this.usualSpread * (1 + (moved - 1) * 0.7)));
    this.depth = 1 / (1 + (moved - 1) * 0.5);
  }

  /** Prints from open to close by way of low and high, their quantities summing to the minute's volume. */
  private prints(bar: { open: Price; high: Price; low: Price; close: Price; volume: Quantity }, start: number, chance: Chance): MinuteTrade[] {
    if (bar.volume === 0) return [];
    const first = bar.close >= bar.open ? bar.low : bar.high;
    const second = bar.close >= bar.open ? bar.high : bar.low;
    const must = [bar.open, first, second, bar.close].filter((price, i, all) => i === 0 || price !== all[i - 1]);
    const count = Math.max(must.length, tradesIn(bar.volume, this.usualTrade));
    const prices: Price[] = [];
    const legs = Math.max(1, must.length - 1);
    for (let i = 0; i < count; i++) {
      const at = count === 1 ? 0 : (i * legs) / (count - 1);
      const leg = Math.min(legs - 1, Math.floor(at));
      const from = must[leg] ?? bar.open;
      const to = must[Math.min(leg + 1, must.length - 1)] ?? from;
      const drawn = from + (to - from) * (at - leg) + (chance.next() - 0.5) * 1.6 * this.tick(from);
      prices.push(asPrice(Math.min(bar.high, Math.max(bar.low, gridFloor(this.instrument, asPrice(Math.max(1, Math.round(drawn))))))));
    }
    must.forEach((price, i) => {
      prices[must.length === 1 ? 0 : Math.round((i * (count - 1)) / (must.length - 1))] = price;
    });
    prices[count - 1] = bar.close;
    const quantities = split(bar.volume, count, this.usualTrade, chance);
    const times = burstTimes(count, chance);
    return prices.map((price, i) => ({ price, quantity: quantities[i] ?? asQuantity(1), time: start + (times[i] ?? 0) }));
  }

  private tick(price: Price): Price {
    return asPrice(addTicks(this.instrument, price, 1) - price);
  }

  /** The displayed book with its best prices round a price that `side` pays. */
  private target(price: Price, side: 'buy' | 'sell', salt: number): Record<BookSide, Map<Price, Quantity>> {
    const ask = side === 'buy' ? price : addTicks(this.instrument, price, this.spread);
    const bid = side === 'sell' ? price : addTicks(this.instrument, price, -this.spread);
    const book = { bid: new Map<Price, Quantity>(), ask: new Map<Price, Quantity>() };
    let up = ask;
    let down = bid;
    for (let i = 0; i < LEVELS; i++) {
      book.ask.set(up, this.sizeAt(up, i, salt));
      if (down > 0) book.bid.set(down, this.sizeAt(down, i, salt));
      up = addTicks(this.instrument, up, 1);
      down = down > 1 ? addTicks(this.instrument, down, -1) : asPrice(0);
    }
    return book;
  }

  private sizeAt(price: Price, depth: number, salt: number): Quantity {
    const draw = hash(this.history.seed, this.key, price, salt >> 2) / 4294967296;
    const size = this.depth * this.usualDepth * (0.6 + Math.min(3, depth * 0.35)) * (0.35 + 1.6 * draw * draw + 0.5 * draw);
    return this.rounded(size * 2);
  }

  /** People show tens and hundreds, not odd units. */
  private rounded(size: number): Quantity {
    const to = size > 2000 ? 100 : size > 60 ? 10 : 1;
    return asQuantity(Math.max(1, Math.round(size / to) * to));
  }

  private show(time: number, price: Price, side: 'buy' | 'sell', salt: number, say: (time: number, event: MarketEvent) => void): void {
    const target = this.target(price, side, salt);
    for (const of of ['bid', 'ask'] as const) {
      const shown = this.shown[of];
      for (const old of [...shown.keys()])
        if (!target[of].has(old)) {
          shown.delete(old);
          say(time, { event: 'level', side: of, price: old, quantity: asQuantity(0) });
        }
    }
    for (const of of ['bid', 'ask'] as const) {
      const shown = this.shown[of];
      for (const [at, quantity] of target[of])
        if (shown.get(at) === undefined || (salt & 3) === 0) {
          if (shown.get(at) === quantity) continue;
          shown.set(at, quantity);
          say(time, { event: 'level', side: of, price: at, quantity });
        }
    }
  }

  private takeShown(time: number, side: 'buy' | 'sell', price: Price, quantity: Quantity, say: (time: number, event: MarketEvent) => void): void {
    const of = side === 'buy' ? 'ask' : 'bid';
    const there = this.shown[of].get(price);
    if (there === undefined) return;
    const left = asQuantity(Math.max(this.rounded(this.usualTrade * 0.3), there - quantity));
    if (left === there) return;
    this.shown[of].set(price, left);
    say(time, { event: 'level', side: of, price, quantity: left });
  }

  private flicker(time: number, price: Price, side: 'buy' | 'sell', chance: Chance, say: (time: number, event: MarketEvent) => void): void {
    const of = chance.next() < 0.5 ? 'bid' : 'ask';
    const depth = Math.floor(chance.next() * chance.next() * 8);
    const best =
      of === 'ask'
        ? side === 'buy'
          ? price
          : addTicks(this.instrument, price, this.spread)
        : side === 'sell'
          ? price
          : addTicks(this.instrument, price, -this.spread);
    const at = addTicks(this.instrument, best, of === 'ask' ? depth : -depth);
    const there = this.shown[of].get(at);
    if (there === undefined) return;
    const next = this.rounded(there * (0.6 + 0.9 * chance.next()));
    if (next === there) return;
    this.shown[of].set(at, next);
    say(time, { event: 'level', side: of, price: at, quantity: next });
  }
}

/** A minute's moments of trade, rising: one trade seldom comes alone, and what it sets off comes within a second. */
function burstTimes(count: number, chance: Chance): number[] {
  const times: number[] = [];
  while (times.length < count) {
    const size = Math.min(count - times.length, 1 + Math.floor(-2.2 * Math.log(1 - chance.next())));
    let at = 120 + chance.next() * (MINUTE - 3600);
    for (let i = 0; i < size; i++) {
      times.push(Math.min(MINUTE - 2200, Math.floor(at)));
      at += -160 * Math.log(1 - chance.next());
    }
  }
  times.sort((a, b) => a - b);
  for (let i = 1; i < count; i++) times[i] = Math.max(times[i] ?? 0, (times[i - 1] ?? 0) + LEAST_GAP_MS);
  return times;
}

const LEAST_GAP_MS = 6;

/** Trades a day of what is little traded. */
const QUIET_TRADES = 5200;
const BUSIEST_TRADES = 60_000;
/** Value traded a day, in whole currency, from which trades come closer together. */
const BUSY_VALUE = 2_000_000;

/** How often an instrument trades in a day: the more is traded, the more often, not the larger. */
export function tradesADay({ dailyVolume, price, instrument }: Profile): number {
  const value = (dailyVolume / 10 ** instrument.quantityDecimals) * price * instrument.multiplier;
  return Math.min(dailyVolume, BUSIEST_TRADES, QUIET_TRADES * Math.max(1, (value / BUSY_VALUE) ** 2));
}

const usualTrade = (profile: Profile): Quantity => asQuantity(Math.max(1, Math.round(profile.dailyVolume / tradesADay(profile))));

/** Splits a volume into `count` parts of at least 1, most of them round. */
function split(volume: Quantity, count: number, usual: Quantity, chance: Chance): Quantity[] {
  const parts: Quantity[] = [];
  let left: number = volume;
  for (let i = 0; i < count - 1; i++) {
    const fair = (left / (count - i)) * (0.4 + 1.2 * chance.next());
    const to = usual > 40 ? 10 : 1;
    const part = Math.max(1, Math.min(left - (count - 1 - i), Math.round(fair / to) * to));
    parts.push(asQuantity(part));
    left -= part;
  }
  parts.push(asQuantity(left));
  return parts;
}

/** Changes of state in a session: pre-open, open, halts and their ends, closed. */
export function stateEvents(instrument: Instrument, day: Day, halted: ReadonlySet<number>): SourceEvent[] {
  const { preOpen, open, close } = sessionTimes(instrument.venue, day);
  const events: SourceEvent[] = [];
  const say = (time: number, state: 'pre-open' | 'open' | 'halted' | 'closed'): void => {
    events.push({ time, instrument: instrument.id, event: { event: 'state', state } });
  };
  if (instrument.venue === 'VSPR' || !isListed(instrument, formatDay(day))) return events;
  if (preOpen !== null) say(preOpen, 'pre-open');
  say(open, 'open');
  for (const minute of halted) {
    if (!halted.has(minute - 1)) say(open + minute * MINUTE, 'halted');
    if (!halted.has(minute + 1)) say(open + (minute + 1) * MINUTE, 'open');
  }
  say(close, 'closed');
  return events.sort((a, b) => a.time - b.time);
}
