import { formatPrice, formatQuantity, type Instrument, type Price } from '../instrument/index.ts';
import type { Trail } from '../market/index.ts';
import { formatMoney, formatScaled } from '../number/index.ts';
import type { OrderIdentity } from './order.ts';
import { limitPriceOf, type OrderTerms } from './terms.ts';

const UNTIL = {
  day: 'until the day ends',
  gtc: 'until cancelled',
  ioc: 'what fills at once, the rest is cancelled',
  fok: 'all at once or nothing',
} as const;

const WATCHED = { last: 'last trade', bid: 'bid', ask: 'ask' } as const;

type Said = Pick<OrderIdentity, 'side' | 'instrument' | 'account' | 'product' | 'heldBy' | 'opening'> & { readonly terms: OrderTerms };

/** The order in one sentence: what it does, at what price or on what trigger, until when, where it waits. */
export function orderSentence(order: Said, instrument: Instrument): string {
  const { terms } = order;
  const verb = order.side === 'buy' ? 'Buy' : 'Sell';
  const parts = [`${verb} ${formatQuantity(instrument, terms.quantity)} ${order.instrument} ${priceWords(order, instrument)}`];
  if (terms.type === 'limit' && terms.restOnly) parts.push('only if it rests');
  parts.push(terms.lifetime.kind === 'gtd' ? `until ${new Date(terms.lifetime.until).toISOString()}` : UNTIL[terms.lifetime.kind]);
  if (order.product === 'intraday') parts.push('intraday');
  if (!order.opening) parts.push('closes only');
  parts.push(order.heldBy === 'here' ? 'held here' : 'held at the venue');
  return `${parts.join(', ')}, ${order.account}.`;
}

function priceWords({ terms, side }: Said, instrument: Instrument): string {
  const say = (price: Price | null): string => (price === null ? '–' : formatPrice(instrument, price));
  const when = (stop: Price | null, source: keyof typeof WATCHED): string =>
    `when the ${WATCHED[source]} is ${say(stop)} or ${side === 'buy' ? 'higher' : 'lower'}`;
  switch (terms.type) {
    case 'market':
      return 'at market';
    case 'limit':
      return `at ${say(terms.limit)} or better`;
    case 'following':
      return terms.limit === null ? 'at the best price there is, once there is one' : `at the best price there is, now ${say(terms.limit)}`;
    case 'stop':
      return `at market ${when(terms.stop, terms.triggerOn)}`;
    case 'stop-limit': {
      const offset = terms.limit.by === 'offset' ? ` (${terms.limit.ticks} ticks from the stop)` : '';
      return `at ${say(limitPriceOf(terms, side, instrument))} or better${offset} ${when(terms.stop, terms.triggerOn)}`;
    }
    case 'trailing-stop': {
      const behind = `on a stop ${trailWords(terms.trail, instrument)} behind the best ${WATCHED[terms.triggerOn]}`;
      return terms.stop === null ? `at market ${behind}` : `at market ${behind}, now ${say(terms.stop)}`;
    }
    default:
      return terms satisfies never;
  }
}

function trailWords(trail: Trail, instrument: Instrument): string {
  switch (trail.unit) {
    case 'ticks':
      return `${trail.ticks} tick${trail.ticks === 1 ? '' : 's'}`;
    case 'percent':
      return `${formatScaled(trail.percent, 8, 0)} %`;
    case 'money':
      return `${formatMoney(trail.value, instrument.settlesIn)} ${instrument.settlesIn}`;
    default:
      return trail satisfies never;
  }
}
