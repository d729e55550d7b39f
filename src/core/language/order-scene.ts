import type { Instrument, Price, Quantity } from '../instrument/index.ts';
import type { Quote } from '../market/index.ts';
import type { Money } from '../number/index.ts';
import type { FeeOf, Position, Product } from '../portfolio/index.ts';

/** An account as order phrases look at it. Money in EUR unless it says otherwise. */
export interface PhraseAccount {
  readonly id: string;
  mayTrade(instrument: Instrument): boolean;
  position(instrument: string): Position | null;
  /** What an order in the instrument has to fit into: on spot what is available of its wallet. */
  buyingPower(instrument: Instrument): Money;
  readonly equity: Money;
  /** The estimated fee, in what the instrument settles in. */
  readonly fee: FeeOf;
  /** Margin and fee of an opening order in EUR; null where it can't be valued. */
  needs(instrument: Instrument, long: boolean, quantity: Quantity, price: Price, product: Product): Money | null;
}

/** All that reading an order phrase looks at: nothing is sent and nothing is guessed. */
export interface OrderScene {
  /** Market time in milliseconds. */
  readonly now: number;
  /** Accounts of the trader, by name. */
  readonly accounts: ReadonlyMap<string, PhraseAccount>;
  /** The key target's. */
  readonly account: string | null;
  readonly instrument: string | null;
  instrumentOf(id: string): Instrument | undefined;
  /** All listings of a ticker. */
  listingsOf(ticker: string): readonly Instrument[];
  quote(id: string): Quote | undefined;
  readonly plans: ReadonlySet<string>;
}
