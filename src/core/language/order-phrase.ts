import type { Side, TriggerSource } from '../market/index.ts';
import { looksLikeInstrument, type Span, type Token } from './tokens.ts';
import { keptWithin, printName, read, type PhraseReader, type Read } from './reader.ts';

/*
 * The grammar of order phrases, a production a function:
 *
 *   phrase   = act { "," extra }
 *   act      = side amount [instrument] [price] | verb
 *   amount   = number | "position" | number "%" "of" ( "position" | "buying power" | "equity" )
 *            | "for" number | "risking" number "to" ref [offset]
 *   price    = "at" ( "market" | ref [offset] ) | "stop" ref [offset] [ "limit" ( ref [offset] | ("+"|"-") number "ticks" ) ] | "trail" distance
 *   offset   = ( "+" | "-" ) distance
 *   distance = number [ "ticks" | "tick" | "%" | "spread" | "spreads" ]
 *   verb     = "close" [ number [ "%" ] ] [instrument] | "reverse" [instrument] | "flatten" [ instrument | "account" ]
 *            | "cancel" ( "orders" | "buys" | "sells" ) [ instrument | "account" ]
 *            | "stop to break-even" [ ("+"|"-") number "ticks" ] [instrument]
 */

export const REFERENCES = ['bid', 'ask', 'mid', 'last', 'average', 'open', 'high', 'low', 'vwap', 'settlement'] as const;
export type ReferenceName = (typeof REFERENCES)[number];

/** A price to start from: a number, or one that the market or the position has. */
export type Reference = ({ readonly kind: 'number'; readonly text: string } | { readonly kind: 'named'; readonly name: ReferenceName }) & Span;

export type DistanceUnit = 'price' | 'ticks' | 'percent' | 'spreads';
export interface DistanceText extends Span {
  readonly value: string;
  readonly unit: DistanceUnit;
}
export interface Offset extends DistanceText {
  readonly up: boolean;
}
/** A reference, moved by an offset. */
export interface PriceText extends Span {
  readonly reference: Reference;
  readonly offset: Offset | null;
}

export type Amount = Span &
  (
    | { readonly kind: 'number'; readonly value: string }
    | { readonly kind: 'position' }
    | { readonly kind: 'share'; readonly percent: string; readonly of: 'position' | 'buying power' | 'equity'; readonly at: Span }
    | { readonly kind: 'money'; readonly value: string }
    | { readonly kind: 'risk'; readonly value: string; readonly until: PriceText }
  );

export type LimitText = { readonly by: 'price'; readonly price: PriceText } | ({ readonly by: 'offset'; readonly up: boolean; readonly ticks: string } & Span);

export type Pricing =
  | { readonly kind: 'market' }
  | { readonly kind: 'limit'; readonly price: PriceText }
  | { readonly kind: 'stop'; readonly price: PriceText; readonly limit: LimitText | null }
  | { readonly kind: 'trail'; readonly distance: DistanceText };

export type Extra = Span &
  (
    | { readonly kind: 'until'; readonly end: 'day' | 'cancelled' | { readonly date: string; readonly time: string | null } }
    | { readonly kind: 'ioc' | 'fok' | 'held here' | 'rest only' | 'reduce only' | 'through zero' | 'intraday' | 'overnight' }
    | { readonly kind: 'with plan'; readonly name: string; readonly named: Span }
    | { readonly kind: 'with stop'; readonly stop: PriceText; readonly target: PriceText | null }
    | { readonly kind: 'as'; readonly setup: string }
    | { readonly kind: 'account'; readonly name: string; readonly named: Span }
    | { readonly kind: 'on'; readonly source: TriggerSource }
  );

/** An instrument as it was named. */
export interface Named extends Span {
  readonly text: string;
}

export type Act =
  | { readonly kind: 'order'; readonly side: Side; readonly amount: Amount; readonly instrument: Named | null; readonly price: Pricing }
  | {
      readonly kind: 'close';
      readonly part: ({ readonly quantity: string } & Span) | ({ readonly percent: string } & Span) | null;
      readonly instrument: Named | null;
    }
  | { readonly kind: 'reverse'; readonly instrument: Named | null }
  | { readonly kind: 'flatten'; readonly account: boolean; readonly instrument: Named | null }
  | { readonly kind: 'cancel'; readonly side: Side | null; readonly account: boolean; readonly instrument: Named | null }
  | { readonly kind: 'break-even'; readonly plusTicks: ({ readonly up: boolean; readonly ticks: string } & Span) | null; readonly instrument: Named | null };

