import type { ExitPlanText } from '../exits/index.ts';
import {
  VENUES,
  formatPrice,
  formatQuantity,
  isTradable,
  parseQuantity,
  tickAt,
  venueOrderTypes,
  type Instrument,
  type Price,
  type Quantity,
} from '../instrument/index.ts';
import {
  dayStart,
  isDay,
  isTradingDay,
  localTime,
  minutesOf,
  nextTradingDay,
  parseDay,
  trailedStop,
  type Quote,
  type Side,
  type Trail,
} from '../market/index.ts';
import { ceilRatio, compareRatio, divideRatio, floorRatio, formatMoney, formatScaled, isWhole, parseScaled, ratio, ratioOf } from '../number/index.ts';
import { orderSentence, type OrderRequest, type OrderTerms, type Pricing as OrderPricing } from '../orders/index.ts';
import type { Position, Product } from '../portfolio/index.ts';
import { listingMeant } from './listing.ts';
import {
  parseOrder,
  printOrder,
  type Act,
  type DistanceText,
  type Extra,
  type LimitText,
  type Named,
  type OrderPhrase,
  type PriceText,
} from './order-phrase.ts';
import type { OrderScene, PhraseAccount } from './order-scene.ts';
import { Amounts } from './phrase-amounts.ts';
import { Prices } from './phrase-prices.ts';
import { caught, faultAt, type Read } from './reader.ts';
import type { Span } from './tokens.ts';

/** An order request as `POST /api/orders` takes it, but for the name that is given to it. */
export type PhraseRequest = Omit<OrderRequest, 'clientOrderId' | 'exitPlan'> & { exitPlan?: string | ExitPlanText };

/** What a phrase does that is no order request. */
export interface PhraseAct {
  readonly kind: 'close' | 'reverse' | 'flatten' | 'cancel' | 'break-even';
  readonly account: string;
  /** Null for the whole account. */
  readonly instrument: string | null;
  readonly quantity?: string;
  readonly percent?: string;
  readonly side?: Side;
  readonly plusTicks?: number;
}

/** A phrase as it reads now: what would be asked, and one sentence that says every figure. */
export interface OrderReading {
  readonly canonical: string;
  readonly reading: string;
  readonly requests: readonly PhraseRequest[];
  readonly act: PhraseAct | null;
}

/** Reads an order phrase against the market as it is. Nothing is sent. */
export function readOrderPhrase(text: string, scene: OrderScene): Read<OrderReading> {
  const parsed = parseOrder(text);
  if (!parsed.ok) return parsed;
  return caught(() => {
    const told = new Reading(text.length, parsed.value, scene);
    return { canonical: printOrder(parsed.value), ...told.read() };
  });
}

/** A price text such as `bid - 2 spreads` as a limit of a side, to the grid; a basket's. */
export function readLimit(price: PriceText, side: Side, instrument: Instrument, quote: Quote | undefined, position: Position | null): Read<Price> {
  return caught(() => new Prices(instrument, quote, position).grid(price, side === 'sell').price);
}

/** The instrument and account a phrase is about; what must be known before it is read. */
export function subjectOf(phrase: OrderPhrase, length: number, scene: OrderScene): { account: PhraseAccount; instrument: Instrument | null } {
  const extra = phrase.extras.find((one) => one.kind === 'account');
  const id = extra?.name ?? scene.account;
  const at = extra?.named ?? { from: length, to: length };
  if (id === null) throw faultAt(at, 'no account is named, and there is none to take', ['account']);
  const account = scene.accounts.get(id);
  if (!account) throw faultAt(at, `${id} is not one of your accounts`, [...scene.accounts.keys()]);
  const { act } = phrase;
  if ('account' in act && act.account) return { account, instrument: null };
  const named: (Named & Span) | null = act.instrument ?? (scene.instrument === null ? null : { text: scene.instrument, from: length, to: length });
  if (!named) throw faultAt({ from: length, to: length }, 'no instrument is named, and there is none to take', ['an instrument']);
  return { account, instrument: listingMeant(named, scene, (one) => account.mayTrade(one)) };
}

class Reading {
  private readonly end: Span;
  private readonly notes: string[] = [];

  constructor(
    length: number,
    private readonly phrase: OrderPhrase,
    private readonly scene: OrderScene,
  ) {
    this.end = { from: length, to: length };
  }

