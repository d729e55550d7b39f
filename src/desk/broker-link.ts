import type { Instrument } from '../core/instrument/index.ts';
import type { AccountTerms } from '../core/portfolio/index.ts';
import type { BrokerReport, CallName, LinkState, MarketUpdate, VenueCalls, VenueClock } from '../venue/messages.ts';

/** A connection to a broker and its market data. The stand-in's thread is one implementation. */
export interface BrokerLink {
  readonly instruments: readonly Instrument[];
  readonly accounts: readonly AccountTerms[];
  readonly clock: VenueClock;
  readonly link: LinkState;
  /** Asks and waits for the answer; messages told before it have been delivered by then. */
  call<K extends CallName>(call: K, ask: VenueCalls[K]['ask']): Promise<VenueCalls[K]['answer']>;
  /** From now on tells what comes; nothing is delivered before this is called. */
  listen(listener: LinkListener): void;
}

export interface LinkListener {
  reports(reports: readonly BrokerReport[]): void;
  market(update: MarketUpdate): void;
  /** The broker and the venues are alive, in market time. */
  beat(time: number): void;
}

export type { LinkState };
