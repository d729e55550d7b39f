import { INTERVALS, type Interval } from '../market/index.ts';
import { STUDIES, type StudyDefinition } from '../study/index.ts';
import { BAR_FIELDS, FIELD_NAMES, FLAG_NAMES, fieldOf, type BarField, type FieldName, type FlagName } from './fields.ts';
import { looksLikeInstrument, type Span } from './tokens.ts';
import { caught, keptWithin, printName, PhraseReader, type Read } from './reader.ts';

/*
 * The grammar of condition phrases, a production a function:
 *
 *   condition = clause { "and" clause | "or" clause }        "and" binds closer
 *   clause    = "not" clause | "(" condition ")" | test | flag
 *   test      = value compare value | value event | value "between" value "and" value | value "within" distance "of" value
 *   event     = ( "rises above" | "falls below" | "crosses" ) value | "turns up" | "turns down"
 *             | "returns from" ( "above" | "below" ) value          each [ "within" number "bars" ]
 *   value     = term { ( "+" | "-" ) term } ; term = factor { ( "x" | "/" ) factor }
 *   factor    = number [ "%" | "tick" | "ticks" | "spread" | "spreads" ] | "-" factor | "(" value ")" | field | study | span
 *             | instrument ( field | study | span ) | word
 *   study     = name [ "(" number { "," number } ")" ] [ "." part ] [ at ]
 *   field     = word(s) [ at ] ; at = [ "on" interval ] [ number ( "bar" | "bars" ) "ago" ]
 *   span      = ( "highest" | "lowest" | "average" | "sum of" ) field "over" number "bars" [ at ] | "change over" number unit
 *   flag      = "halted" | "open now" | "held" | "has orders" | "optionable" | "watched in" name
 *
 * A bracket can hold a condition or a value: what is in it tells.
 */

export const COMPARES = ['<=', '>=', '<', '>', '=', 'is not', 'is'] as const;
export type Compare = (typeof COMPARES)[number];
export const SPANS = ['highest', 'lowest', 'average', 'sum of'] as const;
export type SpanName = (typeof SPANS)[number];
export const CHANGE_UNITS = ['days', 'weeks', 'months', 'minutes'] as const;
export type ChangeUnit = (typeof CHANGE_UNITS)[number];
export const EVENTS = ['rises above', 'falls below', 'crosses', 'returns from above', 'returns from below', 'turns up', 'turns down'] as const;
export type EventName = (typeof EVENTS)[number];

/** Which bar of which interval; null where the phrase says none. */
export interface At {
  readonly on: Interval | null;
  readonly ago: number | null;
}

export interface NamedInstrument extends Span {
  readonly text: string;
}

export type Value = Span &
  (
    | { readonly kind: 'number'; readonly text: string; readonly unit: null | 'percent' | 'ticks' | 'spreads' }
    | { readonly kind: 'word'; readonly text: string; readonly quoted: boolean }
    | { readonly kind: 'minus'; readonly of: Value }
    | { readonly kind: 'field'; readonly of: NamedInstrument | null; readonly name: FieldName | 'close'; readonly at: At }
    | {
        readonly kind: 'study';
        readonly of: NamedInstrument | null;
        readonly study: string;
        readonly parameters: readonly number[];
        readonly part: string | null;
        readonly at: At;
      }
    | { readonly kind: 'span'; readonly of: NamedInstrument | null; readonly span: SpanName; readonly field: BarField; readonly bars: number; readonly at: At }
    | { readonly kind: 'change over'; readonly of: NamedInstrument | null; readonly count: number; readonly unit: ChangeUnit }
    | { readonly kind: 'sum'; readonly operator: '+' | '-'; readonly left: Value; readonly right: Value }
    | { readonly kind: 'product'; readonly operator: 'x' | '/'; readonly left: Value; readonly right: Value }
  );

