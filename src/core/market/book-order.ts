import type { Price, Quantity } from '../instrument/index.ts';
import type { Side } from './tape-row.ts';
import type { Trail } from './trail.ts';
import type { TriggerSource } from './trigger.ts';

export type MatchingTimeInForce = 'day' | 'gtc' | 'gtd' | 'ioc' | 'fok';

/** An order as the book sees it: `limit` is null for a market order. */
export interface BookOrder {
  readonly id: string;
  readonly side: Side;
  readonly limit: Price | null;
  readonly timeInForce: MatchingTimeInForce;
  readonly restOnly: boolean;
  remaining: Quantity;
}

/** A stop, and what it becomes when it triggers. */
export interface StopOrder extends BookOrder {
  /** Null while a trailing stop has seen no price yet. */
  readonly stopPrice: Price | null;
  readonly triggerOn: TriggerSource;
  readonly trail: Trail | null;
  /** The best price of the trigger source since it came; null for a stop that stands still, and before any price. */
  readonly best: Price | null;
}
