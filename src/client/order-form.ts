import { addTicks, asPrice, asQuantity, formatPrice, formatQuantity, parsePrice, parseQuantity, type Instrument } from '../core/instrument/index.ts';
import type { TrailUnit, TriggerSource } from '../core/market/index.ts';
import type { Product } from '../core/portfolio/index.ts';
import { quoteOf, zoneOf } from '../live/index.ts';
import type { OrderWish } from './gestures/index.ts';
import { sizeKeys } from './session.ts';
import { momentAsTyped, typedMoment } from './typed-moment.ts';

/** What is typed and chosen in a form of one order. */
export interface FormValues {
  side: 'buy' | 'sell';
  type: OrderWish['type'];
  quantity: string;
  limitPrice: string;
  limitOffsetTicks: string;
  stopPrice: string;
  trailUnit: TrailUnit;
  trailValue: string;
  triggerOn: TriggerSource;
  timeInForce: string;
  /** As a date and time on the exchange's clock, `2026-03-02T15:00`. */
  expiresAt: string;
  restOnly: boolean;
  heldBy: 'venue' | 'here';
  exitPlan: string;
  setup: string;
  product: Product;
}

/** The form of an order that somebody wishes. */
export const formOf = (wish: OrderWish): FormValues => ({
  side: wish.side,
  type: wish.type,
  quantity: wish.quantity,
  limitPrice: wish.limitPrice ?? '',
  limitOffsetTicks: wish.limitOffsetTicks === undefined ? '' : String(wish.limitOffsetTicks),
  stopPrice: wish.stopPrice ?? '',
  trailUnit: wish.trail?.unit ?? 'ticks',
  trailValue: wish.trail?.value ?? '20',
  triggerOn: wish.triggerOn ?? 'last',
  timeInForce: wish.timeInForce ?? 'day',
  expiresAt: wish.expiresAt === undefined ? '' : momentAsTyped(zoneOf(wish.instrument), wish.expiresAt),
  restOnly: wish.restOnly ?? false,
  heldBy: wish.heldBy ?? 'venue',
  exitPlan: typeof wish.exitPlan === 'string' ? wish.exitPlan : '',
  setup: wish.setup ?? '',
  product: wish.product ?? 'overnight',
});

export const usesLimit = (type: OrderWish['type']): boolean => type === 'limit' || type === 'stop-limit';
export const usesStop = (type: OrderWish['type']): boolean => type === 'stop' || type === 'stop-limit' || type === 'trailing-stop';
/** Times in force that no stop has. */
export const atOnceOnly: ReadonlySet<string> = new Set(['ioc', 'fok']);

/** The request that a form stands for; what its type has no use for is left out. */
export function wishOf(values: FormValues, base: Pick<OrderWish, 'account' | 'instrument'> & Partial<OrderWish>): OrderWish {
  const { side, type, quantity, timeInForce, restOnly, heldBy, triggerOn } = values;
  const [limitPrice, stopPrice, exitPlan, setup] = [values.limitPrice, values.stopPrice, values.exitPlan, values.setup].map((text) => text.trim());
  const expiresAt = typedMoment(zoneOf(base.instrument), values.expiresAt);
  const byOffset = type === 'stop-limit' && limitPrice === '';
  return {
    account: base.account,
    instrument: base.instrument,
    side,
    type,
    quantity: quantity.trim(),
    ...(usesLimit(type) && limitPrice ? { limitPrice } : {}),
    ...(byOffset ? { limitOffsetTicks: Number(values.limitOffsetTicks) || 0 } : {}),
    ...(usesStop(type) && stopPrice ? { stopPrice } : {}),
    ...(type === 'trailing-stop' ? { trail: { unit: values.trailUnit, value: values.trailValue.trim() } } : {}),
    ...(usesStop(type) && triggerOn !== 'last' ? { triggerOn } : {}),
    ...(timeInForce === 'day' ? {} : { timeInForce }),
    ...(timeInForce === 'gtd' && expiresAt !== null ? { expiresAt } : {}),
    ...(type === 'limit' && restOnly && !atOnceOnly.has(timeInForce) ? { restOnly: true } : {}),
    ...(heldBy === 'here' && type !== 'market' ? { heldBy } : {}),
    ...(exitPlan ? { exitPlan } : typeof base.exitPlan === 'object' ? { exitPlan: base.exitPlan } : {}),
    ...(setup ? { setup } : {}),
    ...(base.reduceOnly === undefined ? {} : { reduceOnly: base.reduceOnly }),
    ...(base.crossesZero ? { crossesZero: true } : {}),
    ...(values.product === 'overnight' ? {} : { product: values.product }),
  };
}

const UP = new Set(['ArrowUp', 'PageUp']);
const DOWN = new Set(['ArrowDown', 'PageDown']);

/** Whether a key steps what is typed in a field of price or quantity. */
export const isStep = (key: string): boolean => UP.has(key) || DOWN.has(key);

/**
 * What a field says after a key: a price moves by ticks (from the last trade where none is typed), a quantity by steps
 * or through the size keys (pages); with `Shift` by ten. Null where there is nothing to step from.
 */
export function stepped(instrument: Instrument, kind: 'price' | 'quantity', typed: string, key: string, byTen: boolean): string | null {
  const way = (UP.has(key) ? 1 : -1) * (byTen ? 10 : 1);
  if (kind === 'price') {
    const price = parsePrice(instrument, typed) ?? quoteOf(instrument.id)?.last ?? null;
    return price === null ? null : formatPrice(instrument, asPrice(Math.max(1, addTicks(instrument, price, way))));
  }
  if (key.startsWith('Page')) {
    const keys = sizeKeys(instrument);
    const at = keys.findIndex((size) => Number(size) >= Number(typed));
    return keys[Math.max(0, Math.min(keys.length - 1, (at < 0 ? keys.length - 1 : at) + Math.sign(way)))] ?? null;
  }
  const quantity = parseQuantity(instrument, typed) ?? 0;
  return formatQuantity(instrument, asQuantity(Math.max(instrument.minimumQuantity, quantity + way)));
}
