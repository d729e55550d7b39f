import type { ApiOrder } from '../../live/index.ts';

/** The fields of an order request besides its client order id. */
export interface OrderWish {
  readonly account: string;
  readonly instrument: string;
  readonly side: 'buy' | 'sell';
  readonly type: 'market' | 'limit' | 'stop' | 'stop-limit';
  readonly quantity: string;
  readonly limitPrice?: string;
  readonly limitOffsetTicks?: number;
  readonly stopPrice?: string;
  readonly timeInForce?: string;
  readonly restOnly?: boolean;
  readonly reduceOnly?: boolean;
  readonly crossesZero?: boolean;
}

/** What a gesture means to do. */
export type GestureIntent =
  | { readonly kind: 'place'; readonly wish: OrderWish }
  | { readonly kind: 'change'; readonly order: ApiOrder; readonly change: Readonly<Record<string, string | number>> }
  | { readonly kind: 'cancel'; readonly order: ApiOrder }
  | { readonly kind: 'cancel-many'; readonly account: string; readonly instrument: string; readonly side?: 'buy' | 'sell' }
  | { readonly kind: 'close'; readonly account: string; readonly instrument: string }
  | { readonly kind: 'flatten'; readonly account: string; readonly instrument: string | null };

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
