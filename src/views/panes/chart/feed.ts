import { VENUES } from '../../../core/instrument/index.ts';
import { localDay, localTime, minutesIn, minutesOf, sessionTimes, tradingDay, type Interval } from '../../../core/market/index.ts';
import { request, follow, type ApiBar } from '../../../live/index.ts';
import type { ChartModel, Compared, Level } from './model.ts';

const FIRST_BARS = 600;
const OLDER_BARS = 1500;
const DAY_MS = 86_400_000;

/** Milliseconds between the starts of two bars that follow one another. */
export function intervalMs(interval: string): number {
  if (interval === '1d') return DAY_MS;
  if (interval === '1w') return 7 * DAY_MS;
  return minutesIn(interval as Exclude<Interval, '1d' | '1w'>) * 60_000;
}

type LiveBar = ApiBar & { readonly before: ApiBar | null };
/** Bars that a chart catches up with after a loss. */
const MOST_MISSED = 5000;

const barsOf = (id: string, interval: string, range: { from?: string; to?: string; limit: number }) =>
  request('GET /api/bars/{id}', { path: { id }, query: { interval, ...range } });

/** Whether a bar lies in the exchange's usual hours, for a venue that never closes. */
function inUsualHours(time: number): boolean {
  const { zone, session } = VENUES.HALM;
  if (!session) return true;
  const minutes = (time - localTime(zone, localDay(zone, time), 0)) / 60_000;
  return minutes >= minutesOf(session.open) && minutes < minutesOf(session.close);
}

export interface FeedListener {
  /** First or older bars came: every index is another now. */
  readonly loaded: () => void;
  /** The market went on; `from` is the first bar that changed. */
  readonly live: (from: number) => void;
}

/** Brings the bars of a chart: the first ones, older ones as they are wanted, live ones as they come. */
export class BarFeed {
  private readonly model: ChartModel;
  private readonly interval: string;
  private readonly onlyUsualHours: boolean;
  private readonly heard: FeedListener;
  private loading = false;
  /** Missed bars are on their way; the newest one waits for them. */
  private filling = false;
  private waiting: LiveBar | null = null;
  private atStart = false;
  private stopLive: () => void = () => undefined;
  private stopped = false;

  constructor(model: ChartModel, interval: string, hours: string, heard: FeedListener) {
    this.model = model;
    this.interval = interval;
    this.onlyUsualHours = hours === 'session' && model.instrument.venue === 'VSPR' && intervalMs(interval) < DAY_MS;
    this.heard = heard;
  }

  /** @returns false where there are no bars at all */
  async start(): Promise<boolean> {
    const { series, instrument } = this.model;
    const loaded = await barsOf(instrument.id, this.interval, { limit: FIRST_BARS });
    if (this.stopped) return false;
    if (loaded.ok) await this.prependUsual(loaded.value.items);
    if (this.stopped) return false;
    this.stopLive = follow<LiveBar | null>(`bars:${instrument.id}:${this.interval}`, (data) => data && this.take(data));
    this.heard.loaded();
    return series.length > 0;
  }

  /** The newest bars; where none of them is in the usual hours, older ones, as far as a night and a day reach. */
  private async prependUsual(newest: readonly ApiBar[]): Promise<void> {
    const { series, instrument } = this.model;
    let bars = newest;
    for (let tries = 0; tries < 6; tries++) {
      series.prepend(this.wanted(bars));
      const first = bars[0];
      if (series.length > 0 || first === undefined) return;
      const older = await barsOf(instrument.id, this.interval, { limit: FIRST_BARS, to: first.time });
      if (!older.ok) return;
      bars = older.value.items;
    }
  }

  /** The newest bar and the one before it. Bars that were missed in between are asked for first. */
  private take(data: LiveBar): void {
    if (this.onlyUsualHours && !inUsualHours(Date.parse(data.time))) return;
    if (this.filling) {
      this.waiting = data;
      return;
    }
    const { series } = this.model;
    const newest = series.length === 0 ? null : (series.time[series.length - 1] as number);
    if (newest !== null && data.before !== null && Date.parse(data.before.time) > newest) void this.fill(newest, data);
    else this.add([...(data.before && series.length > 0 ? [data.before] : []), data]);
  }