  read(): Omit<OrderReading, 'canonical'> {
    const { act } = this.phrase;
    const { account, instrument } = subjectOf(this.phrase, this.end.from, this.scene);
    if (instrument && !isTradable(instrument)) throw faultAt(this.at(act), `${instrument.id} is an index and can't be traded`);
    if (instrument && !account.mayTrade(instrument)) throw faultAt(this.at(act), `${account.id} can't trade ${instrument.id}`);
    if (act.kind !== 'order') return { requests: [], ...this.verb(act, account, instrument) };
    if (!instrument) throw new Error('an order has an instrument');
    return this.order(act, account, instrument);
  }

  private at({ instrument }: { instrument: Named | null }): Span {
    return instrument ?? this.end;
  }

  private verb(act: Exclude<Act, { kind: 'order' }>, account: PhraseAccount, instrument: Instrument | null): { act: PhraseAct; reading: string } {
    const base = { account: account.id, instrument: instrument?.id ?? null };
    const where = instrument ? `${instrument.id}, ${account.id}` : `all of ${account.id}`;
    switch (act.kind) {
      case 'close': {
        if (act.part === null) return { act: { kind: 'close', ...base }, reading: `Close ${where} at market.` };
        if ('percent' in act.part) {
          const share = ratioOf(act.part.percent);
          if (share.n <= 0n || compareRatio(share, ratio(100n)) > 0) throw faultAt(act.part, 'a share is over 0 and at most 100 percent');
          return { act: { kind: 'close', ...base, percent: act.part.percent }, reading: `Close ${act.part.percent} % of ${where} at market.` };
        }
        const quantity = formatQuantity(instrument as Instrument, this.typedQuantity(instrument as Instrument, act.part.quantity, act.part));
        return { act: { kind: 'close', ...base, quantity }, reading: `Close ${quantity} of ${where} at market.` };
      }
      case 'reverse':
        return { act: { kind: 'reverse', ...base }, reading: `Reverse ${where} at market: the same size on the other side.` };
      case 'flatten':
        return { act: { kind: 'flatten', ...base }, reading: `Flatten ${where}: cancel its orders and close at market.` };
      case 'cancel': {
        const what = act.side === null ? 'the working orders' : `the working ${act.side} orders`;
        return { act: { kind: 'cancel', ...base, ...(act.side === null ? {} : { side: act.side }) }, reading: `Cancel ${what} of ${where}.` };
      }
      case 'break-even': {
        const plus = act.plusTicks;
        if (plus && !isWhole(ratioOf(plus.ticks))) throw faultAt(plus, 'a whole number of ticks is needed');
        const plusTicks = plus ? Number(plus.ticks) * (plus.up ? 1 : -1) : 0;
        const far = plus ? ` ${plus.up ? '+' : '−'} ${plus.ticks} ticks` : '';
        return { act: { kind: 'break-even', ...base, plusTicks }, reading: `Move the stop of ${where} to its average price${far}.` };
      }
      default:
        return act satisfies never;
    }
  }

  private order(act: Act & { kind: 'order' }, account: PhraseAccount, instrument: Instrument): Omit<OrderReading, 'canonical'> {
    const { side } = act;
    const has = (kind: Extra['kind']): boolean => this.phrase.extras.some((one) => one.kind === kind);
    const product: Product = has('intraday') ? 'intraday' : 'overnight';
    const prices = new Prices(instrument, this.scene.quote(instrument.id), account.position(instrument.id));
    const pricing = this.pricing(act, side, instrument, prices);
    const amounts = new Amounts(side, instrument, account, prices, pricing, product);
    const quantity = act.amount.kind === 'number' ? this.typedQuantity(instrument, act.amount.value, act.amount) : amounts.quantity(act.amount);
    this.notes.push(...prices.notes, ...amounts.notes);
    const lifetime = this.lifetime(instrument);
    const terms = { quantity, lifetime, ...pricing } as OrderTerms;
    const setup = this.phrase.extras.find((one) => one.kind === 'as')?.setup;
    const plan = this.plan(side, instrument, prices);
    const request: RequestDraft = { account: account.id, instrument: instrument.id, side, quantity: formatQuantity(instrument, quantity), type: pricing.type };
    sayPricing(request, pricing, instrument);
    sayLifetime(request, lifetime);
    if (has('held here')) request.heldBy = 'here';
    if (has('intraday') || has('overnight')) request.product = product;
    if (has('reduce only')) request.reduceOnly = true;
    if (has('through zero')) request.crossesZero = true;
    if (setup !== undefined) request.setup = setup;
    if (plan) request.exitPlan = plan.request;
    return { requests: [request], act: null, reading: this.sentence(terms, request, instrument, plan?.words ?? null) };
  }

