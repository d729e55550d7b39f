import { gridCeil, gridFloor, tickAt, asPrice, asQuantity, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { isTradingDay, parseDay, type Day } from '../../core/market/index.ts';
import { VENUES } from '../../core/instrument/index.ts';
import { Chance, textKey } from '../../core/random/index.ts';
import { optionValue } from './option-value.ts';
import type { DemoWorld, Profile } from './profile.ts';

/** The first demo day and how far history and future reach around it, in trading days. */
export const FIRST_DAY = parseDay('2026-03-02');
const DAYS_BEFORE = 520;
const DAYS_AFTER = 420;

const INDEX_VOLATILITY = 0.007;
const SECTOR_VOLATILITY = 0.006;
/** No day moves further than this from the settlement before, so that day limits at 10 % are never in the way of history. */
const FURTHEST = 0.085;

/** One trading day of an instrument, in its units. */
export interface DailyBar {
  readonly day: Day;
  readonly open: Price;
  readonly high: Price;
  readonly low: Price;
  readonly close: Price;
  readonly volume: Quantity;
}

const CELLS = 5;

/** An instrument's daily bars, oldest first, as columns: of a whole universe they would be a million objects. */
class Series {
  private readonly cells: Int32Array;
  private readonly volumes: Float64Array;

  constructor(bars: readonly DailyBar[]) {
    this.cells = new Int32Array(bars.length * CELLS);
    bars.forEach(({ day, open, high, low, close }, i) => this.cells.set([day, open, high, low, close], i * CELLS));
    this.volumes = Float64Array.from(bars, ({ volume }) => volume);
  }

  private at(i: number): DailyBar {
    const [day, open, high, low, close] = this.cells.subarray(i * CELLS, (i + 1) * CELLS) as unknown as [Day, Price, Price, Price, Price];
    return { day, open, high, low, close, volume: asQuantity(this.volumes[i] ?? 0) };
  }

  all(): DailyBar[] {
    return Array.from(this.volumes, (_volume, i) => this.at(i));
  }

  first(): DailyBar | undefined {
    return this.volumes.length === 0 ? undefined : this.at(0);
  }

  of(day: Day): DailyBar | undefined {
    let [low, high] = [0, this.volumes.length - 1];
    while (low <= high) {
      const middle = (low + high) >> 1;
      const found = this.cells[middle * CELLS] ?? 0;
      if (found === day) return this.at(middle);
      if (found < day) low = middle + 1;
      else high = middle - 1;
    }
    return undefined;
  }
}

/** Rounds a price in whole currency to the instrument's grid. */
export function toGrid(instrument: Instrument, price: number, way: 'near' | 'up' | 'down' = 'near'): Price {
  const units = Math.max(price * 10 ** instrument.priceDecimals, instrument.tickBands[0]?.tick ?? 1);
  if (way === 'up') return gridCeil(instrument, asPrice(Math.ceil(units - 1e-9)));
  if (way === 'down') return asPrice(Math.max(gridFloor(instrument, asPrice(Math.floor(units + 1e-9))), instrument.tickBands[0]?.tick ?? 1));
  const near = asPrice(Math.round(units));
  const tick = tickAt(instrument, near);
  const above = near % tick;
  return above === 0 || (near > above && above <= tick - above) ? asPrice(near - above) : asPrice(near - above + tick);
}

/** The trading days, round a first day, of a venue that trades on weekdays or on every day. */
function tradingDays(venue: Instrument['venue']): Day[] {
  const days: Day[] = [];
  for (let day = FIRST_DAY - 1; days.length < DAYS_BEFORE; day--) if (isTradingDay(VENUES[venue], day)) days.unshift(day);
  for (let day = FIRST_DAY; days.length < DAYS_BEFORE + DAYS_AFTER; day++) if (isTradingDay(VENUES[venue], day)) days.push(day);
  return days;
}

/**
 * Daily bars of every instrument: a pure function of seed and instrument, made when first asked for.
 * Log returns are an index factor, a sector factor and the instrument's own part.
 */
export class History {
  readonly seed: number;
  private readonly profiles: ReadonlyMap<string, Profile>;
  private readonly sectors: readonly string[];
  private readonly series = new Map<string, Series>();

  constructor(world: DemoWorld, seed: number) {
    this.seed = seed;
    this.profiles = new Map(world.profiles.map((profile) => [profile.instrument.id, profile]));
    this.sectors = world.sectors;
  }

  profile(instrument: string): Profile {
    const found = this.profiles.get(instrument);
    if (!found) throw new Error(`no profile of ${instrument}`);
    return found;
  }

  sectorOf(profile: Profile): number {
    return this.sectors.indexOf(profile.instrument.sector ?? '');
  }

  daily(instrument: string): readonly DailyBar[] {
    return this.seriesOf(instrument).all();
  }

  /** The first day that there is anything of. */
  firstDay(instrument: string): Day | undefined {
    return this.seriesOf(instrument).first()?.day;
  }

  day(instrument: string, day: Day): DailyBar | undefined {
    return this.seriesOf(instrument).of(day);
  }

  private seriesOf(instrument: string): Series {
    let found = this.series.get(instrument);
    if (!found) {
      const profile = this.profile(instrument);
      this.series.set(instrument, (found = new Series(profile.follows === null ? this.own(profile) : this.derived(profile))));
    }
    return found;
  }

  /** The shared part of a day's log return. */
  private shared(profile: Profile, day: Day): number {
    const index = new Chance(this.seed, textKey('index'), day).normal() * INDEX_VOLATILITY;
    const sector = this.sectorOf(profile);
    const ofSector = sector < 0 ? 0 : new Chance(this.seed, textKey('sector'), sector, day).normal() * SECTOR_VOLATILITY;
    return profile.indexBeta * index + profile.sectorBeta * ofSector;
  }

  private own(profile: Profile): DailyBar[] {
    const { instrument } = profile;
    const key = textKey(instrument.id);
    const { listsOn } = instrument;
    const listed = listsOn === null ? -Infinity : parseDay(listsOn);
    const days = tradingDays(instrument.venue).filter((day) => day >= listed);
    const first = days.findIndex((day) => day >= FIRST_DAY);
    const returns = days.map((day) => {
      const chance = new Chance(this.seed, key, day);
      return Math.max(-FURTHEST * 0.8, Math.min(FURTHEST * 0.8, this.shared(profile, day) + profile.ownVolatility * chance.normal()));
    });
    const logs = new Float64Array(days.length + 1);
    for (let i = first; i < days.length; i++) logs[i + 1] = (logs[i] ?? 0) + (returns[i] ?? 0);
    for (let i = first - 1; i >= 0; i--) logs[i] = (logs[i + 1] ?? 0) - (returns[i] ?? 0);
    const volatility = Math.hypot(profile.ownVolatility, profile.indexBeta * INDEX_VOLATILITY, profile.sectorBeta * SECTOR_VOLATILITY);
    return days.map((day, i) => {
      const chance = new Chance(this.seed, key, day, 1);
      const before = profile.price * Math.exp(logs[i] ?? 0);
      const close = profile.price * Math.exp(logs[i + 1] ?? 0);
      const moved = (logs[i + 1] ?? 0) - (logs[i] ?? 0);
      const overnight = 0.3 * moved + 0.1 * volatility * chance.normal();
      // A venue that never closes has no night to leap over.
      const open = before * Math.exp(VENUES[instrument.venue].weekends || moved === 0 ? 0 : overnight);
      const reach = (): number => Math.abs(chance.normal()) * volatility * 0.55;
      const high = Math.min(before * (1 + FURTHEST), Math.max(open, close) * Math.exp(reach()));
      const low = Math.max(before * (1 - FURTHEST), Math.min(open, close) * Math.exp(-reach()));
      const busy = Math.exp(0.35 * chance.normal() + (0.25 * Math.abs(returns[i] ?? 0)) / (volatility || 1));
      return barOnGrid(instrument, day, { open, high, low, close }, asQuantity(Math.max(60, Math.round(profile.dailyVolume * busy))));
    });
  }

  private derived(profile: Profile): DailyBar[] {
    const { instrument, follows } = profile;
    const of = this.profile(follows?.instrument ?? '').instrument;
    const key = textKey(instrument.id);
    const open = new Set(tradingDays(instrument.venue));
    return this.daily(of.id)
      .filter((bar) => open.has(bar.day))
      .map((bar) => {
        const chance = new Chance(this.seed, key, bar.day, 1);
        const map = (price: Price): number => derivedPrice(profile, of, bar.day, price / 10 ** of.priceDecimals);
        const values = [map(bar.open), map(bar.high), map(bar.low), map(bar.close)] as const;
        const prices = { open: values[0], high: Math.max(...values), low: Math.min(...values), close: values[3] };
        return barOnGrid(instrument, bar.day, prices, asQuantity(Math.max(60, Math.round(profile.dailyVolume * Math.exp(0.4 * chance.normal())))));
      });
  }
}

function barOnGrid(instrument: Instrument, day: Day, prices: { open: number; high: number; low: number; close: number }, volume: Quantity): DailyBar {
  const open = toGrid(instrument, prices.open);
  const close = toGrid(instrument, prices.close);
  return {
    day,
    open,
    close,
    high: asPrice(Math.max(open, close, toGrid(instrument, prices.high))),
    low: asPrice(Math.min(open, close, toGrid(instrument, prices.low))),
    volume,
  };
}

const expiries = new Map<string, Day>();
/** Few days are expiries, and each is asked for at every price. */
function expiryDay(text: string): Day {
  let day = expiries.get(text);
  if (day === undefined) expiries.set(text, (day = parseDay(text)));
  return day;
}

/** The price of a derived instrument, in whole currency, for a price of what it follows. */
export function derivedPrice(profile: Profile, followed: Instrument, day: Day, price: number): number {
  const { instrument, follows } = profile;
  switch (follows?.by) {
    case 'parity':
    case undefined:
      return price;
    case 'carry':
      if (instrument.kind === 'fund') return price / 25;
      return price * (1 + (instrument.expiry === null ? 0.0005 : (0.02 * Math.max(0, expiryDay(instrument.expiry) - day)) / 365));
    case 'option': {
      const years = Math.max(0, expiryDay(instrument.expiry ?? '2026-12-18') - day + 0.5) / 365;
      return optionValue(price, (instrument.strike ?? 0) / 10 ** followed.priceDecimals, years, 0.3, instrument.right ?? 'call');
    }
    default:
      throw new Error(`${instrument.id} follows nothing known`);
  }
}
