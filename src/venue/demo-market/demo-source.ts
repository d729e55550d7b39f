import { addTicks, asPrice, asQuantity, isListed, type Instrument, type Price, type Quantity, type VenueId } from '../../core/instrument/index.ts';
import {
  addPrint,
  aggregate,
  dayStart,
  formatDay,
  nextDayTurn,
  nextTradingDay,
  previousTradingDay,
  sessionTimes,
  tradingDay,
  type Bar,
  type Day,
  type DayFigures,
  type MarketEvent,
  type Quote,
} from '../../core/market/index.ts';
import { hash, textKey } from '../../core/random/index.ts';
import type { Listing } from '../listing.ts';
import type { BarsRequest, Headline } from '../messages.ts';
import type { MarketSource, SourceEvent } from '../source.ts';
import { Headlines } from './headlines.ts';
import { History } from './history.ts';
import { MinuteHistory, type Minutes } from './minutes.ts';
import type { DemoWorld } from './profile.ts';
import { Lanes } from './lanes.ts';
import { DaySurvey, type CountedDay } from './survey.ts';
import { TickMaker, stateEvents, type MinuteTrade } from './ticks.ts';

const MINUTE = 60_000;
const DAYS_A_WEEK = 7;
const START = Date.parse('2026-03-02T09:00:00.000Z');
/** Sessions of minute history that a new world has: as far back as its past reaches. */
const MINUTE_SESSIONS = 60;
const NEWS_DAYS = 3;
/** Print numbers of a day start here times the day, so that they rise over days without being stored. */
const PRINTS_A_MINUTE = 512;
const PRINTS_A_DAY = 1440 * PRINTS_A_MINUTE;
/** How far back an instrument that wakes knows its prints. */
const MINUTES_OF_PRINTS = 30;

/** The lane of the headlines; no instrument is called so. */
const HEADLINES = '';

/** The generated market: each instrument that is awake has its events made minute by minute, the next when one is over. */
export class DemoSource implements MarketSource {
  readonly kind = 'demo';
  readonly start = START;
  readonly endsAt = null;
  taken = 0;
  private readonly history: History;
  private readonly minuteHistory: MinuteHistory;
  private readonly news: Headlines;
  private readonly days: DaySurvey;
  /** What was last seen of each at a glance: the same until the minute, or what is counted of its day, is another. */
  private readonly glances = new Map<string, { readonly figures: CountedDay; readonly minute: number; readonly quote: Quote }>();
  private readonly liveTrades = new Map<string, { readonly start: number; readonly trades: readonly MinuteTrade[] }>();
  /** The events ahead, a lane for each instrument that is awake and one for the headlines. */
  private readonly ahead = new Lanes<SourceEvent | Headline>();

  constructor(world: DemoWorld, seed: number) {
    this.history = new History(world, seed);
    this.news = new Headlines(world, seed);
    this.minuteHistory = new MinuteHistory(this.history, this.news);
    const instruments = world.profiles.map((profile) => profile.instrument);
    this.days = new DaySurvey(instruments, this.history, this.minuteHistory, this.news);
  }

  next(): number | null {
    return this.ahead.peek()?.time ?? null;
  }

  take(): SourceEvent | Headline {
    const taken = this.ahead.take();
    if (!taken) throw new Error('nothing is ahead: the source was not sought');
    return taken;
  }

  seek(time: number): void {
    this.ahead.clear();
    let day = tradingDay('HALM', time);
    const first = this.headlinesOf(day).filter((headline) => headline.time > time);
    this.ahead.open(HEADLINES, first, () => this.headlinesOf((day = nextTradingDay('HALM', day))));
  }

  rest(instrument: string): void {
    this.ahead.delete(instrument);
  }

  /** Lets an instrument's market begin at `time`: the day so far, the book as it stands, its events from then on. */
  wake(listing: Listing, time: number): void {
    const { instrument } = listing;
    if (this.ahead.has(instrument.id)) return;
    const ticks = new TickMaker(instrument, this.history, this.minuteHistory);
    this.standAt(listing, time);
    let minute = Math.floor(time / MINUTE) * MINUTE;
    const more = (): SourceEvent[] => {
      for (;;) {
        const made = this.eventsOf(listing, ticks, minute);
        minute = nextMinute(instrument.venue, minute);
        if (made.length > 0) return made;
      }
    };
    const made = this.eventsOf(listing, ticks, minute);
    minute = nextMinute(instrument.venue, minute);
    for (const event of made) if (event.time <= time) setUp(listing, event.time, event.event);
    this.ahead.open(
      instrument.id,
      made.filter((event) => event.time > time),
      more,
    );
  }