  private sentence(terms: OrderTerms, request: PhraseRequest, instrument: Instrument, plan: string | null): string {
    const { side, account, product = 'overnight', heldBy = 'venue', setup } = request;
    const said = orderSentence({ side, instrument: instrument.id, account, product, heldBy, opening: true, terms }, instrument).replace(/\.$/, '');
    const parts = [said];
    if (request.reduceOnly) parts.push('closes only');
    if (request.crossesZero) parts.push('through zero');
    if (plan) parts.push(plan);
    if (setup !== undefined) parts.push(`as ${setup}`);
    return `${parts.join(', ')}${this.notes.length > 0 ? ` (${this.notes.join('; ')})` : ''}.`;
  }

  private typedQuantity(instrument: Instrument, text: string, at: Span): Quantity {
    const value = parseQuantity(instrument, text);
    const step = formatScaled(1n, instrument.quantityDecimals);
    if (value === null) throw faultAt(at, `${text} is not a multiple of ${step}`, [`a multiple of ${step}`]);
    if (value < instrument.minimumQuantity) {
      const least = formatQuantity(instrument, instrument.minimumQuantity);
      throw faultAt(at, `the quantity must be at least ${least}`, [least]);
    }
    return value;
  }

  private pricing({ price }: Act & { kind: 'order' }, side: Side, instrument: Instrument, prices: Prices): PhrasePricing {
    const triggerOn = this.phrase.extras.find((one) => one.kind === 'on')?.source ?? 'last';
    const buys = side === 'buy';
    switch (price.kind) {
      case 'market':
        return { type: 'market' };
      case 'limit':
        return { type: 'limit', limit: prices.grid(price.price, !buys).price, restOnly: this.phrase.extras.some(({ kind }) => kind === 'rest only') };
      case 'stop': {
        const stop = prices.grid(price.price, buys).price;
        if (price.limit === null) return { type: 'stop', stop, triggerOn };
        return { type: 'stop-limit', stop, limit: limitOf(price.limit, side, prices), triggerOn };
      }
      case 'trail': {
        const trail = trailOf(price.distance, instrument, prices);
        const best = prices.quote?.[triggerOn === 'last' ? 'lastEver' : triggerOn] ?? null;
        if (trail.unit !== 'money' && best !== null && trailedStop(instrument, side, trail, best) === null)
          throw faultAt(price.distance, 'there is no price that far away');
        return { type: 'trailing-stop', trail, stop: null, triggerOn };
      }
      default:
        return price satisfies never;
    }
  }

  private lifetime({ venue }: Instrument): OrderTerms['lifetime'] {
    for (const one of this.phrase.extras) {
      if (one.kind === 'ioc' || one.kind === 'fok') return { kind: one.kind };
      if (one.kind !== 'until') continue;
      if (one.end === 'day') return { kind: 'day' };
      if (one.end === 'cancelled') return { kind: 'gtc' };
      const { date, time } = one.end;
      const day = parseDay(date);
      if (!isDay(date) || !isTradingDay(VENUES[venue], day)) throw faultAt(one, `${date} is no trading day of ${venue}`);
      if (time !== null && !/^([01]?\d|2[0-3]):[0-5]\d$/.test(time)) throw faultAt(one, `${time} is no time`);
      const until = time === null ? dayStart(venue, nextTradingDay(venue, day)) : localTime(VENUES[venue].zone, day, minutesOf(time.padStart(5, '0')));
      if (until <= this.scene.now) throw faultAt(one, `${date}${time === null ? '' : ` ${time}`} is past`);
      return { kind: 'gtd', until };
    }
    return { kind: 'day' };
  }

  private plan(side: Side, instrument: Instrument, prices: Prices): { request: string | ExitPlanText; words: string } | null {
    for (const one of this.phrase.extras) {
      if (one.kind === 'with plan') {
        if (!this.scene.plans.has(one.name)) throw faultAt(one.named, `there is no exit plan named ${one.name}`, [...this.scene.plans]);
        return { request: one.name, words: `with exit plan ${one.name}` };
      }
      if (one.kind !== 'with stop') continue;
      const up = side === 'buy';
      const stop = formatPrice(instrument, prices.grid(one.stop, up).price);
      const target = one.target && formatPrice(instrument, prices.grid(one.target, up).price);
      const heldBy = venueOrderTypes(instrument.venue, instrument.kind).includes('stop') ? 'venue' : 'here';
      const step = {
        share: '100',
        stop: { by: 'price', value: stop, order: 'market' },
        ...(target === null ? {} : { target: { by: 'price', value: target, order: 'limit' } }),
      } as const;
      const request = { heldBy, onSizeChange: 'follow', onMissedLevel: 'fire', steps: [step] } as ExitPlanText;
      return {
        request,
        words: `with a stop at ${stop}${target === null ? '' : ` and a target at ${target}`} ${heldBy === 'here' ? 'held here' : 'at the venue'}`,
      };
    }
    return null;
  }
}

