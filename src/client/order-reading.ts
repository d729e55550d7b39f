import { parseQuantity, type Instrument } from '../core/instrument/index.ts';
import { readOrderPhrase, type OrderScene, type PhraseAccount } from '../core/language/index.ts';
import type { Quote } from '../core/market/index.ts';
import { NO_MONEY } from '../core/number/index.ts';
import type { Position } from '../core/portfolio/index.ts';
import { $accounts, $clock, $positions, instrumentOf, instruments, positionKey, priceOf, quoteOf } from '../live/index.ts';
import type { ApiAccount, ApiPosition, ApiQuote } from '../live/index.ts';
import { feeOf } from './fees.ts';
import type { PhraseReading } from './phrase-acts.ts';

/** What a window knows of the market and the accounts, as it was told. */
export interface HeardMarket {
  /** Market time; null before it was told. */
  readonly now: number | null;
  readonly accounts: readonly Pick<ApiAccount, 'id' | 'venues' | 'kinds' | 'commission'>[];
  instrumentOf(id: string): Instrument | undefined;
  listingsOf(ticker: string): readonly Instrument[];
  /** Of what the window follows. */
  quote(id: string): ApiQuote | undefined;
  position(account: string, instrument: string): Pick<ApiPosition, 'quantity'> | undefined;
}

/** The key target. */
export interface ReadFor {
  readonly account: string;
  readonly instrument: string;
}

/** A reading looked at something that only the server knows. */
class NotKnownHere extends Error {}
const notKnownHere = (): never => {
  throw new NotKnownHere();
};

/**
 * Reads an order phrase where it is typed or pressed, against what the window shows, with nobody asked.
 *
 * @returns null where it hangs on what the window does not know, as buying power or what a position cost
 */
export function readHere(phrase: string, { account, instrument }: ReadFor, market: HeardMarket = HEARD): PhraseReading | null {
  try {
    const read = readOrderPhrase(phrase, sceneOf(market, account, instrument));
    return (
      read.ok ? { ok: true, ...read.value, error: null } : { ok: false, canonical: null, reading: null, requests: [], act: null, error: read.error }
    ) as PhraseReading;
  } catch (error) {
    if (error instanceof NotKnownHere) return null;
    throw error;
  }
}

function sceneOf(market: HeardMarket, account: string, instrument: string): OrderScene {
  return {
    get now() {
      return market.now ?? notKnownHere();
    },
    accounts: new Map(market.accounts.map((one) => [one.id, accountOf(one, market)])),
    account,
    instrument,
    instrumentOf: (id) => market.instrumentOf(id),
    listingsOf: (ticker) => market.listingsOf(ticker),
    quote: (id) => {
      const [spec, told] = [market.instrumentOf(id), market.quote(id)];
      return spec && told ? quoteFrom(spec, told) : notKnownHere();
    },
    get plans() {
      return notKnownHere();
    },
  };
}

function accountOf(account: HeardMarket['accounts'][number], market: HeardMarket): PhraseAccount {
  const { id, venues, kinds } = account;
  return {
    id,
    mayTrade: ({ venue, kind }) => venues.includes(venue) && kinds.includes(kind),
    position: (instrument) => {
      const [spec, held] = [market.instrumentOf(instrument), market.position(id, instrument)];
      return spec && held ? positionFrom(spec, held) : null;
    },
    buyingPower: notKnownHere,
    get equity() {
      return notKnownHere();
    },
    fee: (instrument, quantity, value) => feeOf(account, instrument, quantity, value),
    needs: notKnownHere,
  };
}

/** A position of which only the quantity is known here; what it cost is told rounded. */
function positionFrom(instrument: Instrument, { quantity }: Pick<ApiPosition, 'quantity'>): Position {
  const size = parseQuantity(instrument, quantity.replace('-', '')) ?? notKnownHere();
  const known = { instrument: instrument.id, quantity: quantity.startsWith('-') ? 0 - size : size };
  return Object.defineProperty(known, 'cost', { get: () => (size === 0 ? NO_MONEY : notKnownHere()) }) as unknown as Position;
}

/** A quote as it was told; what is not told of it is not known here. */
function quoteFrom(instrument: Instrument, told: ApiQuote): Quote {
  const price = (text: string | null) => priceOf(instrument, text);
  const last = price(told.last);
  const known = {
    instrument: instrument.id,
    state: told.state,
    bid: price(told.bid),
    ask: price(told.ask),
    last,
    open: price(told.open),
    high: price(told.high),
    low: price(told.low),
    previousSettlement: price(told.previousSettlement),
    get lastEver() {
      return last ?? notKnownHere();
    },
    get dayVolume() {
      return notKnownHere();
    },
    get turnover() {
      return notKnownHere();
    },
  };
  return known as unknown as Quote;
}

/** Listings by ticker, made when they are first asked for. */
let byTicker: ReadonlyMap<string, readonly Instrument[]> | null = null;

function listingsOf(ticker: string): readonly Instrument[] {
  if (byTicker === null || byTicker.size === 0) {
    const found = new Map<string, Instrument[]>();
    for (const one of instruments.values()) found.set(one.ticker, [...(found.get(one.ticker) ?? []), one]);
    byTicker = found;
  }
  return byTicker.get(ticker) ?? [];
}

/** The market as this window hears it. */
const HEARD: HeardMarket = {
  get now() {
    const time = $clock.get()?.time;
    return time === undefined ? null : Date.parse(time);
  },
  get accounts() {
    return Object.values($accounts.get());
  },
  instrumentOf,
  listingsOf,
  quote: (id) => quoteOf(id)?.text,
  position: (account, instrument) => $positions.get()[positionKey(account, instrument)],
};