export interface OrderPhrase {
  readonly act: Act;
  readonly extras: readonly Extra[];
}

const PLAIN_EXTRAS = ['ioc', 'fok', 'held here', 'rest only', 'reduce only', 'through zero', 'intraday', 'overnight'] as const;

/** Words of the language: never an instrument, in whatever case they are written. */
const RESERVED: ReadonlySet<string> = new Set(
  `buy sell position of buying power equity for risking to at market stop limit trail ticks tick spread spreads until day cancelled ioc fok held here rest only
   reduce through zero with target as account intraday overnight on close reverse flatten cancel orders buys sells break-even ${REFERENCES.join(' ')}`.split(
    /\s+/,
  ),
);

export const parseOrder = (text: string): Read<OrderPhrase> => keptWithin(text, read(text, phrase), printOrder);

const MOST_EXTRAS = 60;

function phrase(at: PhraseReader): OrderPhrase {
  const told = act(at);
  const extras: Extra[] = [];
  while (at.accept(',')) {
    const next = extra(at);
    excluded(at, told, extras, next);
    if (extras.length >= MOST_EXTRAS) at.failAt(next, 'too many extras');
    extras.push(next);
  }
  return { act: told, extras };
}

function act(at: PhraseReader): Act {
  const side = at.oneOf(['buy', 'sell']);
  if (side) return { kind: 'order', side, amount: amount(at), instrument: named(at), price: pricing(at) };
  if (at.accept('close')) return close(at);
  if (at.accept('flatten')) return { kind: 'flatten', ...scope(at) };
  if (at.accept('reverse')) return { kind: 'reverse', instrument: named(at) };
  if (at.accept('cancel')) {
    const what = at.oneOf(['orders', 'buys', 'sells']) ?? at.fail();
    return { kind: 'cancel', side: what === 'orders' ? null : what === 'buys' ? 'buy' : 'sell', ...scope(at) };
  }
  if (at.accept('stop')) return breakEven(at);
  return at.fail();
}

function close(at: PhraseReader): Act {
  const number = at.accepted('number', 'a quantity');
  const percent = number && at.accept('%');
  const part = number && (percent ? { percent: number.text, from: number.from, to: percent.to } : { quantity: number.text, ...spanOf(number) });
  return { kind: 'close', part, instrument: named(at) };
}

function scope(at: PhraseReader): { account: boolean; instrument: Named | null } {
  return at.accept('account') ? { account: true, instrument: null } : { account: false, instrument: named(at) };
}

function breakEven(at: PhraseReader): Act {
  at.expect('to');
  at.expect('break-even');
  const sign = at.next;
  const way = at.oneOf(['+', '-']);
  let plusTicks: (Act & { kind: 'break-even' })['plusTicks'] = null;
  if (way && sign) {
    const number = at.number();
    const { to } = at.accept('ticks') ?? at.expect('tick');
    plusTicks = { up: way === '+', ticks: number.text, from: sign.from, to };
  }
  return { kind: 'break-even', plusTicks, instrument: named(at) };
}

/** The instrument that comes next, if one does: never a word of the language. */
function named(at: PhraseReader): Named | null {
  const { next } = at;
  if (next && looksLikeInstrument(next) && !RESERVED.has(next.text.toLowerCase())) return { text: at.take().text, ...spanOf(next) };
  at.want('an instrument');
  return null;
}

function amount(at: PhraseReader): Amount {
  const from = at.next?.from ?? at.length;
  const number = at.accepted('number', 'a quantity');
  if (number) {
    if (!at.accept('%')) return { kind: 'number', value: number.text, ...spanOf(number) };
    at.expect('of');
    const start = at.next?.from ?? at.length;
    const of = at.oneOf(['position', 'buying power', 'equity']) ?? at.fail();
    const to = endOf(at);
    return { kind: 'share', percent: number.text, of, at: { from: start, to }, from, to };
  }
  if (at.accept('position')) return { kind: 'position', from, to: endOf(at) };
  if (at.accept('for')) return { kind: 'money', value: at.number('an amount of money').text, from, to: endOf(at) };
  if (at.accept('risking')) {
    const value = at.number('an amount of money').text;
    at.expect('to');
    return { kind: 'risk', value, until: price(at), from, to: endOf(at) };
  }
  return at.fail();
}

