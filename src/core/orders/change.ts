import type { OrderType, Price, Quantity } from '../instrument/index.ts';
import type { Trail, TriggerSource } from '../market/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import { invalid, type FieldProblem, type Refusal } from './refusal.ts';
import { orderType, trailFor, type Lifetime, type OrderTerms, type Pricing, type StopLimit } from './terms.ts';

/** What a change of an order says, and nothing else: it is laid over the order as it is when it arrives. */
export interface OrderChange {
  readonly type?: OrderType;
  readonly quantity?: Quantity;
  readonly limit?: Price;
  readonly offsetTicks?: number;
  readonly stop?: Price;
  readonly trail?: Trail;
  readonly triggerOn?: TriggerSource;
  readonly lifetime?: Lifetime;
  readonly restOnly?: boolean;
}

const PATHS = { limit: '/limitPrice', offsetTicks: '/limitOffsetTicks', stop: '/stopPrice', trail: '/trail', restOnly: '/restOnly' } as const;
type PriceField = keyof typeof PATHS;

/** Which price fields each type has a use for. */
const USED: Readonly<Record<OrderType, readonly PriceField[]>> = {
  market: [],
  limit: ['limit', 'restOnly'],
  stop: ['stop'],
  'stop-limit': ['stop', 'limit', 'offsetTicks'],
  'trailing-stop': ['stop', 'trail'],
};

/** What is wrong with these fields beside a type; empty where nothing is. */
export function unusedFields(type: OrderType, given: Pick<OrderChange, PriceField>): FieldProblem[] {
  return (Object.keys(PATHS) as PriceField[]).flatMap((field) => {
    const set = field === 'restOnly' ? given.restOnly === true : given[field] !== undefined;
    if (!set || USED[type].includes(field)) return [];
    const message = field === 'restOnly' ? 'only a limit order can be asked to rest' : `is not used by a ${type} order`;
    return [{ path: PATHS[field], message }];
  });
}

export const IMMEDIATE = (lifetime: Lifetime): boolean => lifetime.kind === 'ioc' || lifetime.kind === 'fok';

/** Why a time in force does not go with a type or with resting, or null. */
export function lifetimeProblem(type: OrderType, lifetime: Lifetime, restOnly: boolean): FieldProblem | null {
  if (!IMMEDIATE(lifetime)) return null;
  if (type !== 'market' && type !== 'limit')
    return { path: '/timeInForce', message: `${lifetime.kind} goes with market and limit orders only; a ${type} order takes day, gtc or gtd` };
  return restOnly ? { path: '/restOnly', message: `a ${lifetime.kind} order never rests` } : null;
}

const needed = (path: string, type: OrderType): Refusal => invalid(path, `is needed by a ${type} order`);

/**
 * The terms that a change gives when it is laid over an order. Any change by the trader ends the following of a close.
 *
 * @returns a refusal where the new type lacks a price or a field has no use
 */
export function layOver(before: OrderTerms, change: OrderChange): Result<OrderTerms, Refusal> {
  const type = change.type ?? orderType(before);
  const unused = unusedFields(type, change);
  if (unused.length > 0) return refused({ kind: 'validation', errors: unused });
  const pricing = pricingOver(type, before, change);
  if (!pricing.ok) return pricing;
  const lifetime = change.lifetime ?? before.lifetime;
  const terms: OrderTerms = { ...pricing.value, quantity: change.quantity ?? before.quantity, lifetime };
  const wrong = lifetimeProblem(type, lifetime, terms.type === 'limit' && terms.restOnly);
  return wrong ? refused({ kind: 'validation', errors: [wrong] }) : accepted(terms);
}

function pricingOver(type: OrderType, before: OrderTerms, change: OrderChange): Result<Pricing, Refusal> {
  const stop = change.stop ?? ('stop' in before ? before.stop : null);
  const triggerOn = change.triggerOn ?? ('triggerOn' in before ? before.triggerOn : 'last');
  switch (type) {
    case 'market':
      return accepted({ type });
    case 'limit': {
      const limit = change.limit ?? fixedLimit(before);
      if (limit === null) return refused(needed('/limitPrice', type));
      return accepted({ type, limit, restOnly: change.restOnly ?? (before.type === 'limit' && before.restOnly) });
    }
    case 'stop':
      return stop === null ? refused(needed('/stopPrice', type)) : accepted({ type, stop, triggerOn });
    case 'stop-limit': {
      if (change.limit !== undefined && change.offsetTicks !== undefined)
        return refused(invalid('/limitOffsetTicks', 'a stop-limit order takes exactly one of limitPrice and limitOffsetTicks'));
      if (stop === null) return refused(needed('/stopPrice', type));
      const limit = stopLimitOver(before, change);
      return limit === null ? refused(needed('/limitPrice', type)) : accepted({ type, stop, limit, triggerOn });
    }
    case 'trailing-stop': {
      const trail = change.trail ?? (before.type === 'trailing-stop' ? before.trail : null);
      if (trail === null) return refused(needed('/trail', type));
      // A new trail counts at once and may loosen: the price it stood at does not hold it back.
      const kept = change.trail === undefined ? stop : (change.stop ?? null);
      return accepted({ type, trail: change.trail === undefined ? trail : trailFor(trail, change.quantity ?? before.quantity), stop: kept, triggerOn });
    }
    default:
      return type satisfies never;
  }
}

/** The limit price an order has of its own, whatever its type. */
function fixedLimit(terms: OrderTerms): Price | null {
  if (terms.type === 'limit' || terms.type === 'following') return terms.limit;
  return terms.type === 'stop-limit' && terms.limit.by === 'price' ? terms.limit.price : null;
}

function stopLimitOver(before: OrderTerms, change: OrderChange): StopLimit | null {
  if (change.offsetTicks !== undefined) return { by: 'offset', ticks: change.offsetTicks };
  if (change.limit !== undefined) return { by: 'price', price: change.limit };
  if (before.type === 'stop-limit') return before.limit;
  const limit = fixedLimit(before);
  return limit === null ? null : { by: 'price', price: limit };
}
