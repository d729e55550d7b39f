import type { ExitPlanText } from '../../core/exits/index.ts';
import type { Halves, Price, Quantity } from '../../core/instrument/index.ts';
import type { OrderRequest } from '../../core/orders/index.ts';
import type { Pace, RunState } from '../../core/basket/index.ts';

/** A row of a basket: an order request with its own id in place of a name, its limit a price or a phrase. */
export type BasketRow = Omit<OrderRequest, 'clientOrderId' | 'exitPlan'> & {
  readonly id: string;
  readonly limitPhrase?: string;
  readonly exitPlan?: string | ExitPlanText;
};

export interface Basket {
  readonly name: string;
  readonly rows: readonly BasketRow[];
  readonly version: number;
  /** Stands for what is saved: what earlier runs sent counts only of the same. */
  readonly key: string;
}

/** A row of a run: what was asked of it, and which orders it made. */
export interface RunRow {
  readonly id: string;
  readonly row: BasketRow;
  /** How it stands while it has no order. */
  readonly state: 'waiting' | 'skipped' | 'refused' | 'sent';
  readonly asked: Quantity;
  readonly orderId: string | null;
  readonly reverseOrderId: string | null;
  /** The mid when it was sent. */
  readonly arrival: Halves | null;
  /** Its limit as the phrase read when the run began, of those that go at once. */
  readonly limit: Price | null;
  readonly reason: string | null;
}

export interface Run {
  readonly id: string;
  readonly user: string;
  readonly clientRunId: string;
  readonly content: string;
  readonly basket: string;
  readonly key: string;
  readonly percent: string;
  readonly pace: Pace;
  readonly state: RunState;
  /** What rows filled is turned round once their cancels are confirmed. */
  readonly reversing: boolean;
  /** It was cancelled, and not all of its orders are known to have ended. */
  readonly ending?: boolean;
  readonly rows: readonly RunRow[];
  readonly log: readonly { readonly time: number; readonly text: string; readonly row: string | null }[];
}

export interface BasketStore {
  load(): Promise<Run[]>;
  put(run: Run): Promise<void>;
}