export type Condition = Span &
  (
    | { readonly kind: 'and' | 'or'; readonly left: Condition; readonly right: Condition }
    | { readonly kind: 'not'; readonly of: Condition }
    | { readonly kind: 'compare'; readonly compare: Compare; readonly left: Value; readonly right: Value }
    | { readonly kind: 'between'; readonly value: Value; readonly low: Value; readonly high: Value }
    | { readonly kind: 'near'; readonly value: Value; readonly distance: Value & { readonly kind: 'number' }; readonly of: Value }
    | { readonly kind: 'event'; readonly event: EventName; readonly value: Value; readonly other: Value | null; readonly within: number | null }
    | { readonly kind: 'flag'; readonly flag: FlagName }
    | { readonly kind: 'watched'; readonly list: string }
  );

/** The kinds of studies a condition can use: those with a line a bar. */
export const USABLE_STUDIES: readonly string[] = [...STUDIES.values()].filter(({ lines }) => lines.length > 0).map(({ kind }) => kind);

const MOST_BARS = 5000;
const DEEPEST = 260;

export function parseCondition(text: string): Read<Condition> {
  const found = caught(() => new ConditionParser(PhraseReader.of(text)).whole());
  return keptWithin(text, found, printCondition);
}

/** What could stand at the end of an unfinished phrase, the most used first. */
export function conditionExpected(text: string): readonly string[] {
  const parsed = parseCondition(text);
  return parsed.ok ? ['and', 'or'] : parsed.error.expected;
}

class ConditionParser {
  private depth = 0;
  constructor(private readonly at: PhraseReader) {}

  whole(): Condition {
    const { at } = this;
    const found = this.condition();
    if (!at.isAtEnd) {
      at.want('and', 'or');
      at.fail();
    }
    return found;
  }

  private condition(): Condition {
    const found = this.either(false);
    if (found.what === 'value') throw new Error('a value is no condition');
    return found.condition;
  }

  /** A condition, or where it is allowed a value alone, as it can stand in a bracket. */
  private either(alone: boolean): { what: 'condition'; condition: Condition } | { what: 'value'; value: Value } {
    const { at } = this;
    const first = this.conjunction(alone);
    if (first.what === 'value') return first;
    let left = first.condition;
    while (at.accept('or')) {
      const next = this.conjunction(false);
      if (next.what === 'value') throw new Error('a value is no condition');
      left = { kind: 'or', left, right: next.condition, from: left.from, to: next.condition.to };
    }
    return { what: 'condition', condition: left };
  }

  private conjunction(alone: boolean): ReturnType<ConditionParser['either']> {
    const { at } = this;
    const first = this.clause(alone);
    if (first.what === 'value') return first;
    let left = first.condition;
    while (at.accept('and')) {
      const next = this.clause(false);
      if (next.what === 'value') throw new Error('a value is no condition');
      left = { kind: 'and', left, right: next.condition, from: left.from, to: next.condition.to };
    }
    return { what: 'condition', condition: left };
  }

  private clause(alone: boolean): ReturnType<ConditionParser['either']> {
    const { at } = this;
    const from = this.from;
    const given = (condition: Condition): { what: 'condition'; condition: Condition } => ({ what: 'condition', condition });
    at.want('last', 'volume', 'change %', 'rsi(14)', 'close on 1d', 'a number', 'not', '(');
    if (at.accept('not')) {
      const of = this.deeper(() => this.clause(false));
      if (of.what === 'value') throw new Error('a value is no condition');
      return given({ kind: 'not', of: of.condition, from, to: of.condition.to });
    }
    for (const flag of FLAG_NAMES) if (at.accept(flag)) return given({ kind: 'flag', flag, from, to: this.to });
    if (at.accept('watched in')) return given({ kind: 'watched', list: at.name('the name of a watchlist').text, from, to: this.to });
    let value: Value;
    if (at.accept('(')) {
      const inner = this.deeper(() => this.either(true));
      at.expect(')');
      if (inner.what === 'condition') return given({ ...inner.condition, from, to: this.to });
      value = this.restOfValue({ ...inner.value, from, to: this.to });
    } else value = this.value();
    if (alone && at.is(')')) return { what: 'value', value };
    return given(this.test(value));
  }