  bars(request: BarsRequest, listing: Listing | null, time: number): Bar[] {
    const { instrument } = this.history.profile(request.instrument);
    const daily = request.interval === '1d' || request.interval === '1w';
    const upTo = request.to === null ? time + 1 : Math.min(request.to, time + 1);
    const today = tradingDay(instrument.venue, time);
    const lastWanted = Math.min(today, tradingDay(instrument.venue, upTo));
    const oldest = daily ? (this.history.firstDay(instrument.id) ?? today) : this.oldestMinuteDay(instrument);
    /** The bars of days, the last day first: of the interval within a day, daily ones else. */
    const days: Bar[][] = [];
    let count = 0;
    const within = (bar: Bar): boolean => (request.from === null || bar.time >= request.from) && (request.to === null || bar.time < request.to);
    for (let day = lastWanted; day >= oldest; day = previousTradingDay(instrument.venue, day)) {
      const of = daily && day < today ? this.dailyBar(instrument, day) : this.minuteBars(instrument, day, listing, time, request.from ?? -Infinity);
      // No bar within a day spans two, but a week does.
      const bars = aggregate(instrument.venue, of, daily ? '1d' : request.interval);
      days.push(bars);
      count += bars.length;
      if (request.from !== null && dayStart(instrument.venue, day) < request.from) break;
      if (count > request.limit * (request.interval === '1w' ? DAYS_A_WEEK : 1)) break;
    }
    const bars = days.reverse().flat();
    return (daily ? aggregate(instrument.venue, bars, request.interval) : bars).filter(within).slice(-request.limit);
  }

  isQuiet(instrument: Instrument, since: number, time: number): boolean {
    const start = time - (time % MINUTE);
    const day = tradingDay(instrument.venue, time);
    const { open, close } = sessionTimes(instrument.venue, day);
    if (since < start) return false;
    if (time < open || time >= close) return true;
    const trades = this.tradesOf(instrument, day, Math.floor((time - open) / MINUTE), start);
    return !trades.some((trade) => trade.time >= since && trade.time <= time);
  }

  dayBefore(instrument: string, time: number): { high: Price; low: Price } | null {
    const { venue } = this.history.profile(instrument).instrument;
    return this.history.day(instrument, previousTradingDay(venue, tradingDay(venue, time))) ?? null;
  }

  settlements(instrument: string, time: number): { day: Day; price: Price }[] {
    const today = tradingDay(this.history.profile(instrument).instrument.venue, time);
    return this.history.daily(instrument).flatMap(({ day, close }) => (day < today ? [{ day, price: close }] : []));
  }

  usualVolume(instrument: string): number | null {
    return this.days.of(instrument)?.usualVolume ?? null;
  }

  /** As the survey counted it; bid and ask stand the usual spread apart round the last minute's close. */
  glance(id: string, time: number): Quote | null {
    const figures = this.days.of(id);
    if (!figures) return null;
    const minute = Math.floor(time / MINUTE);
    const known = this.glances.get(id);
    if (known?.figures === figures && known.minute === minute) return known.quote;
    const quote = this.quoteOf(id, figures, time);
    this.glances.set(id, { figures, minute, quote });
    return quote;
  }

  private quoteOf(id: string, figures: CountedDay, time: number): Quote {
    const { instrument, spreadTicks } = this.history.profile(id);
    const { open, high, low, last, volume, previousSettlement } = figures;
    const { open: opens, close } = sessionTimes(instrument.venue, tradingDay(instrument.venue, time));
    const listed = isListed(instrument, formatDay(tradingDay(instrument.venue, time)));
    const state = !listed ? 'closed' : figures.halted ? 'halted' : time >= opens && time < close ? 'open' : time < opens ? 'pre-open' : 'closed';
    const lastEver = last ?? previousSettlement;
    const hasBook = instrument.kind !== 'index' && lastEver !== null && state === 'open';
    const bid = hasBook ? addTicks(instrument, lastEver, -Math.floor(spreadTicks / 2)) : null;
    return {
      instrument: id,
      time: figures.asOf,
      state,
      bid,
      bidQuantity: null,
      ask: bid === null ? null : addTicks(instrument, bid, Math.max(1, spreadTicks)),
      askQuantity: null,
      open,
      high,
      low,
      last,
      lastEver,
      lastQuantity: null,
      lastTime: figures.asOf,
      volume,
      dayVolume: volume,
      turnover: figures.turnover,
      previousSettlement,
      priceLimits: { lower: null, upper: null },
    };
  }

  survey(time: number, count: number): DayFigures[] {
    this.days.step(time, count);
    return count > 0 ? [] : this.days.figures();
  }

  printsOf(): readonly never[] {
    return [];
  }

  headlines(time: number): readonly Headline[] {
    const found: Headline[] = [];
    let day = tradingDay('HALM', time);
    for (let i = 0; i < NEWS_DAYS; i++) {
      found.unshift(...this.headlinesOf(day).filter((headline) => headline.time <= time));
      day = previousTradingDay('HALM', day);
    }
    return found;
  }