function pricing(at: PhraseReader): Pricing {
  if (at.accept('at')) return at.accept('market') ? { kind: 'market' } : { kind: 'limit', price: price(at) };
  if (at.accept('stop')) {
    const stop = price(at);
    return { kind: 'stop', price: stop, limit: at.accept('limit') ? limit(at) : null };
  }
  if (at.accept('trail')) return { kind: 'trail', distance: distance(at) };
  at.want(',');
  return { kind: 'market' };
}

function limit(at: PhraseReader): LimitText {
  const sign = at.next;
  const way = at.oneOf(['+', '-']);
  if (!way || !sign) return { by: 'price', price: price(at) };
  const number = at.number();
  const { to } = at.accept('ticks') ?? at.expect('tick');
  return { by: 'offset', up: way === '+', ticks: number.text, from: sign.from, to };
}

function price(at: PhraseReader): PriceText {
  const reference = ref(at);
  const sign = at.next;
  const way = at.oneOf(['+', '-']);
  if (!way || !sign) return { reference, offset: null, from: reference.from, to: reference.to };
  const far = distance(at);
  return { reference, offset: { ...far, up: way === '+', from: sign.from }, from: reference.from, to: far.to };
}

function ref(at: PhraseReader): Reference {
  const { next } = at;
  const name = at.oneOf(REFERENCES);
  if (name && next) return { kind: 'named', name, ...spanOf(next) };
  const number = at.number('a price');
  return { kind: 'number', text: number.text, ...spanOf(number) };
}

const UNITS: readonly (readonly [string, DistanceUnit])[] = [
  ['ticks', 'ticks'],
  ['tick', 'ticks'],
  ['%', 'percent'],
  ['spreads', 'spreads'],
  ['spread', 'spreads'],
];

function distance(at: PhraseReader): DistanceText {
  const number = at.number('a distance');
  for (const [word, unit] of UNITS) {
    const found = at.accept(word);
    if (found) return { value: number.text, unit, from: number.from, to: found.to };
  }
  return { value: number.text, unit: 'price', ...spanOf(number) };
}

function extra(at: PhraseReader): Extra {
  const from = at.next?.from ?? at.length;
  if (at.accept('until')) return { kind: 'until', end: until(at), from, to: endOf(at) };
  const plain = at.oneOf(PLAIN_EXTRAS);
  if (plain) return { kind: plain, from, to: endOf(at) };
  if (at.accept('with')) {
    if (at.accept('stop')) {
      const stop = price(at);
      return { kind: 'with stop', stop, target: at.accept('target') ? price(at) : null, from, to: endOf(at) };
    }
    const name = at.name('the name of an exit plan');
    return { kind: 'with plan', name: name.text, named: spanOf(name), from, to: endOf(at) };
  }
  if (at.accept('as')) return { kind: 'as', setup: at.name('the name of a setup').text, from, to: endOf(at) };
  if (at.accept('account')) {
    const name = at.name('an account');
    return { kind: 'account', name: name.text, named: spanOf(name), from, to: endOf(at) };
  }
  if (at.accept('on')) return { kind: 'on', source: at.oneOf(['last', 'bid', 'ask']) ?? at.fail(), from, to: endOf(at) };
  return at.fail();
}

function until(at: PhraseReader): (Extra & { kind: 'until' })['end'] {
  const word = at.oneOf(['day', 'cancelled']);
  if (word) return word;
  const date = at.accepted('date', 'a date like 2026-03-04') ?? at.fail();
  return { date: date.text, time: at.accepted('time', 'a time like 14:30')?.text ?? null };
}

const AT_ONCE = ['ioc', 'fok'];
const WAITING = ['held here', 'rest only'];
/** Of each of these an order takes one. */
const ONE_OF: readonly (readonly string[])[] = [['until', 'ioc', 'fok'], ['intraday', 'overnight'], ['with plan', 'with stop'], ['as'], ['account'], ['on']];

/** Refuses an extra that goes together neither with what is told nor with one before it. */
function excluded(at: PhraseReader, told: Act, before: readonly Extra[], next: Extra): void {
  const kinds = before.map(({ kind }) => kind as string);
  const clash =
    kinds.find((kind) => kind === next.kind || ONE_OF.some((group) => group.includes(kind) && group.includes(next.kind))) ??
    kinds.find((kind) => (AT_ONCE.includes(kind) && WAITING.includes(next.kind)) || (WAITING.includes(kind) && AT_ONCE.includes(next.kind)));
  if (clash !== undefined) at.failAt(next, clash === next.kind ? `“${next.kind}” is said twice` : `“${next.kind}” does not go with “${clash}”`);
  if (told.kind !== 'order') {
    if (next.kind !== 'account') at.failAt(next, `“${told.kind}” takes no extra but an account`, ['account']);
    return;
  }
  const { kind } = told.price;
  const none = (): never => at.failAt(next, `a ${orderWord(told.price)} order has no use for “${next.kind}”`);
  if (next.kind === 'on' && kind !== 'stop' && kind !== 'trail') none();
  if (next.kind === 'rest only' && kind !== 'limit') none();
  if (AT_ONCE.includes(next.kind) && kind !== 'market' && kind !== 'limit') none();
  if (next.kind === 'held here' && kind === 'market') none();
}

