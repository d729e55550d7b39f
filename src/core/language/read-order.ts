import type { ExitPlanText } from '../exits/index.ts';
import {
  asPrice,
  asQuantity,
  formatPrice,
  formatQuantity,
  gridCeil,
  gridFloor,
  isInverse,
  isOnGrid,
  isTradable,
  nearestOnGrid,
  parseQuantity,
  tickAt,
  venueOrderTypes,
  type Instrument,
  type Price,
  type Quantity,
} from '../instrument/index.ts';
import {
  isTradingDay,
  localTime,
  minutesOf,
  nextTradingDay,
  parseDay,
  isDay,
  trailedStop,
  dayStart,
  type Quote,
  type Side,
  type Trail,
} from '../market/index.ts';
import {
  addRatio,
  ceilRatio,
  compareRatio,
  divideRatio,
  floorRatio,
  formatMoney,
  formatRatio,
  formatScaled,
  powerOfTen,
  isWhole,
  multiplyRatio,
  parseScaled,
  plus,
  ratio,
  ratioOf,
  subtractRatio,
  type Money,
  type Ratio,
} from '../number/index.ts';
import { limitPriceOf, orderSentence, type OrderRequest, type OrderTerms, type Pricing as OrderPricing } from '../orders/index.ts';
import { lossAt, valueAt, type Position, type Product } from '../portfolio/index.ts';
import { VENUES } from '../instrument/index.ts';
import { listingMeant } from './listing.ts';
import {
  parseOrder,
  printOrder,
  printPrice,
  type Act,
  type Amount,
  type DistanceText,
  type Extra,
  type LimitText,
  type Named,
  type OrderPhrase,
  type PriceText,
  type Reference,
} from './order-phrase.ts';
import type { OrderScene, PhraseAccount } from './order-scene.ts';
import { caught, PhraseFault, type Read } from './reader.ts';
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
  if (id === null) throw fault(at, 'no account is named, and there is none to take', ['account']);
  const account = scene.accounts.get(id);
  if (!account) throw fault(at, `${id} is not one of your accounts`, [...scene.accounts.keys()]);
  const { act } = phrase;
  if ('account' in act && act.account) return { account, instrument: null };
  const named: (Named & Span) | null = act.instrument ?? (scene.instrument === null ? null : { text: scene.instrument, from: length, to: length });
  if (!named) throw fault({ from: length, to: length }, 'no instrument is named, and there is none to take', ['an instrument']);
  return { account, instrument: listingMeant(named, scene, (one) => account.mayTrade(one)) };
}