  private test(value: Value): Condition {
    const { at } = this;
    const { from } = value;
    const compare = at.oneOf(COMPARES);
    if (compare) {
      const right = this.compared(value, compare);
      return { kind: 'compare', compare, left: value, right, from, to: right.to };
    }
    if (at.accept('between')) {
      const low = this.value();
      at.expect('and');
      const high = this.value();
      return { kind: 'between', value, low, high, from, to: high.to };
    }
    if (at.accept('within')) {
      const distance = this.number();
      at.expect('of');
      const of = this.value();
      return { kind: 'near', value, distance, of, from, to: of.to };
    }
    const event = at.oneOf(EVENTS) ?? at.fail();
    const other = event === 'turns up' || event === 'turns down' ? null : this.value();
    let within: number | null = null;
    if (at.matches('within') && at.peek(1)?.kind === 'number' && /^bars?$/i.test(at.peek(2)?.text ?? '')) {
      at.take();
      within = this.count('bars');
      at.take();
    } else at.want('within … bars');
    return { kind: 'event', event, value, other, within, from, to: this.to };
  }

  /** What a value is compared with: beside a word the next word is one, never an instrument. */
  private compared(left: Value, compare: Compare): Value {
    const { at } = this;
    const isWord = left.kind === 'field' && left.name !== 'close' && fieldOf(left.name).type === 'word';
    const { next } = at;
    if (isWord && (compare === 'is' || compare === 'is not' || compare === '=') && next && (next.kind === 'word' || next.kind === 'text')) {
      at.take();
      return { kind: 'word', text: next.text, quoted: next.kind === 'text', from: next.from, to: next.to };
    }
    if (isWord) at.want('a word');
    return this.value();
  }

  private value(): Value {
    return this.restOfValue(this.factor());
  }

  /** The rest of a value that begins with a factor. */
  private restOfValue(first: Value): Value {
    const { at } = this;
    let left = this.restOfTerm(first);
    for (let operator = at.oneOf(['+', '-']); operator; operator = at.oneOf(['+', '-'])) {
      const right = this.restOfTerm(this.factor());
      left = { kind: 'sum', operator, left, right, from: left.from, to: right.to };
    }
    return left;
  }

  private restOfTerm(first: Value): Value {
    const { at } = this;
    let left = first;
    for (let operator = at.oneOf(['x', '/']); operator; operator = at.oneOf(['x', '/'])) {
      const right = this.factor();
      left = { kind: 'product', operator, left, right, from: left.from, to: right.to };
    }
    return left;
  }

  private factor(): Value {
    const { at } = this;
    const { from } = this;
    const { next } = at;
    if (next?.kind === 'number') return this.number();
    at.want('a number', 'last', 'bid', 'ask', 'previous close', 'sma(20)', 'close on 1d', 'highest high over 20 bars', '(');
    if (at.accept('-')) {
      const of = this.deeper(() => this.factor());
      return { kind: 'minus', of, from, to: of.to };
    }
    if (at.accept('(')) {
      const of = this.deeper(() => this.value());
      at.expect(')');
      return { ...of, from, to: this.to };
    }
    const found = this.quantity(null, from);
    if (found) return found;
    if (next && looksLikeInstrument(next)) {
      const of = { text: at.take().text, from: next.from, to: next.to };
      return this.quantity(of, from) ?? at.fail();
    }
    if (next?.kind === 'text') {
      at.take();
      return { kind: 'word', text: next.text, quoted: true, from, to: this.to };
    }
    return at.fail();
  }