  ordersAt(instrument: string): (quantity: number, price: number) => number {
    const key = textKey(instrument);
    const usual = Math.max(1, this.history.profile(instrument).dailyVolume / 5200);
    return (quantity, price) => Math.min(quantity, 1 + Math.floor((quantity / usual) * (0.6 + (hash(key, price) % 100) / 70)));
  }

  private headlinesOf(day: Day): Headline[] {
    return this.news.of(day).map((headline, i) => ({ seq: day * 100 + i, time: headline.time, instrument: headline.instrument, text: headline.text }));
  }

  private oldestMinuteDay(instrument: Instrument): Day {
    let day = tradingDay('HALM', START);
    for (let i = 0; i < MINUTE_SESSIONS; i++) day = previousTradingDay('HALM', day);
    return Math.min(day, tradingDay(instrument.venue, START));
  }

  private dailyBar(instrument: Instrument, day: Day): Bar[] {
    const bar = this.history.day(instrument.id, day);
    if (!bar) return [];
    const { open, high, low, close, volume } = bar;
    return [{ time: dayStart(instrument.venue, day), open, high, low, close, volume }];
  }

  /** The minutes of a session that are over, and the live one from the prints of an awake listing or its own making. */
  /** The minutes of a day that have traded, from the one on in which a time lies. */
  private minuteBars(instrument: Instrument, day: Day, listing: Listing | null, time: number, from: number): Bar[] {
    const session = this.minuteHistory.session(instrument.id, day);
    if (!session) return [];
    const bars: Bar[] = [];
    for (let i = Math.max(0, Math.floor((from - session.start) / MINUTE)); i < session.volume.length; i++) {
      const start = session.start + i * MINUTE;
      if (start + MINUTE > time) {
        if (start <= time) bars.push(...this.liveBar(instrument, day, i, start, listing, time));
        break;
      }
      const volume = session.volume[i] ?? 0;
      if (volume > 0) bars.push({ time: start, ...minuteOf(session, i) });
    }
    return bars;
  }

  private liveBar(instrument: Instrument, day: Day, index: number, start: number, listing: Listing | null, time: number): Bar[] {
    const events = listing
      ? listing.prints.filter((print) => print.time >= start)
      : this.tradesOf(instrument, day, index, start).filter((trade) => trade.time <= time);
    const bars: Bar[] = [];
    for (const { price, quantity } of events) addPrint(bars, start, price, quantity);
    return bars;
  }

  /** Sets a listing to where its market is at a time, up to the last full minute. */
  private standAt(listing: Listing, time: number): void {
    const { instrument } = listing;
    const { venue } = instrument;
    const day = tradingDay(venue, time);
    const before = this.history.day(instrument.id, previousTradingDay(venue, day));
    listing.previousSettlement = before?.close ?? null;
    listing.lastEver = before?.close ?? null;
    listing.printSeq = day * PRINTS_A_DAY;
    const halted = this.news.haltedMinutes(instrument, day);
    setUp(listing, time, { event: 'state', state: venue === 'VSPR' ? 'open' : 'closed' });
    listing.openedToday = venue === 'VSPR';
    for (const event of stateEvents(instrument, day, halted)) if (event.time <= time) setUp(listing, event.time, event.event);
    for (const event of limitEvents(instrument, listing.previousSettlement)) setUp(listing, time, event);
    if (listing.rolling) this.fillRolling(listing, previousTradingDay(venue, day), time);
    const session = this.minuteHistory.session(instrument.id, day);
    if (!session) return;
    const now = Math.floor(time / MINUTE) * MINUTE;
    for (let i = 0; i < session.volume.length && session.start + (i + 1) * MINUTE <= now; i++) this.countMinute(listing, session, i);
    listing.book.last = listing.day.last;
    listing.lastEver = listing.day.last ?? listing.lastEver;
    const passed = Math.max(0, Math.floor((now - session.start) / MINUTE));
    this.tellPrints(listing, day, passed);
    listing.printSeq = day * PRINTS_A_DAY + passed * PRINTS_A_MINUTE;
  }

  /** The prints of the last minutes, which the day's figures have counted already. */
  private tellPrints(listing: Listing, day: Day, passed: number): void {
    listing.prints.length = 0;
    const ticks = new TickMaker(listing.instrument, this.history, this.minuteHistory);
    for (let minute = Math.max(0, passed - MINUTES_OF_PRINTS); minute < passed; minute++) {
      let seq = day * PRINTS_A_DAY + minute * PRINTS_A_MINUTE;
      for (const { time, event } of ticks.minute(day, minute))
        if (event.event === 'trade')
          listing.prints.push({ seq: ++seq, time, instrument: listing.instrument.id, side: event.side, price: event.price, quantity: event.quantity });
    }
  }

