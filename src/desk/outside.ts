import type { BrokerCommand, BrokerLinkState, BrokerReport, BrokerStatus, Lodged } from '../core/desk/index.ts';
import type { Instrument } from '../core/instrument/index.ts';
import type { DayFigures, MarketTrade } from '../core/market/index.ts';
import type { AccountTerms, Commission, NewIssue } from '../core/portfolio/index.ts';
import type {
  Armed,
  BarsRequest,
  DepthView,
  Headline,
  LinkState,
  MarketUpdate,
  OrderStanding,
  PageRequest,
  Print,
  StreamItem,
  VenueCalls,
  VenueClock,
} from '../venue/messages.ts';

/** What a broker tells of itself. */
export interface BrokerListener {
  /**
   * Reports, and price rows of what something waits on, in the order they happened.
   *
   * @returns resolves when all that they lead to has been sent: a broker that waits goes on only then
   */
  stream(items: readonly StreamItem[], time: number): Promise<void>;
  /** The broker is alive, and this is the newest report of each account. */
  alive(newest: Readonly<Record<string, number>>): void;
}

/** A broker that orders are given to. The stand-in is one implementation. */
export interface Broker {
  readonly accounts: readonly AccountTerms[];
  /** Gives requests to the broker, whole or not at all; rejects where it is not known whether they went. */
  send(commands: readonly BrokerCommand[]): Promise<void>;
  reportsAfter(account: string, seq: number, limit: number): Promise<BrokerReport[]>;
  status(account: string): Promise<BrokerStatus>;
  standing(orderIds: readonly string[]): Promise<OrderStanding[]>;
  /** These reports are written for good and need not be told again. */
  acknowledge(seqs: readonly { readonly account: string; readonly seq: number }[]): Promise<void>;
  /** What is to come in the stream besides reports. */
  arm(armed: Armed): Promise<void>;
  /** Keeps locked rules for an account; resolves once it has them for good. */
  lodge(account: string, lodged: Lodged): Promise<void>;
  /** Agrees on a line of commission with the broker; resolves to the number of the report that says so. */
  agree(account: string, line: Commission): Promise<number>;
  /** What is offered for the first time, or was, oldest first. */
  newIssues(): Promise<NewIssue[]>;
  /** Resolves when all that was sent before has been worked off and told. */
  settled(): Promise<VenueClock>;
  /** Nothing is told before this is called. */
  listen(listener: BrokerListener): void;
}

/** What market data brings. */
export interface PricesListener {
  market(update: MarketUpdate): void;
  /** The venues are alive, at this market time. */
  beat(time: number): void;
}

/** Market data. */
export interface Prices {
  readonly instruments: readonly Instrument[];
  /** Market time when it began. */
  readonly time: number;
  watch(instruments: readonly string[], depths: readonly string[]): Promise<unknown>;
  snapshot(instruments: readonly string[]): Promise<MarketUpdate>;
  depth(instrument: string, levels: number): Promise<DepthView>;
  bars(request: BarsRequest): Promise<VenueCalls['bars']['answer']>;
  prints(request: PageRequest & { readonly instrument: string }): Promise<{ items: Print[]; more: boolean }>;
  /** The prices of all trades at or after a time, oldest first. */
  tradesSince(instrument: string, since: number): Promise<MarketTrade[]>;
  /** Trades between two times, both inclusive, oldest first; where they are not kept, highs and lows of its minutes. */
  tradesBetween(instrument: string, from: number, to: number): Promise<readonly MarketTrade[]>;
  news(request: PageRequest & { readonly instrument: string | null }): Promise<{ items: Headline[]; more: boolean }>;
  listen(listener: PricesListener): void;
}

/** What only the demo has: its clock, its links, the survey of its whole universe. */
export interface DemoControls {
  readonly link: LinkState;
  readonly started: VenueClock;
  clock(): Promise<VenueClock>;
  advance(to: number): Promise<VenueClock>;
  setSpeed(speed: number): Promise<VenueClock>;
  setLink(wish: { broker?: 'up' | 'down' | undefined; data?: 'up' | 'down' | undefined }): Promise<LinkState>;
  survey(): Promise<DayFigures[]>;
}

/** The links as the desk sees them: the broker's is up only once both agree. */
export type DeskLink = Omit<LinkState, 'broker'> & { readonly broker: BrokerLinkState };

export type { LinkState, VenueClock };