  private number(): Value & { kind: 'number' } {
    const { at } = this;
    const { from } = this;
    const { text } = at.number();
    const unit = at.accept('%')
      ? 'percent'
      : at.accept('ticks') || at.accept('tick')
        ? 'ticks'
        : at.accept('spreads') || at.accept('spread')
          ? 'spreads'
          : null;
    return { kind: 'number', text, unit, from, to: this.to };
  }

  /** A field, study or span, of an instrument where one is named before it. */
  private quantity(of: NamedInstrument | null, from: number): Value | null {
    const { at } = this;
    if (at.accept('change over')) {
      const count = this.count('a number');
      const unit = at.oneOf(CHANGE_UNITS) ?? this.singular() ?? at.fail();
      return { kind: 'change over', of, count, unit, from, to: this.to };
    }
    const span = at.oneOf(SPANS);
    if (span) {
      const field = at.oneOf(BAR_FIELDS) ?? at.fail();
      at.expect('over');
      const bars = this.count('a number of bars');
      if (!at.accept('bars')) at.expect('bar');
      return { kind: 'span', of, span, field, bars, at: this.which(), from, to: this.to };
    }
    const study = this.study(of, from);
    if (study) return study;
    const name = this.fieldName();
    if (name) return { kind: 'field', of, name, at: this.which(), from, to: this.to };
    return null;
  }

  private singular(): ChangeUnit | null {
    for (const unit of CHANGE_UNITS) if (this.at.matches(unit.slice(0, -1))) return (this.at.take(), unit);
    return null;
  }

  private fieldName(): FieldName | 'close' | null {
    const { at } = this;
    if (at.matches('close')) return (at.take(), 'close');
    const name = at.oneOf(FIELD_NAMES);
    if (!name) at.want('close on 1d');
    return name;
  }

  private study(of: NamedInstrument | null, from: number): Value | null {
    const { at } = this;
    const word = at.next?.kind === 'word' ? at.next.text.toLowerCase() : '';
    const found = USABLE_STUDIES.includes(word) ? (STUDIES.get(word) as StudyDefinition) : null;
    // The day's VWAP and the study share a name: parameters, a part or an interval tell them apart.
    if (found && word === 'vwap' && !at.matches('(', 1) && !at.matches('.', 1) && !at.matches('on', 1)) return null;
    if (!found) {
      at.want('a study such as sma(20)');
      return null;
    }
    at.take();
    const parameters: number[] = [];
    if (at.accept('(')) {
      do {
        const given = at.next;
        const parameter = found.parameters[parameters.length];
        if (!parameter && given) at.failAt(given, `${word} takes ${countOf(found.parameters.length)}`, [')']);
        parameters.push(this.parameter(parameter as NonNullable<typeof parameter>));
      } while (at.accept(','));
      at.expect(')');
    }
    let part: string | null = null;
    if (at.accept('.')) {
      part =
        at.oneOf(found.lines.map(({ name }) => name.toLowerCase())) ??
        at.fail(`${word} has no such part; it has ${found.lines.map(({ name }) => name).join(', ')}`);
    }
    return { kind: 'study', of, study: word, parameters, part, at: this.which(), from, to: this.to };
  }

  private parameter(of: StudyDefinition['parameters'][number]): number {
    const { at } = this;
    const token = at.number();
    const value = Number(token.text);
    if (value < of.least || value > of.most || (of.whole && !Number.isInteger(value)))
      at.failAt(token, `${of.words} is ${of.whole ? 'a whole number' : 'a number'} from ${of.least} to ${of.most}`, [String(of.fallback)]);
    return value;
  }

  private which(): At {
    const { at } = this;
    let on: Interval | null = null;
    if (at.accept('on')) on = at.oneOf(INTERVALS) ?? at.fail();
    let ago: number | null = null;
    const bar = at.peek(1);
    if (at.next?.kind === 'number' && bar?.kind === 'word' && /^bars?$/i.test(bar.text) && at.matches('ago', 2)) {
      ago = this.count('a number of bars', 0);
      at.take();
      at.take();
    }
    return { on, ago };
  }

