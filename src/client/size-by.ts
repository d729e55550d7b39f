import type { OrderWish } from './gestures/intent.ts';

/** What a size can follow from. */
export const SIZE_BY = ['risk', 'money', 'buying power', 'equity', 'position'] as const;
export type SizeBy = (typeof SIZE_BY)[number];

export interface SizeAsked {
  readonly by: SizeBy;
  /** Money, or percent. */
  readonly amount: string;
  /** The price down or up to which money is at risk. */
  readonly to: string;
}

type Priced = Pick<OrderWish, 'account' | 'instrument' | 'side' | 'type' | 'limitPrice' | 'limitOffsetTicks' | 'stopPrice' | 'trail'>;

const NUMBER = /^\d+(\.\d+)?$/;

function amountWords({ by, amount, to }: SizeAsked): string | null {
  if (!NUMBER.test(amount)) return null;
  if (by === 'risk') return to === '' ? null : `risking ${amount} to ${to}`;
  return by === 'money' ? `for ${amount}` : `${amount} % of ${by}`;
}

function priceWords({ side, type, limitPrice, limitOffsetTicks, stopPrice, trail }: Priced): string | null {
  switch (type) {
    case 'market':
      return 'at market';
    case 'limit':
      return limitPrice === undefined ? null : `at ${limitPrice}`;
    case 'stop':
      return stopPrice === undefined ? null : `stop ${stopPrice}`;
    case 'stop-limit':
      if (stopPrice === undefined) return null;
      return `stop ${stopPrice} limit ${limitPrice ?? `${side === 'buy' ? '+' : '-'} ${limitOffsetTicks ?? 0} ticks`}`;
    case 'trailing-stop':
      return trail === undefined || trail.unit === 'money' ? null : `trail ${trail.value} ${trail.unit === 'percent' ? '%' : 'ticks'}`;
    default:
      return type satisfies never;
  }
}

/** An order with the size that is asked for, as an order phrase: the one way in which sizes are reckoned. Null while something of it is missing. */
export function sizePhrase(asked: SizeAsked, order: Priced): string | null {
  const [amount, price] = [amountWords(asked), priceWords(order)];
  return amount === null || price === null ? null : `${order.side} ${amount} ${order.instrument} ${price}, account ${order.account}`;
}
