import { VENUES, type Instrument, type Price, type Quantity } from '../core/instrument/index.ts';
import {
  MatchingBook,
  NO_STATISTICS,
  RollingDay,
  countPrint,
  tradingDay,
  type Day,
  type DayStatistics,
  type BookEvent,
  type MarketEvent,
  type Quote,
  type SavedBook,
  type SavedPlace,
} from '../core/market/index.ts';
import type { DepthLevel, DepthView, Print } from './messages.ts';

const KEPT_PRINTS = 5000;

export interface SavedListing {
  book: SavedBook;
  day: Omit<DayStatistics, 'turnover'> & { turnover: string };
  tradingDay: Day;
  settlement: Price | null;
  previousSettlement: Price | null;
  lastEver: Price | null;
  openedToday: boolean;
  printSeq: number;
}

/** One instrument on its venue: the book, the day's statistics, the prints. */
export class Listing {
  readonly book: MatchingBook;
  readonly prints: Print[] = [];
  day: DayStatistics = { ...NO_STATISTICS };
  tradingDay: Day;
  settlement: Price | null = null;
  previousSettlement: Price | null = null;
  lastEver: Price | null = null;
  /** Has been open on the present trading day. */
  openedToday = false;
  time: number;
  printSeq = 0;
  /** High, low and volume of the last 24 hours; null where the day's count. */
  readonly rolling: RollingDay | null;
  readonly instrument: Instrument;
  private readonly ordersAt: ((quantity: Quantity, price: Price) => number) | null;

  /** @param ordersAt how many orders make up a displayed quantity; null where nobody knows */
  constructor(instrument: Instrument, time: number, ordersAt: Listing['ordersAt']) {
    this.instrument = instrument;
    this.book = new MatchingBook(instrument);
    this.time = time;
    this.tradingDay = tradingDay(instrument.venue, time);
    this.ordersAt = ordersAt;
    this.rolling = VENUES[instrument.venue].session === null ? new RollingDay() : null;
  }

  /** Counts an event and puts it to the book; what that says of own orders must all be taken. */
  apply(time: number, event: MarketEvent): Iterable<BookEvent> {
    this.time = time;
    if (event.event === 'trade') {
      countPrint(this.day, event.price, event.quantity, time);
      this.lastEver = event.price;
      this.rolling?.add(time, event.price, event.price, event.quantity);
      this.prints.push({ seq: ++this.printSeq, time, instrument: this.instrument.id, side: event.side, price: event.price, quantity: event.quantity });
      if (this.prints.length > KEPT_PRINTS * 1.1) this.prints.splice(0, this.prints.length - KEPT_PRINTS);
    } else if (event.event === 'settlement') {
      this.settlement = event.price;
    }
    const happened = this.book.apply(event);
    if (this.book.state === 'open') this.openedToday = true;
    return happened;
  }

  /** What the day would be settled at now: its own settlement, else its last trade, else the settlement before. */
  settlementNow(): Price | null {
    return this.settlement ?? this.day.last ?? this.previousSettlement;
  }

  /** The day's turn: what it is settled at becomes the previous settlement. */
  turn(day: Day): Price | null {
    this.previousSettlement = this.settlementNow();
    this.settlement = null;
    this.day = { ...NO_STATISTICS };
    this.tradingDay = day;
    this.openedToday = this.book.state === 'open';
    return this.previousSettlement;
  }

  quote(time: number): Quote {
    const { book, day } = this;
    const bid = book.best('bid');
    const ask = book.best('ask');
    return {
      ...day,
      ...this.rolling?.at(time),
      dayVolume: day.volume,
      instrument: this.instrument.id,
      time,
      state: book.state,
      bid,
      bidQuantity: bid === null ? null : book.displayedAt('bid', bid),
      ask,
      askQuantity: ask === null ? null : book.displayedAt('ask', ask),
      lastEver: this.lastEver,
      previousSettlement: this.previousSettlement,
      priceLimits: book.limits,
    };
  }

  depth(time: number, levels: number): DepthView {
    const side = (of: 'bid' | 'ask'): DepthLevel[] =>
      this.book.levels(of, levels).map((level) => ({ ...level, orders: this.ordersAt?.(level.quantity, level.price) ?? null }));
    return { instrument: this.instrument.id, time, bids: side('bid'), asks: side('ask') };
  }

  save(): SavedListing {
    return {
      book: this.book.save(),
      day: { ...this.day, turnover: this.day.turnover.toString() },
      tradingDay: this.tradingDay,
      settlement: this.settlement,
      previousSettlement: this.previousSettlement,
      lastEver: this.lastEver,
      openedToday: this.openedToday,
      printSeq: this.printSeq,
    };
  }

  load(saved: SavedListing, places: readonly SavedPlace[]): void {
    this.book.load(saved.book, places);
    this.day = { ...saved.day, turnover: BigInt(saved.day.turnover) };
    this.tradingDay = saved.tradingDay;
    this.settlement = saved.settlement;
    this.previousSettlement = saved.previousSettlement;
    this.lastEver = saved.lastEver;
    this.openedToday = saved.openedToday;
    this.printSeq = saved.printSeq;
  }
}