  private count(what: string, least = 1): number {
    const { at } = this;
    const token = at.number(what);
    const value = Number(token.text);
    if (!Number.isInteger(value) || value < least || value > MOST_BARS) at.failAt(token, `a whole number from ${least} to ${MOST_BARS} is needed`);
    return value;
  }

  private deeper<T>(work: () => T): T {
    if (++this.depth > DEEPEST) this.at.fail('too many brackets');
    const done = work();
    this.depth--;
    return done;
  }

  private get from(): number {
    return this.at.next?.from ?? this.at.length;
  }

  private get to(): number {
    return this.at.peek(-1)?.to ?? this.at.length;
  }
}

const countOf = (parameters: number): string => (parameters === 0 ? 'no parameter' : parameters === 1 ? 'one parameter' : `${parameters} parameters`);

/** The canonical text: reading it again gives the same condition. */
export function printCondition(condition: Condition): string {
  switch (condition.kind) {
    case 'and':
      return `${bracketed(condition.left, ['or'])} and ${bracketed(condition.right, ['or', 'and'])}`;
    case 'or':
      return `${printCondition(condition.left)} or ${bracketed(condition.right, ['or'])}`;
    case 'not':
      return `not ${bracketed(condition.of, ['and', 'or'])}`;
    case 'compare':
      return `${printValue(condition.left)} ${condition.compare} ${printValue(condition.right)}`;
    case 'between':
      return `${printValue(condition.value)} between ${printValue(condition.low)} and ${printValue(condition.high)}`;
    case 'near':
      return `${printValue(condition.value)} within ${printValue(condition.distance)} of ${printValue(condition.of)}`;
    case 'event':
      return `${printValue(condition.value)} ${condition.event}${condition.other ? ` ${printValue(condition.other)}` : ''}${condition.within === null ? '' : ` within ${condition.within} bars`}`;
    case 'flag':
      return condition.flag;
    case 'watched':
      return `watched in ${printName(condition.list)}`;
    default:
      return condition satisfies never;
  }
}

const bracketed = (condition: Condition, kinds: readonly string[]): string =>
  kinds.includes(condition.kind) ? `(${printCondition(condition)})` : printCondition(condition);

const UNITS = { percent: ' %', ticks: ' ticks', spreads: ' spreads' } as const;

export function printValue(value: Value): string {
  switch (value.kind) {
    case 'number':
      return `${value.text}${value.unit === null ? '' : UNITS[value.unit]}`;
    case 'word':
      return value.quoted ? `"${value.text}"` : value.text;
    case 'minus':
      return `- ${inBrackets(value.of, ['sum', 'product'])}`;
    case 'field':
      return `${ofWords(value.of)}${value.name}${atWords(value.at)}`;
    case 'study':
      return `${ofWords(value.of)}${value.study}${value.parameters.length > 0 ? `(${value.parameters.join(', ')})` : ''}${value.part === null ? '' : `.${value.part}`}${atWords(value.at)}`;
    case 'span':
      return `${ofWords(value.of)}${value.span} ${value.field} over ${value.bars} bars${atWords(value.at)}`;
    case 'change over':
      return `${ofWords(value.of)}change over ${value.count} ${value.unit}`;
    case 'sum':
      return `${printValue(value.left)} ${value.operator} ${inBrackets(value.right, ['sum'])}`;
    case 'product':
      return `${inBrackets(value.left, ['sum'])} ${value.operator} ${inBrackets(value.right, ['sum', 'product'])}`;
    default:
      return value satisfies never;
  }
}

const inBrackets = (value: Value, kinds: readonly string[]): string => (kinds.includes(value.kind) ? `(${printValue(value)})` : printValue(value));
const ofWords = (of: NamedInstrument | null): string => (of ? `${of.text} ` : '');
const atWords = ({ on, ago }: At): string => `${on === null ? '' : ` on ${on}`}${ago === null ? '' : ` ${ago} bars ago`}`;
