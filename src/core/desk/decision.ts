import type { RunningPlan } from '../exits/index.ts';
import type { Order, OrderGroup, Refusal } from '../orders/index.ts';
import type { Result } from '../result.ts';
import type { Draft, EntryBy, EntryData, HistoryLine } from './entries.ts';
import type { Lodged } from './broker.ts';
import type { AccountState } from './state.ts';

/** What became of what was asked. Order ids are answered, because how the orders stand is known only after the venue answered. */
export type Answer =
  | { readonly kind: 'done' }
  | { readonly kind: 'refused'; readonly refusal: Refusal }
  /** It can be decided only once desk and broker agree again. */
  | { readonly kind: 'waits' }
  /** `made` is false where the same request had been made before. */
  | { readonly kind: 'order'; readonly orderId: string; readonly made: boolean; readonly requestId: string | null }
  /** What became of each of several orders, in their order. */
  | { readonly kind: 'many'; readonly placed: readonly Result<string, Refusal>[] }
  | { readonly kind: 'group'; readonly group: OrderGroup; readonly orderIds: readonly string[]; readonly requestId: string | null; readonly made: boolean }
  | { readonly kind: 'plan'; readonly planId: string }
  | { readonly kind: 'cash'; readonly requestId: string; readonly made: boolean }
  | { readonly kind: 'application'; readonly applicationId: string; readonly made: boolean }
  /** Rules or locks; `made` where a lock is new. */
  | { readonly kind: 'risk'; readonly made?: boolean }
  | { readonly kind: 'orders'; readonly canceled: readonly Requested[]; readonly closing: readonly string[]; readonly refused: readonly RefusedOrder[] };

export interface Requested {
  readonly orderId: string;
  readonly requestId: string;
}

export interface RefusedOrder {
  readonly orderId: string;
  readonly detail: string;
}

/** What is to be written, and what is answered. What is to be sent follows from the entries once they are written. */
export interface Decision {
  readonly entries: readonly Draft[];
  readonly answer: Answer;
  /** Plans whose stops follow the price; written with the next entry of theirs, and found again from the trades since. */
  readonly following?: readonly RunningPlan[];
  /** What the broker must have before anything of this is written. */
  readonly lodge?: Lodged;
  /** Orders held here that do. */
  readonly followingOrders?: readonly Order[];
}

export const NOTHING_DONE: Decision = { entries: [], answer: { kind: 'done' } };

const NOT_RELAYED: Refusal = { kind: 'unavailable', detail: 'There is no link to the broker. Nothing was sent or kept.' };
const RECONCILING: Refusal = {
  kind: 'unavailable',
  detail: 'The link to the broker is back and what was missed is looked at first. Nothing was sent or kept.',
};

/** An answer that leaves nothing behind. */
export const answered = (refusal: Refusal): Decision => ({ entries: [], answer: { kind: 'refused', refusal } });
export const linkDown = (): Decision => answered(NOT_RELAYED);
export const stillReconciling = (): Decision => answered(RECONCILING);

interface Saying {
  readonly order?: Order | null;
  readonly instrument?: string | null;
  readonly by?: EntryBy;
  readonly causedBy?: Draft['causedBy'];
  readonly history?: HistoryLine | null;
}

/** An entry of the account's. */
export const draft = (state: AccountState, time: number, text: string, data: EntryData, of: Saying = {}): Draft => ({
  time,
  account: state.terms.id,
  by: of.by ?? 'user',
  instrument: of.instrument ?? of.order?.instrument ?? null,
  orderId: of.order?.id ?? null,
  causedBy: of.causedBy ?? null,
  text,
  data,
  history: of.history ?? null,
});
