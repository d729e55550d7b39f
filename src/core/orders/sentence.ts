import { formatPrice, formatQuantity, type Instrument } from '../instrument/index.ts';
import type { OrderIdentity, OrderTerms } from './order.ts';

const UNTIL = {
  day: 'until the day ends',
  gtc: 'until cancelled',
  ioc: 'what fills at once, the rest is cancelled',
  fok: 'all at once or nothing',
} as const;

const WATCHED = { last: 'last trade', bid: 'bid', ask: 'ask' } as const;

/** The order in one sentence: what it does, at what price or on what trigger, until when, where it waits. */
export function orderSentence(
  order: Pick<OrderIdentity, 'side' | 'instrument' | 'account' | 'product' | 'heldBy' | 'opening'> & OrderTerms,
  instrument: Instrument,
): string {
  const verb = order.side === 'buy' ? 'Buy' : 'Sell';
  const parts = [`${verb} ${formatQuantity(instrument, order.quantity)} ${order.instrument} ${priceWords(order, instrument)}`];
  if (order.restOnly) parts.push('only if it rests');
  parts.push(order.timeInForce === 'gtd' ? `until ${new Date(order.expiresAt ?? 0).toISOString()}` : UNTIL[order.timeInForce]);
  if (order.product === 'intraday') parts.push('intraday');
  if (!order.opening) parts.push('closes only');
  parts.push(order.heldBy === 'here' ? 'held here' : 'held at the venue');
  return `${parts.join(', ')}, ${order.account}.`;
}

function priceWords(order: OrderTerms & { side: 'buy' | 'sell' }, instrument: Instrument): string {
  const say = (price: number | null): string => (price === null ? '–' : formatPrice(instrument, price));
  const when = `when the ${WATCHED[order.triggerOn]} is ${say(order.stopPrice)} or ${order.side === 'buy' ? 'higher' : 'lower'}`;
  switch (order.type) {
    case 'market':
      return 'at market';
    case 'limit':
      return order.limitPrice === null ? 'at the best price there is, once there is one' : `at ${say(order.limitPrice)} or better`;
    case 'stop':
      return `at market ${when}`;
    case 'stop-limit': {
      const offset = order.limitOffsetTicks === null ? '' : ` (${order.limitOffsetTicks} ticks from the stop)`;
      return `at ${say(order.limitPrice)} or better${offset} ${when}`;
    }
    default:
      return order.type satisfies never;
  }
}
