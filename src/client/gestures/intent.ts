import type { OrderType } from '../../core/instrument/index.ts';
import type { TrailUnit, TriggerSource } from '../../core/market/index.ts';
import type { ApiOrder, ApiRunningPlan, ApiWaiting } from '../../live/index.ts';
import type { HereLeg } from '../exit-plans.ts';

/** The fields of an order request besides its client order id. */
export interface OrderWish {
  readonly account: string;
  readonly instrument: string;
  readonly side: 'buy' | 'sell';
  readonly type: OrderType;
  readonly quantity: string;
  readonly limitPrice?: string;
  readonly limitOffsetTicks?: number;
  readonly stopPrice?: string;
  readonly trail?: { readonly unit: TrailUnit; readonly value: string };
  readonly triggerOn?: TriggerSource;
  readonly timeInForce?: string;
  readonly expiresAt?: string;
  readonly heldBy?: 'venue' | 'here';
  readonly product?: 'overnight' | 'intraday';
  /** The name of a saved exit plan, or one of its own. */
  readonly exitPlan?: string | object;
  readonly setup?: string;
  readonly restOnly?: boolean;
  readonly reduceOnly?: boolean;
  readonly crossesZero?: boolean;
}

/** An order as a phrase, read when its time has come. */
export interface PhrasedOrder {
  readonly account: string;
  readonly instrument: string;
  readonly phrase: string;
}

/** What a gesture means to do. */
export type GestureIntent =
  | { readonly kind: 'place'; readonly wish: OrderWish }
  /** Both legs as one group, of which one fills. */
  | { readonly kind: 'place-pair'; readonly pair: readonly [OrderWish, OrderWish] }
  | { readonly kind: 'change'; readonly order: ApiOrder; readonly change: Readonly<Record<string, string | number>> }
  | { readonly kind: 'cancel'; readonly order: ApiOrder }
  | { readonly kind: 'cancel-many'; readonly account: string; readonly instrument: string | null; readonly side?: 'buy' | 'sell' }
  /** All of a position, so much of it, or a share of it in percent. */
  | { readonly kind: 'close'; readonly account: string; readonly instrument: string; readonly percent?: string; readonly quantity?: string }
  | { readonly kind: 'reverse'; readonly account: string; readonly instrument: string }
  | { readonly kind: 'link'; readonly orders: readonly ApiOrder[] }
  /** A saved plan by its name, or one of its own. */
  | { readonly kind: 'put-plan'; readonly account: string; readonly instrument: string; readonly plan: string | object }
  | { readonly kind: 'stop-plan'; readonly plan: ApiRunningPlan }
  /** A leg that waits here, to another price. */
  | { readonly kind: 'move-leg'; readonly leg: HereLeg; readonly price: string }
  | { readonly kind: 'answer-plan'; readonly plan: ApiRunningPlan; readonly act: 'fire' | 'resume' }
  | { readonly kind: 'send-basket'; readonly basket: string; readonly percent: string; readonly pace: 'at-once' | 'one-by-one' }
  /** Orders that are asked for once a condition is true. */
  | { readonly kind: 'wait'; readonly when: string; readonly orders: readonly (OrderWish | PhrasedOrder)[] }
  | { readonly kind: 'end-wait'; readonly waiting: ApiWaiting }
  | { readonly kind: 'steer-run'; readonly run: string; readonly act: RunAct }
  | { readonly kind: 'flatten'; readonly account: string; readonly instrument: string | null };

/** What can be done to the run of a basket. */
export type RunAct = 'pause' | 'resume' | 'cancel' | 'cancel-and-reverse';

type Sized = Pick<OrderWish, 'side' | 'quantity'>;

const against = ({ side }: Sized, held: number): boolean => held !== 0 && (side === 'sell') === held > 0;

/** Whether an order only lowers a position of so many units. */
export const reduces = (wish: Sized, held: number): boolean => against(wish, held) && Number(wish.quantity) <= Math.abs(held);

/** Why an order would turn a position over, or null. */
export const crossing = (wish: Sized, held: number): string | null =>
  against(wish, held) && Number(wish.quantity) > Math.abs(held)
    ? `it would cross zero: ${Math.abs(held)} held, ${wish.quantity} asked; close ${Math.abs(held)} first`
    : null;

/** An order in a few words, as the answer line says it. */
export function orderWords({ side, quantity, limitPrice, stopPrice }: Pick<ApiOrder, 'side' | 'quantity' | 'limitPrice' | 'stopPrice'>): string {
  const price = limitPrice ?? stopPrice;
  const at = price === null ? 'at market' : `${stopPrice !== null ? 'stop ' : ''}${price}`;
  return `${side === 'buy' ? 'B' : 'S'} ${quantity} ${at}`;
}