const orderWord = (price: Pricing): string =>
  price.kind === 'stop' ? (price.limit ? 'stop-limit' : 'stop') : price.kind === 'trail' ? 'trailing-stop' : price.kind;

const spanOf = ({ from, to }: Span | Token): Span => ({ from, to });
const endOf = (at: PhraseReader): number => at.peek(-1)?.to ?? at.length;

/** The canonical text: reading it again gives the same phrase. */
export function printOrder({ act: told, extras }: OrderPhrase): string {
  return [printAct(told), ...extras.map(printExtra)].join(', ');
}

function printAct(told: Act): string {
  const on = told.instrument ? ` ${told.instrument.text}` : '';
  switch (told.kind) {
    case 'order':
      return `${told.side} ${printAmount(told.amount)}${on}${printPricing(told.price)}`;
    case 'close':
      return `close${told.part === null ? '' : 'percent' in told.part ? ` ${told.part.percent} %` : ` ${told.part.quantity}`}${on}`;
    case 'reverse':
      return `reverse${on}`;
    case 'flatten':
      return `flatten${told.account ? ' account' : on}`;
    case 'cancel':
      return `cancel ${told.side === null ? 'orders' : `${told.side}s`}${told.account ? ' account' : on}`;
    case 'break-even':
      return `stop to break-even${told.plusTicks ? ` ${told.plusTicks.up ? '+' : '-'} ${told.plusTicks.ticks} ticks` : ''}${on}`;
    default:
      return told satisfies never;
  }
}

function printAmount(amount: Amount): string {
  switch (amount.kind) {
    case 'number':
      return amount.value;
    case 'position':
      return 'position';
    case 'share':
      return `${amount.percent} % of ${amount.of}`;
    case 'money':
      return `for ${amount.value}`;
    case 'risk':
      return `risking ${amount.value} to ${printPrice(amount.until)}`;
    default:
      return amount satisfies never;
  }
}

function printPricing(price: Pricing): string {
  switch (price.kind) {
    case 'market':
      return ' at market';
    case 'limit':
      return ` at ${printPrice(price.price)}`;
    case 'stop':
      return ` stop ${printPrice(price.price)}${price.limit ? ` limit ${printLimit(price.limit)}` : ''}`;
    case 'trail':
      return ` trail ${printDistance(price.distance)}`;
    default:
      return price satisfies never;
  }
}

const printLimit = (limit: LimitText): string => (limit.by === 'price' ? printPrice(limit.price) : `${limit.up ? '+' : '-'} ${limit.ticks} ticks`);

const UNIT_WORDS: Readonly<Record<DistanceUnit, string>> = { price: '', ticks: ' ticks', percent: ' %', spreads: ' spreads' };
const printDistance = ({ value, unit }: DistanceText): string => `${value}${UNIT_WORDS[unit]}`;

/** A reference with its offset, as it is printed. */
export const printPrice = ({ reference, offset }: PriceText): string =>
  `${reference.kind === 'number' ? reference.text : reference.name}${offset ? ` ${offset.up ? '+' : '-'} ${printDistance(offset)}` : ''}`;

function printExtra(extra: Extra): string {
  switch (extra.kind) {
    case 'until':
      return `until ${typeof extra.end === 'string' ? extra.end : `${extra.end.date}${extra.end.time === null ? '' : ` ${extra.end.time}`}`}`;
    case 'with plan':
      return `with ${extra.name === 'stop' ? '"stop"' : printName(extra.name)}`;
    case 'with stop':
      return `with stop ${printPrice(extra.stop)}${extra.target ? ` target ${printPrice(extra.target)}` : ''}`;
    case 'as':
      return `as ${printName(extra.setup)}`;
    case 'account':
      return `account ${printName(extra.name)}`;
    case 'on':
      return `on ${extra.source}`;
    default:
      return extra.kind;
  }
}

/** A price by itself: a basket's limit. */
export const parsePriceText = (text: string): Read<PriceText> => read(text, price);