  /** A full minute in the day's statistics, its turnover taken at the typical price of its bar. */
  private countMinute(listing: Listing, session: NonNullable<ReturnType<MinuteHistory['session']>>, i: number): void {
    const bar = minuteOf(session, i);
    const { volume } = bar;
    if (volume === 0) return;
    listing.rolling?.add(session.start + (i + 1) * MINUTE - 1, bar.high, bar.low, volume);
    const { day } = listing;
    day.open ??= bar.open;
    day.high = asPrice(Math.max(day.high ?? bar.high, bar.high));
    day.low = asPrice(Math.min(day.low ?? bar.low, bar.low));
    day.last = bar.close;
    day.lastQuantity = asQuantity(Math.max(1, Math.round(volume / 10)));
    day.lastTime = session.start + (i + 1) * MINUTE - 1;
    day.volume = asQuantity(day.volume + volume);
    day.turnover += (BigInt(bar.high + bar.low + 2 * bar.close) * BigInt(volume)) / 4n;
  }

  /** The minutes of the day before, for what a venue that never closes says of its last 24 hours. */
  private fillRolling(listing: Listing, before: Day, time: number): void {
    listing.rolling?.clear();
    const session = this.minuteHistory.session(listing.instrument.id, before);
    if (!session) return;
    session.volume.forEach((volume, i) => {
      const end = session.start + (i + 1) * MINUTE - 1;
      if (volume > 0 && end > time - 1440 * MINUTE) listing.rolling?.add(end, minuteOf(session, i).high, minuteOf(session, i).low, asQuantity(volume));
    });
  }

  /** One instrument's events of the minute that starts at a time, in order. */
  /** The trades of a minute of an instrument that sleeps: looked at again and again while the minute lasts. */
  private tradesOf(instrument: Instrument, day: Day, index: number, start: number): readonly MinuteTrade[] {
    const known = this.liveTrades.get(instrument.id);
    if (known?.start === start) return known.trades;
    const trades = new TickMaker(instrument, this.history, this.minuteHistory).trades(day, index);
    this.liveTrades.set(instrument.id, { start, trades });
    return trades;
  }

  private eventsOf(listing: Listing, ticks: TickMaker, start: number): SourceEvent[] {
    const { instrument } = listing;
    const { venue } = instrument;
    const day = tradingDay(venue, start);
    const events: SourceEvent[] = [];
    const until = start + MINUTE;
    if (start === dayStart(venue, day)) {
      const settled = this.history.day(instrument.id, previousTradingDay(venue, day))?.close ?? null;
      for (const event of limitEvents(instrument, settled)) events.push({ time: start, instrument: instrument.id, event });
    }
    for (const event of stateEvents(instrument, day, this.news.haltedMinutes(instrument, day)))
      if (event.time >= start && event.time < until) events.push(event);
    const { open, close } = sessionTimes(venue, day);
    if (start >= open && start < close) {
      if (start === open) listing.printSeq = Math.max(listing.printSeq, day * PRINTS_A_DAY);
      events.push(...ticks.minute(day, Math.round((start - open) / MINUTE)));
    }
    return events.sort((a, b) => a.time - b.time);
  }
}

/** The next minute in which a market may have something to say: nothing happens between a close and the day's turn. */
function nextMinute(venue: VenueId, minute: number): number {
  const { close } = sessionTimes(venue, tradingDay(venue, minute));
  return minute < close ? minute + MINUTE : nextDayTurn(venue, minute);
}

/** An event of before anybody looked: no order of ours is in the book yet. */
function setUp(listing: Listing, time: number, event: MarketEvent): void {
  for (const { id } of listing.apply(time, event)) throw new Error(`the order ${id} is in a book that is being set up`);
}

/** A minute of a session as a bar without its time. */
const minuteOf = (session: Minutes, i: number): { open: Price; high: Price; low: Price; close: Price; volume: Quantity } => ({
  open: asPrice(session.open[i] ?? 0),
  high: asPrice(session.high[i] ?? 0),
  low: asPrice(session.low[i] ?? 0),
  close: asPrice(session.close[i] ?? 0),
  volume: asQuantity(session.volume[i] ?? 0),
});

/** Day limits of shares, funds and futures, 10 % from the settlement before. */
function limitEvents(instrument: Instrument, settled: Price | null): { event: 'price-limit'; bound: 'lower' | 'upper'; price: Price }[] {
  if (settled === null || !['share', 'fund', 'future'].includes(instrument.kind)) return [];
  const tick = (instrument.tickBands[0]?.tick ?? 1) * 2;
  return [
    { event: 'price-limit', bound: 'lower', price: asPrice(Math.max(tick, Math.ceil((settled * 0.9) / tick) * tick)) },
    { event: 'price-limit', bound: 'upper', price: asPrice(Math.floor((settled * 1.1) / tick) * tick) },
  ];
}