function limitOf(limit: LimitText, side: Side, prices: Prices): (OrderPricing & { type: 'stop-limit' })['limit'] {
  if (limit.by === 'price') return { by: 'price', price: prices.grid(limit.price, side === 'sell').price };
  if (!isWhole(ratioOf(limit.ticks)) || Number(limit.ticks) > 100_000) throw faultAt(limit, 'a whole number of ticks is needed, at most 100000');
  if (limit.up !== (side === 'buy')) {
    const way = side === 'buy' ? '+' : '-';
    throw faultAt(limit, `a ${side}'s limit lies beyond its stop price: ${way} ${limit.ticks} ticks`, [`${way} ${limit.ticks} ticks`]);
  }
  return { by: 'offset', ticks: Number(limit.ticks) };
}

const MOST_TICKS = 100_000n;

/** A trail: percent stays percent, all else is whole ticks of the band in which the market is, rounded up. */
function trailOf(distance: DistanceText, instrument: Instrument, prices: Prices): Trail {
  const value = ratioOf(distance.value);
  if (value.n <= 0n) throw faultAt(distance, 'a trail is over 0');
  if (distance.unit === 'percent') {
    const percent = parseScaled(distance.value, 8);
    if (percent === null || percent >= 10n ** 10n) throw faultAt(distance, 'a trail is below 100 percent and has at most 8 decimals');
    return { unit: 'percent', percent };
  }
  if (distance.unit === 'ticks' && !isWhole(value)) throw faultAt(distance, 'a whole number of ticks is needed');
  const ticks =
    distance.unit === 'ticks'
      ? floorRatio(value)
      : ceilRatio(divideRatio(prices.far(distance, prices.near(distance)), ratio(BigInt(tickAt(instrument, prices.near(distance))))));
  if (ticks < 1n || ticks > MOST_TICKS) throw faultAt(distance, `a trail is 1 to ${MOST_TICKS} ticks`);
  return { unit: 'ticks', ticks: Number(ticks) };
}

/** No phrase says an order that follows the market. */
type PhrasePricing = Exclude<OrderPricing, { readonly type: 'following' }>;

/** A request part by part: what is left out of a phrase is left out of it. */
type RequestDraft = { -readonly [Name in keyof PhraseRequest]: PhraseRequest[Name] };

function sayLifetime(request: RequestDraft, lifetime: OrderTerms['lifetime']): void {
  if (lifetime.kind === 'day') return;
  request.timeInForce = lifetime.kind;
  if (lifetime.kind === 'gtd') request.expiresAt = new Date(lifetime.until).toISOString();
}

function sayPricing(request: RequestDraft, pricing: PhrasePricing, instrument: Instrument): void {
  const say = (price: Price): string => formatPrice(instrument, price);
  switch (pricing.type) {
    case 'market':
      return;
    case 'limit':
      request.limitPrice = say(pricing.limit);
      if (pricing.restOnly) request.restOnly = true;
      return;
    case 'stop':
      request.stopPrice = say(pricing.stop);
      break;
    case 'stop-limit':
      request.stopPrice = say(pricing.stop);
      if (pricing.limit.by === 'price') request.limitPrice = say(pricing.limit.price);
      else request.limitOffsetTicks = pricing.limit.ticks;
      break;
    case 'trailing-stop':
      request.trail = { unit: pricing.trail.unit, value: trailText(pricing.trail, instrument) };
      break;
    default:
      pricing satisfies never;
  }
  if (pricing.triggerOn !== 'last') request.triggerOn = pricing.triggerOn;
}

function trailText(trail: Trail, instrument: Instrument): string {
  if (trail.unit === 'ticks') return String(trail.ticks);
  return trail.unit === 'percent' ? formatScaled(trail.percent, 8, 0) : formatMoney(trail.value, instrument.settlesIn);
}