  private async fill(from: number, data: LiveBar): Promise<void> {
    const { instrument } = this.model;
    this.filling = true;
    this.waiting = data;
    const missed = await barsOf(instrument.id, this.interval, { from: new Date(from).toISOString(), limit: MOST_MISSED });
    this.filling = false;
    const last = this.waiting;
    this.waiting = null;
    if (this.stopped) return;
    if (missed.ok) this.add(this.wanted(missed.value.items));
    this.add([last]);
  }

  private add(bars: readonly ApiBar[]): void {
    const { series, view } = this.model;
    let from = series.length;
    const count = series.length;
    for (const bar of bars) from = Math.min(from, series.update(bar));
    // A chart that was moved off the newest bar stays where it is.
    if (series.length > count && view.ahead < 0) view.ahead -= series.length - count;
    this.heard.live(from);
  }

  stop(): void {
    this.stopped = true;
    this.stopLive();
  }

  /** Loads older bars when the view comes near the first one. */
  async loadOlder(): Promise<void> {
    const { series, view, instrument } = this.model;
    const first = series.time[0];
    if (this.loading || this.atStart || first === undefined || series.length === 0 || view.range(series).first > 60) return;
    this.loading = true;
    const older = await barsOf(instrument.id, this.interval, { limit: OLDER_BARS, to: new Date(first).toISOString() });
    this.loading = false;
    if (this.stopped || !older.ok) return;
    if (older.value.items.length === 0) this.atStart = true;
    else {
      series.prepend(this.wanted(older.value.items));
      this.heard.loaded();
    }
  }

  private wanted(bars: readonly ApiBar[]): readonly ApiBar[] {
    return this.onlyUsualHours ? bars.filter((bar) => inUsualHours(Date.parse(bar.time))) : bars;
  }
}

/** Another instrument's closes beside a chart's bars. */
export async function loadCompared(model: ChartModel, instrument: string, interval: string): Promise<Compared | null> {
  const { series } = model;
  if (series.length === 0) return null;
  const from = new Date(series.time[0] as number).toISOString();
  const found = await barsOf(instrument, interval, { from, limit: 5000 });
  if (!found.ok) return null;
  const closes = new Float64Array(series.length).fill(NaN);
  for (const bar of found.value.items) {
    const index = series.indexOf(Date.parse(bar.time));
    if (index >= 0) closes[index] = Number(bar.close);
  }
  return { instrument, closes };
}

/** The day's levels that a chart can show, in the instrument's units. */
export async function loadLevels(model: ChartModel, wish: { previousDay: boolean; openingRange: boolean; openingMinutes: number }): Promise<Level[]> {
  const { instrument, series } = model;
  const units = (text: string): number => Number(text) * 10 ** instrument.priceDecimals;
  const levels: Level[] = [];
  const newest = series.time[series.length - 1];
  if (newest === undefined) return levels;
  const day = tradingDay(instrument.venue, newest);
  const { open } = sessionTimes(instrument.venue, day);
  if (wish.previousDay) {
    const bar = await dayBefore(instrument.id, open, day, instrument.venue);
    if (bar)
      levels.push(
        { price: units(bar.high), name: 'high before' },
        { price: units(bar.low), name: 'low before' },
        { price: units(bar.close), name: 'close before' },
      );
  }
  if (wish.openingRange) {
    const to = open + wish.openingMinutes * 60_000;
    const found = await barsOf(instrument.id, '1m', { from: new Date(open).toISOString(), to: new Date(to).toISOString(), limit: wish.openingMinutes });
    if (found.ok && found.value.items.length > 0) {
      levels.push({ price: units(String(Math.max(...found.value.items.map((bar) => Number(bar.high))))), name: `opening ${wish.openingMinutes} min high` });
      levels.push({ price: units(String(Math.min(...found.value.items.map((bar) => Number(bar.low))))), name: `opening ${wish.openingMinutes} min low` });
    }
  }
  return levels;
}

async function dayBefore(instrument: string, open: number, day: number, venue: ChartModel['instrument']['venue']): Promise<ApiBar | undefined> {
  const found = await barsOf(instrument, '1d', { limit: 3, to: new Date(open).toISOString() });
  return found.ok ? found.value.items.filter((bar) => tradingDay(venue, Date.parse(bar.time)) < day).pop() : undefined;
}
