import { NO_QUANTITY, asPrice, asQuantity, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { previousTradingDay, tradingDay, type Day, type DayFigures } from '../../core/market/index.ts';
import type { Headlines } from './headlines.ts';
import type { History } from './history.ts';
import type { MinuteHistory, Minutes } from './minutes.ts';

const MINUTE = 60_000;
const USUAL_DAYS = 20;

/** What is known of an instrument's day, with the turnover of its counted minutes. */
export type CountedDay = DayFigures & { readonly turnover: bigint };

/** An instrument's day as far as its full minutes were counted. */
interface Count {
  day: Day;
  minutes: number;
  open: Price | null;
  last: Price | null;
  high: Price | null;
  low: Price | null;
  highAt: number | null;
  lowAt: number | null;
  volume: Quantity;
  turnover: bigint;
  readonly usualDay: number;
  readonly previousSettlement: Price | null;
  /** What was last told of it, as of so many minutes. */
  told: { readonly minutes: number; readonly figures: CountedDay } | null;
}

/** Counts the day of every instrument by the minute, a few at a time, from the same minutes that bars are made of. */
export class DaySurvey {
  private readonly counts = new Map<string, Count>();
  private readonly instruments: readonly Instrument[];
  private readonly history: History;
  private readonly minutes: MinuteHistory;
  private readonly headlines: Headlines;
  private next = 0;

  constructor(instruments: readonly Instrument[], history: History, minutes: MinuteHistory, headlines: Headlines) {
    this.instruments = instruments;
    this.history = history;
    this.minutes = minutes;
    this.headlines = headlines;
  }

  /** Brings the next few instruments up to a time. */
  step(time: number, count: number): void {
    for (let i = 0; i < Math.min(count, this.instruments.length); i++) {
      const instrument = this.instruments[this.next] as Instrument;
      this.next = (this.next + 1) % this.instruments.length;
      this.countUpTo(instrument, time);
    }
  }

  /** What is known, oldest counts and all; instruments not counted yet are left out. */
  figures(): DayFigures[] {
    return this.instruments.flatMap((instrument) => {
      const count = this.counts.get(instrument.id);
      return count ? [this.figuresOf(instrument, count)] : [];
    });
  }

  /** What is known of one instrument, the same object until more of it is counted; null where it was not counted yet. */
  of(id: string): CountedDay | null {
    const count = this.counts.get(id);
    if (!count) return null;
    if (count.told?.minutes !== count.minutes) {
      const { minutes, turnover } = count;
      count.told = { minutes, figures: { ...this.figuresOf(this.history.profile(id).instrument, count), turnover } };
    }
    return count.told.figures;
  }

  private countUpTo(instrument: Instrument, time: number): void {
    const day = tradingDay(instrument.venue, time);
    let count = this.counts.get(instrument.id);
    if (!count || count.day !== day) this.counts.set(instrument.id, (count = this.begin(instrument, day)));
    const session = this.minutes.session(instrument.id, day);
    if (!session) return;
    const full = Math.min(session.volume.length, Math.floor((time - session.start) / MINUTE));
    for (; count.minutes < full; count.minutes++) countMinute(count, session, count.minutes);
  }

  private begin(instrument: Instrument, day: Day): Count {
    let total = 0;
    let days = 0;
    for (let before = previousTradingDay(instrument.venue, day), i = 0; i < USUAL_DAYS; i++, before = previousTradingDay(instrument.venue, before)) {
      const bar = this.history.day(instrument.id, before);
      if (!bar) break;
      total += bar.volume;
      days++;
    }
    return {
      day,
      minutes: 0,
      open: null,
      last: null,
      high: null,
      low: null,
      highAt: null,
      lowAt: null,
      volume: NO_QUANTITY,
      turnover: 0n,
      usualDay: days === 0 ? 0 : total / days,
      previousSettlement: this.history.day(instrument.id, previousTradingDay(instrument.venue, day))?.close ?? null,
      told: null,
    };
  }

  private figuresOf(instrument: Instrument, count: Count): DayFigures {
    const session = this.minutes.session(instrument.id, count.day);
    const length = session?.volume.length ?? 1;
    const { open, last, high, low, highAt, lowAt, volume, previousSettlement } = count;
    return {
      instrument: instrument.id,
      open,
      last,
      high,
      low,
      highAt,
      lowAt,
      volume,
      previousSettlement,
      usualVolume: count.usualDay === 0 ? null : (count.usualDay * count.minutes) / length,
      halted: this.headlines.haltedMinutes(instrument, count.day).has(count.minutes),
      asOf: (session?.start ?? 0) + count.minutes * MINUTE,
      live: false,
    };
  }
}

function countMinute(count: Count, session: Minutes, i: number): void {
  const volume = session.volume[i] ?? 0;
  if (volume === 0) return;
  const end = session.start + (i + 1) * MINUTE;
  const high = asPrice(session.high[i] ?? 0);
  const low = asPrice(session.low[i] ?? 0);
  count.open ??= asPrice(session.open[i] ?? 0);
  count.last = asPrice(session.close[i] ?? 0);
  if (count.high === null || high > count.high) [count.high, count.highAt] = [high, end];
  if (count.low === null || low < count.low) [count.low, count.lowAt] = [low, end];
  count.volume = asQuantity(count.volume + volume);
  count.turnover += (BigInt(high + low + 2 * count.last) * BigInt(volume)) / 4n;
}