const fault = ({ from, to }: Span, message: string, expected: readonly string[] = []): PhraseFault => new PhraseFault({ from, to, message, expected });

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
    if (instrument && !isTradable(instrument)) throw fault(this.at(act), `${instrument.id} is an index and can't be traded`);
    if (instrument && !account.mayTrade(instrument)) throw fault(this.at(act), `${account.id} can't trade ${instrument.id}`);
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
          if (share.n <= 0n || compareRatio(share, ratio(100n)) > 0) throw fault(act.part, 'a share is over 0 and at most 100 percent');
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
        if (plus && !isWhole(ratioOf(plus.ticks))) throw fault(plus, 'a whole number of ticks is needed');
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
    if (value === null) throw fault(at, `${text} is not a multiple of ${step}`, [`a multiple of ${step}`]);
    if (value < instrument.minimumQuantity) {
      const least = formatQuantity(instrument, instrument.minimumQuantity);
      throw fault(at, `the quantity must be at least ${least}`, [least]);
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
          throw fault(price.distance, 'there is no price that far away');
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
      if (!isDay(date) || !isTradingDay(VENUES[venue], day)) throw fault(one, `${date} is no trading day of ${venue}`);
      if (time !== null && !/^([01]?\d|2[0-3]):[0-5]\d$/.test(time)) throw fault(one, `${time} is no time`);
      const until = time === null ? dayStart(venue, nextTradingDay(venue, day)) : localTime(VENUES[venue].zone, day, minutesOf(time.padStart(5, '0')));
      if (until <= this.scene.now) throw fault(one, `${date}${time === null ? '' : ` ${time}`} is past`);
      return { kind: 'gtd', until };
    }
    return { kind: 'day' };
  }

  private plan(side: Side, instrument: Instrument, prices: Prices): { request: string | ExitPlanText; words: string } | null {
    for (const one of this.phrase.extras) {
      if (one.kind === 'with plan') {
        if (!this.scene.plans.has(one.name)) throw fault(one.named, `there is no exit plan named ${one.name}`, [...this.scene.plans]);
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
  if (!isWhole(ratioOf(limit.ticks)) || Number(limit.ticks) > 100_000) throw fault(limit, 'a whole number of ticks is needed, at most 100000');
  if (limit.up !== (side === 'buy')) {
    const way = side === 'buy' ? '+' : '-';
    throw fault(limit, `a ${side}'s limit lies beyond its stop price: ${way} ${limit.ticks} ticks`, [`${way} ${limit.ticks} ticks`]);
  }
  return { by: 'offset', ticks: Number(limit.ticks) };
}

const MOST_TICKS = 100_000n;

/** A trail: percent stays percent, all else is whole ticks of the band in which the market is, rounded up. */
function trailOf(distance: DistanceText, instrument: Instrument, prices: Prices): Trail {
  const value = ratioOf(distance.value);
  if (value.n <= 0n) throw fault(distance, 'a trail is over 0');
  if (distance.unit === 'percent') {
    const percent = parseScaled(distance.value, 8);
    if (percent === null || percent >= 10n ** 10n) throw fault(distance, 'a trail is below 100 percent and has at most 8 decimals');
    return { unit: 'percent', percent };
  }
  if (distance.unit === 'ticks' && !isWhole(value)) throw fault(distance, 'a whole number of ticks is needed');
  const ticks =
    distance.unit === 'ticks'
      ? floorRatio(value)
      : ceilRatio(divideRatio(prices.far(distance, prices.near(distance)), ratio(BigInt(tickAt(instrument, prices.near(distance))))));
  if (ticks < 1n || ticks > MOST_TICKS) throw fault(distance, `a trail is 1 to ${MOST_TICKS} ticks`);
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

/** The prices that a phrase names, exact, and how they are taken to the grid. */
class Prices {
  readonly notes: string[] = [];

  constructor(
    private readonly instrument: Instrument,
    readonly quote: Quote | undefined,
    private readonly position: { readonly quantity: Quantity; readonly cost: Money } | null,
  ) {}

  /** A price on the grid: what is typed bare must lie there, all else is taken up or down to it. */
  grid(text: PriceText, up: boolean): { price: Price; exact: Ratio } {
    const { instrument } = this;
    const exact = this.exact(text);
    if (exact.n <= 0n) throw fault(text, 'that is no price above 0');
    const units = up ? ceilRatio(exact) : floorRatio(exact);
    if (units > BigInt(Number.MAX_SAFE_INTEGER)) throw fault(text, 'that price is too large');
    const price = up ? gridCeil(instrument, asPrice(Number(units))) : gridFloor(instrument, asPrice(Number(units)));
    const bare = text.reference.kind === 'number' && text.offset === null;
    if (bare && !(isWhole(exact) && isOnGrid(instrument, asPrice(Number(exact.n / exact.d))))) {
      const around = [...nearestOnGrid(instrument, asPrice(Number(floorRatio(exact)))), ...nearestOnGrid(instrument, asPrice(Number(ceilRatio(exact))))];
      const near = [...new Set(around)].map((one) => formatPrice(instrument, one));
      throw fault(text, `${this.inWhole(exact)} is off the tick grid; nearest: ${near.join(', ')}`, near);
    }
    if (price <= 0) throw fault(text, 'that is no price above 0');
    if (!bare) this.notes.push(this.derived(text, price, exact, up));
    return { price, exact };
  }

  private derived(text: PriceText, price: Price, exact: Ratio, up: boolean): string {
    const { reference, offset } = text;
    const from = reference.kind === 'number' ? '' : `${reference.name} ${this.say(this.of(reference))}`;
    const words = offset ? (reference.kind === 'number' ? printPrice(text) : printPrice(text).replace(reference.name, from)) : from;
    const taken =
      compareRatio(exact, ratio(BigInt(price))) === 0 ? '' : `, ${this.inWhole(exact)} taken ${up ? 'up' : 'down'} to ${formatPrice(this.instrument, price)}`;
    return `${words}${taken}`;
  }

  /** A price in whole currency, without zeros at the end. */
  private inWhole(exact: Ratio): string {
    return formatRatio(divideRatio(exact, ratio(powerOfTen(this.instrument.priceDecimals))));
  }

  private say(exact: Ratio): string {
    const text = this.inWhole(exact);
    const [, fraction = ''] = text.split('.');
    return fraction.length >= this.instrument.priceDecimals
      ? text
      : formatScaled(parseScaled(text, this.instrument.priceDecimals) ?? 0n, this.instrument.priceDecimals);
  }

  /** In price units. */
  exact({ reference, offset }: PriceText): Ratio {
    const base = this.of(reference);
    if (!offset) return base;
    if (base.n <= 0n) throw fault(reference, 'that is no price above 0');
    const band = floorRatio(base);
    if (band > BigInt(Number.MAX_SAFE_INTEGER)) throw fault(reference, 'that price is too large');
    const far = offset.unit === 'percent' ? divideRatio(multiplyRatio(base, ratioOf(offset.value)), ratio(100n)) : this.far(offset, asPrice(Number(band)));
    return offset.up ? addRatio(base, far) : subtractRatio(base, far);
  }

  /** A distance that is no percentage, in price units; ticks are those of the band of `near`. */
  far(distance: DistanceText, near: Price): Ratio {
    const value = ratioOf(distance.value);
    switch (distance.unit) {
      case 'price':
      case 'percent':
        return multiplyRatio(value, ratio(powerOfTen(this.instrument.priceDecimals)));
      case 'ticks':
        return multiplyRatio(value, ratio(BigInt(tickAt(this.instrument, near))));
      case 'spreads': {
        const { bid = null, ask = null } = this.quote ?? {};
        if (bid === null || ask === null) throw fault(distance, 'there is no spread: one side is empty');
        return multiplyRatio(value, ratio(BigInt(ask - bid)));
      }
      default:
        return distance.unit satisfies never;
    }
  }

  /** Where the market is. */
  near(at: Span): Price {
    const { lastEver = null, bid = null, ask = null, previousSettlement = null } = this.quote ?? {};
    const price = lastEver ?? bid ?? ask ?? previousSettlement;
    if (price === null) throw fault(at, `${this.instrument.id} has no price yet`);
    return price;
  }

  private of(reference: Reference): Ratio {
    if (reference.kind === 'number') return multiplyRatio(ratioOf(reference.text), ratio(powerOfTen(this.instrument.priceDecimals)));
    const found = this.named(reference.name);
    if (!found) throw fault(reference, `${this.instrument.id} has no ${reference.name === 'average' ? 'position, so no average' : reference.name} now`);
    return found;
  }

  named(name: Exclude<Reference, { kind: 'number' }>['name']): Ratio | null {
    const { quote, position, instrument } = this;
    const whole = (price: Price | null | undefined): Ratio | null => (price === null || price === undefined ? null : ratio(BigInt(price)));
    if (name === 'average') {
      if (!position || position.quantity === 0 || position.cost === 0n) return null;
      const size = BigInt(Math.abs(position.quantity));
      const { priceDecimals, quantityDecimals, multiplier } = instrument;
      if (isInverse(instrument)) return ratio(size * powerOfTen(8 + priceDecimals), position.cost * powerOfTen(quantityDecimals));
      return ratio(position.cost * powerOfTen(priceDecimals + quantityDecimals), 10n ** 8n * size * BigInt(multiplier));
    }
    if (!quote) return null;
    switch (name) {
      case 'bid':
      case 'ask':
      case 'open':
      case 'high':
      case 'low':
        return whole(quote[name]);
      case 'last':
        return whole(quote.lastEver);
      case 'settlement':
        return whole(quote.previousSettlement);
      case 'mid':
        return quote.bid === null || quote.ask === null ? null : ratio(BigInt(quote.bid + quote.ask), 2n);
      case 'vwap':
        return quote.dayVolume === 0 ? null : ratio(quote.turnover, BigInt(quote.dayVolume));
      default:
        return name satisfies never;
    }
  }
}

/** Quantities by money, risk and shares: the largest on the step that fits. */
class Amounts {
  readonly notes: string[] = [];

  constructor(
    private readonly side: Side,
    private readonly instrument: Instrument,
    private readonly account: PhraseAccount,
    private readonly prices: Prices,
    private readonly pricing: OrderPricing,
    private readonly product: Product,
  ) {}

  quantity(amount: Exclude<Amount, { kind: 'number' }>): Quantity {
    switch (amount.kind) {
      case 'position':
        return this.held(amount, true);
      case 'share':
        return amount.of === 'position' ? this.shareOfPosition(amount) : this.shareOfMoney(amount);
      case 'money': {
        const most = this.money(amount.value, amount);
        const entry = this.entry(amount);
        return this.largest(
          amount,
          most,
          (q) => this.withFee(q, this.value(q, entry)),
          () => `for ${amount.value}`,
        );
      }
      case 'risk':
        return this.atRisk(amount);
      default:
        return amount satisfies never;
    }
  }

  private held(at: Span, closes: boolean): Quantity {
    const signed = this.account.position(this.instrument.id)?.quantity ?? 0;
    if (signed === 0) throw fault(at, `${this.account.id} has no position in ${this.instrument.id}`);
    if (closes && signed > 0 !== (this.side === 'sell'))
      throw fault(at, `a ${this.side} does not close a position of ${formatQuantity(this.instrument, asQuantity(signed))}`);
    return asQuantity(Math.abs(signed));
  }

  private shareOfPosition({ percent, at, from, to }: Amount & { kind: 'share' }): Quantity {
    const held = this.held(at, false);
    const part = floorRatio(divideRatio(multiplyRatio(ratio(BigInt(held)), ratioOf(percent)), ratio(100n)));
    const quantity = part > BigInt(Number.MAX_SAFE_INTEGER) ? Infinity : Number(part);
    if (quantity < this.instrument.minimumQuantity)
      throw fault({ from, to }, `${percent} % of ${formatQuantity(this.instrument, held)} is less than the smallest quantity, ${this.least()}`);
    if (!Number.isSafeInteger(quantity)) throw fault({ from, to }, 'that quantity is too large');
    this.notes.push(`${percent} % of ${formatQuantity(this.instrument, held)}`);
    return asQuantity(quantity);
  }

  private shareOfMoney(amount: Amount & { kind: 'share'; of: unknown }): Quantity {
    const whole = amount.of === 'equity' ? this.account.equity : this.account.buyingPower(this.instrument);
    const most = divideRatio(multiplyRatio(ratio(whole), ratioOf(amount.percent)), ratio(100n));
    const entry = this.entry(amount);
    const needs = (q: Quantity): Money => {
      const sum = this.account.needs(this.instrument, this.side === 'buy', q, entry, this.product);
      if (sum === null) throw fault(amount, `${this.instrument.id} can't be valued now`);
      return sum;
    };
    return this.largest(amount, most, needs, () => `${amount.percent} % of the ${amount.of} of ${formatMoney(whole, 'EUR')}`);
  }

  private atRisk(amount: Amount & { kind: 'risk' }): Quantity {
    const { instrument } = this;
    const most = this.money(amount.value, amount);
    const entry = this.entry(amount);
    const exact = this.prices.exact(amount.until);
    if (exact.n <= 0n) throw fault(amount.until, 'that is no price above 0');
    const losing = compareRatio(exact, ratio(BigInt(entry)));
    if (this.side === 'buy' ? losing >= 0 : losing <= 0)
      throw fault(
        amount.until,
        `a ${this.side} at ${formatPrice(instrument, entry)} does not lose at that price; it must be ${this.side === 'buy' ? 'below' : 'above'}`,
      );
    const cost = (q: Quantity): Money => lossAt(instrument, q, entry, exact, this.account.fee);
    const to = isWhole(exact)
      ? formatPrice(instrument, asPrice(Number(floorRatio(exact))))
      : formatRatio(divideRatio(exact, ratio(powerOfTen(instrument.priceDecimals))));
    return this.largest(amount, most, cost, (q) => `risking ${amount.value} to ${to}, where it loses ${formatMoney(cost(q), instrument.settlesIn)} with fees`);
  }

  private money(text: string, at: Span): Ratio {
    const sum = parseScaled(text, 8);
    if (sum === null || sum <= 0n) throw fault(at, 'an amount of money is over 0 and has at most 8 decimals');
    return ratio(sum);
  }

  private value = (quantity: Quantity, price: Price): Money => valueAt(this.instrument, quantity, price);
  private withFee = (quantity: Quantity, value: Money): Money => plus(value, this.account.fee(this.instrument, quantity, value));

  /** Where the order is taken to come in: its limit, its stop price, its trail's first stop, at market the best opposite price. */
  private entry(at: Span): Price {
    const { pricing, instrument, side, prices } = this;
    const limit = limitPriceOf(pricing, side, instrument);
    if (limit !== null) return limit;
    if (pricing.type === 'stop') return pricing.stop;
    if (pricing.type === 'trailing-stop') {
      const best = prices.quote?.[pricing.triggerOn === 'last' ? 'lastEver' : pricing.triggerOn] ?? null;
      const stop = best === null ? null : trailedStop(instrument, side, pricing.trail, best);
      if (stop !== null) return stop;
    } else {
      const opposite = prices.quote?.[side === 'buy' ? 'ask' : 'bid'] ?? null;
      if (opposite !== null) return opposite;
    }
    throw fault(at, `${instrument.id} has no ${side === 'buy' ? 'ask' : 'bid'} to value the order at`);
  }

  private least = (): string => formatQuantity(this.instrument, this.instrument.minimumQuantity);

  /** The largest quantity that costs at most so much; what it costs never falls with the quantity. */
  private largest(at: Span, most: Ratio, cost: (quantity: Quantity) => Money, words: (quantity: Quantity) => string): Quantity {
    const fits = (steps: number): boolean => compareRatio(ratio(cost(asQuantity(steps))), most) <= 0;
    const smallest = this.instrument.minimumQuantity;
    if (!fits(smallest)) {
      const needed = formatMoney(cost(smallest), this.instrument.settlesIn);
      throw fault(at, `that is too little: the smallest quantity, ${this.least()}, needs ${needed}`);
    }
    let low: number = smallest;
    let high = smallest * 2;
    while (high < Number.MAX_SAFE_INTEGER / 4 && fits(high)) [low, high] = [high, high * 2];
    while (high - low > 1) {
      const middle = Math.floor((low + high) / 2);
      if (fits(middle)) low = middle;
      else high = middle;
    }
    const quantity = asQuantity(low);
    this.notes.push(words(quantity));
    return quantity;
  }
}
