import { VENUES, asPrice, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { sessionTimes, type Day } from '../../core/market/index.ts';
import { Chance, textKey } from '../../core/random/index.ts';
import { derivedPrice, toGrid, type DailyBar, type History } from './history.ts';
import { headlineJumps, type Headlines } from './headlines.ts';
import type { Profile } from './profile.ts';

const MINUTE = 60_000;
/** A minute's usual move, as a share of the price: a basis wanders further when the market does. */
const USUAL_MOVE = 0.0006;

/** A session by the minute, index 0 the first minute. A minute with volume 0 had no trade. */
export interface Minutes {
  readonly start: number;
  readonly open: Int32Array;
  readonly high: Int32Array;
  readonly low: Int32Array;
  readonly close: Int32Array;
  readonly volume: Float64Array;
}

const KEPT_SESSIONS = 2600;

/**
 * Minute bars that add up to the daily bar exactly: a pure function of seed, instrument and session,
 * made when asked for and kept in a bounded cache.
 */
export class MinuteHistory {
  private readonly cache = new Map<string, Minutes>();
  private readonly factors = new Map<string, Float64Array>();
  private readonly history: History;
  private readonly headlines: Headlines;

  constructor(history: History, headlines: Headlines) {
    this.history = history;
    this.headlines = headlines;
  }

  session(instrument: string, day: Day): Minutes | null {
    const key = `${instrument} ${day}`;
    const kept = this.cache.get(key);
    if (kept) return kept;
    const daily = this.history.day(instrument, day);
    if (!daily) return null;
    const made = this.make(this.history.profile(instrument), daily);
    this.cache.set(key, made);
    if (this.cache.size > KEPT_SESSIONS) this.cache.delete(this.cache.keys().next().value as string);
    return made;
  }

  private make(profile: Profile, daily: DailyBar): Minutes {
    const { instrument } = profile;
    const { open: start, close: end } = sessionTimes(instrument.venue, daily.day);
    const count = Math.round((end - start) / MINUTE);
    const path = this.path(profile, daily, count);
    fitToBar(path, daily);
    const halted = this.headlines.haltedMinutes(instrument, daily.day);
    return barsAlong(instrument, path, daily, start, this.volumes(profile, daily, count, halted), halted, this.history.seed);
  }

  /** Prices at the ends of the minutes, path[0] the open: factors, own noise, jumps, bridged to the day's close. */
  private path(profile: Profile, daily: DailyBar, count: number): Float64Array {
    const { instrument, follows } = profile;
    const path = new Float64Array(count + 1);
    const units = 10 ** instrument.priceDecimals;
    const followed = follows ? this.history.profile(follows.instrument).instrument : null;
    const source = followed ? this.session(followed.id, daily.day) : null;
    if (followed && source) {
      const chance = new Chance(this.history.seed, textKey(instrument.id), daily.day, 3);
      // How dear it is against what it follows wanders slowly and comes back: noise anew each minute would be undone in the next.
      let basis = 0;
      // How far the market has moved of late: what follows it is unsure for as long.
      let restless = 1;
      let before = 0;
      const wander = instrument.kind === 'inverse' ? 0.0021 : 0.00004;
      for (let i = 0; i <= count; i++) {
        const at = i === 0 ? source.open[0] : source.close[Math.min(i - 1, source.close.length - 1)];
        const moved = Math.min(4, Math.abs(Math.log((at ?? 1) / (before || (at ?? 1)))) / USUAL_MOVE);
        before = at ?? 0;
        restless = 0.9 * restless + 0.1 * moved;
        basis = 0.985 * basis + wander * (0.55 + 0.45 * restless) * chance.normal();
        const fair = derivedPrice(profile, followed, daily.day, (at ?? 1) / 10 ** followed.priceDecimals);
        path[i] = Math.log(Math.max(fair * units * (1 + basis), 1));
      }
    } else {
      const index = this.factor('index', daily.day, count);
      const sector = this.factor(`sector ${this.history.sectorOf(profile)}`, daily.day, count);
      const chance = new Chance(this.history.seed, textKey(instrument.id), daily.day, 2);
      const jumps = headlineJumps(this.headlines.of(daily.day), instrument.id);
      const scale = 1 / Math.sqrt(count);
      const shape = dayShapes(count);
      for (let i = 1; i <= count; i++) {
        const step =
          profile.indexBeta * 0.006 * (index[i] ?? 0) +
          (this.history.sectorOf(profile) < 0 ? 0 : profile.sectorBeta * 0.005 * (sector[i] ?? 0)) +
          profile.ownVolatility * chance.normal();
        path[i] = (path[i - 1] ?? 0) + step * scale * (shape[i] ?? 0) + (jumps.get(i - 1) ?? 0);
      }
    }
    const first = path[0] ?? 0;
    const last = path[count] ?? 0;
    const from = Math.log(daily.open);
    const to = Math.log(daily.close);
    for (let i = 0; i <= count; i++) path[i] = Math.exp((path[i] ?? 0) - first + from + ((to - from - (last - first)) * i) / count);
    return path;
  }

  private factor(name: string, day: Day, count: number): Float64Array {
    const key = `${name} ${day} ${count}`;
    let found = this.factors.get(key);
    if (!found) {
      const chance = new Chance(this.history.seed, textKey(name), day, 4);
      found = Float64Array.from({ length: count + 1 }, () => chance.normal());
      this.factors.set(key, found);
      if (this.factors.size > 400) this.factors.delete(this.factors.keys().next().value as string);
    }
    return found;
  }

  private volumes(profile: Profile, daily: DailyBar, count: number, halted: ReadonlySet<number>): Float64Array {
    const chance = new Chance(this.history.seed, textKey(profile.instrument.id), daily.day, 5);
    const weights = new Float64Array(count);
    let sum = 0;
    const round = VENUES[profile.instrument.venue].weekends;
    const shape = dayShapes(count);
    for (let i = 0; i < count; i++) {
      const weight = halted.has(i) ? 0 : (round ? 1 : (shape[i] ?? 0)) * Math.exp(0.8 * chance.normal());
      weights[i] = weight;
      sum += weight;
    }
    let left: number = daily.volume;
    for (let i = 0; i < count; i++) {
      const share = Math.min(left, Math.floor(((weights[i] ?? 0) / sum) * daily.volume));
      weights[i] = share;
      left -= share;
    }
    weights[count - 1] = (weights[count - 1] ?? 0) + left;
    return weights;
  }
}

/** More is traded, and prices move further, near the open and the close. */
const shapeAt = (at: number): number => 0.7 + 1.1 * Math.exp(-14 * at) + 0.7 * Math.exp(-14 * (1 - at));
const shapes = new Map<number, Float64Array>();
/** How much of the usual each minute of a session of so many has, its end too. */
function dayShapes(count: number): Float64Array {
  let shape = shapes.get(count);
  if (!shape) {
    shape = Float64Array.from({ length: count + 1 }, (_, i) => shapeAt(i / count));
    shapes.set(count, shape);
  }
  return shape;
}

/** Bends a path so that it reaches the day's high and low and nothing beyond them. */
function fitToBar(path: Float64Array, daily: DailyBar): void {
  const top = Math.max(daily.open, daily.close);
  const bottom = Math.min(daily.open, daily.close);
  calm(path, daily);
  fold(path, daily);
  let above = 0;
  let below = 0;
  for (const price of path) {
    above = Math.max(above, price - top);
    below = Math.max(below, bottom - price);
  }
  // A path that hardly leaves the way from open to close is given one excursion instead of a spike.
  const steep = (missing: number, excess: number): boolean => missing > 0 && excess * STEEPEST < missing;
  if (steep(daily.high - top, above)) above = Math.max(above, excursion(path, daily, 1, top));
  if (steep(bottom - daily.low, below)) below = Math.max(below, excursion(path, daily, -1, bottom));
  for (let i = 0; i < path.length; i++) {
    const price = path[i] ?? 0;
    if (price > top) path[i] = top + ((price - top) / above) * (daily.high - top);
    else if (price < bottom) path[i] = bottom - ((bottom - price) / below) * (bottom - daily.low);
  }
}

/** A path may leave the day's range by this share of it before it is turned back. */
const OVERSHOOT = 0.25;

/** Shrinks a path's way about the line from open to close until it hardly leaves the day's range: a quiet day has quiet minutes. */
function calm(path: Float64Array, { open, close, high, low }: DailyBar): void {
  const room = OVERSHOOT * (high - low);
  const line = (i: number): number => open + ((close - open) * i) / (path.length - 1);
  let share = 1;
  for (let i = 0; i < path.length; i++) {
    const away = (path[i] ?? 0) - line(i);
    if (away > 0) share = Math.min(share, (high + room - line(i)) / away);
    else if (away < 0) share = Math.min(share, (line(i) - low + room) / -away);
  }
  for (let i = 0; i < path.length; i++) path[i] = line(i) + ((path[i] ?? 0) - line(i)) * share;
}

/** Turns a path back where it would leave the day's range: it stays rough there, and is never cut flat. */
function fold(path: Float64Array, { high, low }: DailyBar): void {
  const reach = high - low;
  for (let i = 0; i < path.length; i++) {
    const beyond = (path[i] ?? low) - low;
    if (reach === 0) path[i] = low;
    else if (beyond < 0 || beyond > reach) {
      const round = ((beyond % (2 * reach)) + 2 * reach) % (2 * reach);
      path[i] = low + Math.min(round, 2 * reach - round);
    }
  }
}

/** Excesses are stretched this much at most. */
const STEEPEST = 3;

/** Leans a stretch of the path towards the day's extreme, roughness and all; returns the excess beyond `bound` then. */
function excursion(path: Float64Array, daily: DailyBar, way: 1 | -1, bound: number): number {
  const span = Math.floor(path.length / (2 + (daily.volume % 3)));
  const nearest = daily.close >= daily.open === way > 0 ? path.length - 2 * span : span;
  const from = Math.max(1, Math.min(path.length - span - 2, nearest + (daily.volume % 40)));
  const height = way > 0 ? daily.high - bound : bound - daily.low;
  const wobble = roughness(path.subarray(from, from + span + 1));
  let excess = 0;
  for (let i = 0; i <= span; i++) {
    const lean = (1 - Math.abs((2 * i) / span - 1) ** 1.5) * (1 + 0.4 * (wobble[i] ?? 0));
    path[from + i] = (path[from + i] ?? bound) + way * lean * height * 1.2;
    excess = Math.max(excess, way * ((path[from + i] ?? bound) - bound));
  }
  return excess;
}

/** How a stretch of a path moves about the line between its ends, from −1 to 1. */
function roughness(stretch: Float64Array): Float64Array {
  const last = stretch.length - 1;
  const [from = 0, to = 0] = [stretch[0], stretch[last]];
  const away = stretch.map((price, i) => price - from - ((to - from) * i) / last);
  const most = away.reduce((found, one) => Math.max(found, Math.abs(one)), 0);
  return most === 0 ? away : away.map((one) => one / most);
}

/** A minute needs this many steps of quantity to show four prices. */
const ENOUGH = 4;

function barsAlong(
  instrument: Instrument,
  path: Float64Array,
  daily: DailyBar,
  start: number,
  volume: Float64Array,
  halted: ReadonlySet<number>,
  seed: number,
): Minutes {
  const count = volume.length;
  const chance = new Chance(seed, textKey(instrument.id), daily.day, 6);
  const units = 10 ** instrument.priceDecimals;
  const grid = (price: number): Price => toGrid(instrument, price / units);
  const clamp = (price: Price): Price => asPrice(Math.min(daily.high, Math.max(daily.low, price)));
  const open = new Int32Array(count);
  const high = new Int32Array(count);
  const low = new Int32Array(count);
  const close = new Int32Array(count);
  let before: Price = daily.open;
  let highest = -1;
  let lowest = -1;
  for (let i = 0; i < count; i++) {
    if (halted.has(i)) {
      open[i] = high[i] = low[i] = close[i] = before;
      continue;
    }
    const end = i === count - 1 ? daily.close : clamp(grid(path[i + 1] ?? 0));
    const reach = Math.abs((path[i + 1] ?? 0) - (path[i] ?? 0)) * 0.5 * chance.next() + chance.next() * 0.8 * (instrument.tickBands[0]?.tick ?? 1);
    open[i] = before;
    close[i] = end;
    const thin = (volume[i] ?? 0) < ENOUGH;
    if (thin) open[i] = end;
    high[i] = thin ? end : clamp(asPrice(Math.max(before, end, grid(Math.max(before, end) + reach))));
    low[i] = thin ? end : clamp(asPrice(Math.min(before, end, grid(Math.max(1, Math.min(before, end) - reach)))));
    before = end;
    if ((volume[i] ?? 0) < 1) continue;
    if (highest < 0 || (high[i] ?? 0) > (high[highest] ?? 0)) highest = i;
    if (lowest < 0 || (low[i] ?? 0) < (low[lowest] ?? 0)) lowest = i;
  }
  const minutes: Minutes = { start, open, high, low, close, volume };
  const first = firstTraded(volume, halted);
  lend(volume, first);
  lend(volume, highest);
  lend(volume, lowest);
  lend(volume, count - 1);
  open[first] = daily.open;
  high[first] = Math.max(high[first] ?? 0, daily.open);
  low[first] = Math.min(low[first] ?? 0, daily.open);
  high[highest] = daily.high;
  low[lowest] = daily.low;
  return minutes;
}

function firstTraded(volume: Float64Array, halted: ReadonlySet<number>): number {
  for (let i = 0; i < volume.length; i++) if (!halted.has(i) && (volume[i] ?? 0) > 0) return i;
  return 0;
}

/** Gives a minute enough volume to show its prices, from the minute that has most. */
function lend(volume: Float64Array, to: number): void {
  const missing = ENOUGH - (volume[to] ?? 0);
  if (missing <= 0) return;
  let most = 0;
  for (let i = 0; i < volume.length; i++) if ((volume[i] ?? 0) > (volume[most] ?? 0)) most = i;
  volume[most] = (volume[most] ?? 0) - missing;
  volume[to] = ENOUGH;
}

/** The quantity of a minute that must not be split finer than this many trades. */
export const tradesIn = (volume: Quantity, usual: number): number => Math.max(1, Math.min(MOST_TRADES, Math.round(volume / Math.max(1, usual)), volume));

/** No minute has more trades than this. */
export const MOST_TRADES = 300;
