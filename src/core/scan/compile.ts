import { decimalText } from '../number/index.ts';
import { VENUES, asPrice, tickAt, type Instrument } from '../instrument/index.ts';
import { barStart, localDay, barEnd, previousTradingDay, isTradingDay, type Day, type Interval } from '../market/index.ts';
import { STUDIES, type StudyDefinition } from '../study/index.ts';
import {
  LONGEST_PHRASE,
  caught,
  listingMeant,
  PhraseFault,
  printCondition,
  type Compare,
  type Condition,
  type EventName,
  type Read,
  type Value,
} from '../language/index.ts';
import { QUOTE_COLUMNS, SETTLED_STRIDE, type MarketColumns, type OwnThings, type QuoteColumn } from './columns.ts';
import { checkTypes, intervalOf, leavesOf, namedInterval, studyLine } from './types.ts';

/** Kleene's three values in an order in which *and* is the least and *or* the greatest of them. */
export const FALSE = 0;
export const UNKNOWN = 1;
export const TRUE = 2;
export type Truth = typeof FALSE | typeof UNKNOWN | typeof TRUE;

const truth = (of: boolean): Truth => (of ? TRUE : FALSE);

/** What an event without bars remembers from one evaluation to the next, by its place among the instruments and in the phrase. */
export type EventMemory = Map<number, { readonly side: number; readonly value: number; readonly trend: number }>;

/** What is looked at: a universe, a trader's own things, and what was remembered. */
export interface Scope {
  readonly columns: MarketColumns;
  readonly own: OwnThings;
  /** Null where a phrase is read alone: its events without bars are then unknown. */
  readonly memory: EventMemory | null;
  /** Comparisons hold this share of what they are held against too early; left out: exactly where they say. */
  readonly slack?: number;
}

/** As of which closed bar a value is looked at; null for now. */
interface Cursor {
  readonly interval: Interval;
  readonly index: number;
  /** When that bar began. */
  readonly start: number;
}

/** A value of an instrument: exact ones as whole numbers of 10⁻⁵, all others as they are; NaN is unknown. */
interface Node {
  readonly exact: boolean;
  get(scope: Scope, i: number, cursor: Cursor | null): number;
}
type WordNode = (scope: Scope, i: number) => string | null;
type Test = (scope: Scope, i: number) => Truth;

const EXACT = 1e5;
const exactly = (value: number): number => Math.round(value * EXACT);
const plain = (node: Node, scope: Scope, i: number, cursor: Cursor | null): number => {
  const value = node.get(scope, i, cursor);
  return node.exact ? value / EXACT : value;
};

/** A value in a phrase, and what it is of an instrument: decimal text, a word, or null where it is unknown. */
export interface Part {
  readonly from: number;
  readonly to: number;
  /** Why it is unknown where it is. */
  readonly because: string;
  value(scope: Scope, i: number): string | null;
}

/** How many bars of an interval a phrase looks back at. */
export type BarNeeds = ReadonlyMap<Interval, number>;

/** A condition ready to be evaluated over any universe. */
export interface CompiledCondition {
  readonly canonical: string;
  readonly condition: Condition;
  /** The first value of an instrument, then all that it reads. */
  readonly parts: readonly Part[];
  readonly bars: BarNeeds;
  /** Instruments that are named in it. */
  readonly instruments: readonly string[];
  readonly lists: readonly string[];
  /** Looks at what the trader holds or has working. */
  readonly looksAtOwn: boolean;
  /** Whether it follows from the market and the minute alone: not from what the trader has, nor from the evaluation before. */
  readonly followsMarket: boolean;
  /** The first event that is judged from one evaluation to the next. */
  readonly passing: { readonly from: number; readonly to: number } | null;
  /** The finest interval in it; null where it has no bars. */
  readonly interval: Interval | null;
  /** Events on closed bars: it can change by itself at the ends of their intervals, for so many of them. */
  readonly events: readonly { readonly interval: Interval; readonly bars: number }[];
  readonly evaluate: (scope: Scope, i: number) => Truth;
}

export interface ConditionScene {
  instrumentOf(id: string): Instrument | undefined;
  listingsOf(ticker: string): readonly Instrument[];
  /** Whether a listing is one of those a ticker alone can mean. */
  fits(instrument: Instrument): boolean;
}

/** Makes a condition ready; what does not fit in type, or names what is not known, is the error. */
export function compileCondition(condition: Condition, scene: ConditionScene): Read<CompiledCondition> {
  return caught(() => new Compiler(scene).compile(condition));
}

/** Bars a study needs before its values are what they will stay, for what is averaged over all bars before. */
const WARM_UP = 300;
const MOST_BARS = 5000;

class Compiler {
  private readonly bars = new Map<Interval, number>();
  private readonly instruments = new Set<string>();
  private readonly lists = new Set<string>();
  private looksAtOwn = false;
  private passing: CompiledCondition['passing'] = null;
  private readonly events: { interval: Interval; bars: number }[] = [];

  constructor(private readonly scene: ConditionScene) {}

  compile(condition: Condition): CompiledCondition {
    checkTypes(condition);
    const evaluate = this.test(condition);
    const parts = this.parts(condition);
    return {
      canonical: printCondition(condition),
      condition,
      parts,
      bars: this.bars,
      instruments: [...this.instruments],
      lists: [...this.lists],
      looksAtOwn: this.looksAtOwn,
      followsMarket: !this.looksAtOwn && this.passing === null,
      passing: this.passing,
      interval: finest([...this.bars.keys()]),
      events: this.events,
      evaluate,
    };
  }

  private test(condition: Condition): Test {
    switch (condition.kind) {
      case 'and': {
        const [left, right] = [this.test(condition.left), this.test(condition.right)];
        return (scope, i) => Math.min(left(scope, i), right(scope, i)) as Truth;
      }
      case 'or': {
        const [left, right] = [this.test(condition.left), this.test(condition.right)];
        return (scope, i) => Math.max(left(scope, i), right(scope, i)) as Truth;
      }
      case 'not': {
        const of = this.test(condition.of);
        // What is denied must fail by more, for the whole to hold by less.
        return (scope, i) => (TRUE - of(scope.slack ? { ...scope, slack: -scope.slack } : scope, i)) as Truth;
      }
      case 'flag':
        return this.flag(condition.flag);
      case 'watched': {
        this.looksAtOwn = true;
        this.lists.add(condition.list);
        const { list } = condition;
        return ({ own, columns }, i) => truth(own.lists.get(list)?.has(columns.instruments[i]?.id ?? '') ?? false);
      }
      case 'compare':
        return this.compare(condition);
      case 'between': {
        const clause = this.clause(condition);
        const [value, low, high] = [this.value(condition.value, clause), this.value(condition.low, clause), this.value(condition.high, clause)];
        const [above, below] = [compared('>=', value, low), compared('<=', value, high)];
        return (scope, i) => Math.min(above(scope, i), below(scope, i)) as Truth;
      }
      case 'near':
        return this.near(condition);
      case 'event':
        return this.event(condition);
      default:
        return condition satisfies never;
    }
  }

  private flag(flag: (Condition & { kind: 'flag' })['flag']): Test {
    switch (flag) {
      case 'halted':
        return ({ columns }, i) => truth(columns.table.state(i) === 'halted');
      case 'open now':
        return ({ columns }, i) => truth(columns.table.state(i) === 'open');
      case 'held':
        this.looksAtOwn = true;
        return ({ columns, own }, i) => truth(own.held.has(columns.instruments[i]?.id ?? ''));
      case 'has orders':
        this.looksAtOwn = true;
        return ({ columns, own }, i) => truth(own.withOrders.has(columns.instruments[i]?.id ?? ''));
      case 'optionable':
        return ({ columns }, i) => truth(columns.optionable.has(columns.instruments[i]?.id ?? ''));
      default:
        return flag satisfies never;
    }
  }

  private compare(condition: Condition & { kind: 'compare' }): Test {
    const { compare } = condition;
    const clause = this.clause(condition);
    const left = this.word(condition.left);
    if (left) {
      const right = this.word(condition.right) as WordNode;
      const wanted = compare !== 'is not';
      return (scope, i) => {
        const [a, b] = [left(scope, i), right(scope, i)];
        return a === null || b === null ? UNKNOWN : truth((a.toLowerCase() === b.toLowerCase()) === wanted);
      };
    }
    return compared(compare, this.value(condition.left, clause), this.value(condition.right, clause));
  }

  private near(condition: Condition & { kind: 'near' }): Test {
    const clause = this.clause(condition);
    const [value, of] = [this.value(condition.value, clause), this.value(condition.of, clause)];
    const { distance } = condition;
    const exact = value.exact && of.exact;
    const far = distance.unit === 'percent' ? null : this.value(distance, clause);
    const share = Number(distance.text) / 100;
    return (scope, i) => {
      const [a, b] = exact ? [value.get(scope, i, null), of.get(scope, i, null)] : [plain(value, scope, i, null), plain(of, scope, i, null)];
      const apart = Math.abs(a - b);
      if (far === null) return within(apart, Math.abs(b) * share);
      return exact && far.exact ? within(apart, far.get(scope, i, null)) : within(exact ? apart / EXACT : apart, plain(far, scope, i, null));
    };
  }

  private event(condition: Condition & { kind: 'event' }): Test {
    const { event } = condition;
    const clause = this.clause(condition);
    const intervals = leavesOf(condition).flatMap((leaf) => intervalOf(leaf, clause) ?? []);
    const value = this.value(condition.value, clause);
    const other = condition.other ? this.value(condition.other, clause) : ZERO;
    const interval = finest(intervals);
    if (interval === null) {
      this.passing ??= { from: condition.from, to: condition.to };
      return passingEvent(event, value, other, condition.from);
    }
    const bars = condition.within ?? 1;
    this.need(interval, bars + 3);
    this.events.push({ interval, bars });
    const of = leavesOf(condition).find((leaf) => intervalOf(leaf, clause) === interval);
    const subject = of && (of.kind === 'field' || of.kind === 'study' || of.kind === 'span') && of.of ? this.named(of.of) : null;
    return barEvent(event, value, other, interval, bars, subject);
  }

  /** The one interval that a clause names, for what in it names none. */
  private clause(condition: Condition): Interval | null {
    return namedInterval(leavesOf(condition));
  }

  private named(of: { readonly text: string; readonly from: number; readonly to: number }): string {
    const { id } = listingMeant(of, this.scene, (one) => this.scene.fits(one));
    this.instruments.add(id);
    return id;
  }

  private need(interval: Interval, bars: number): void {
    this.bars.set(interval, Math.min(MOST_BARS, Math.max(this.bars.get(interval) ?? 0, bars)));
  }

  /** A value that is a word; null where it is a number. */
  private word(value: Value): WordNode | null {
    if (value.kind === 'word') return () => value.text;
    if (value.kind !== 'field') return null;
    const { name } = value;
    if (name !== 'kind' && name !== 'venue' && name !== 'sector' && name !== 'ticker' && name !== 'name') return null;
    const place = this.place(value.of);
    return (scope, i) => scope.columns.instruments[place(scope, i)]?.[name] ?? null;
  }

  /** The place of the instrument that a value is of: another's where one is named, −1 where that is not in the universe. */
  private place(of: { readonly text: string; readonly from: number; readonly to: number } | null): (scope: Scope, i: number) => number {
    if (!of) return (_, i) => i;
    const id = this.named(of);
    return ({ columns }) => columns.place.get(id) ?? -1;
  }

  private value(value: Value, clause: Interval | null): Node {
    switch (value.kind) {
      case 'number':
        return this.number(value);
      case 'word':
        throw new PhraseFault({ message: `“${value.text}” is a word, and a number is needed`, from: value.from, to: value.to, expected: ['a number'] });
      case 'minus': {
        const of = this.value(value.of, clause);
        return { exact: of.exact, get: (scope, i, cursor) => -of.get(scope, i, cursor) };
      }
      case 'sum': {
        const [left, right] = [this.value(value.left, clause), this.value(value.right, clause)];
        const sign = value.operator === '+' ? 1 : -1;
        if (left.exact && right.exact) return { exact: true, get: (scope, i, cursor) => left.get(scope, i, cursor) + sign * right.get(scope, i, cursor) };
        return { exact: false, get: (scope, i, cursor) => plain(left, scope, i, cursor) + sign * plain(right, scope, i, cursor) };
      }
      case 'product': {
        const [left, right] = [this.value(value.left, clause), this.value(value.right, clause)];
        const share = percentShare(value.left, value.right) ? 0.01 : 1;
        if (value.operator === 'x') return { exact: false, get: (scope, i, cursor) => plain(left, scope, i, cursor) * plain(right, scope, i, cursor) * share };
        return { exact: false, get: (scope, i, cursor) => plain(left, scope, i, cursor) / plain(right, scope, i, cursor) };
      }
      case 'field':
        return this.field(value, clause);
      case 'study':
        return this.study(value, clause);
      case 'span':
        return this.span(value, clause);
      case 'change over':
        return this.changeOver(value);
      default:
        return value satisfies never;
    }
  }

  private number(value: Value & { kind: 'number' }): Node {
    const given = Number(value.text);
    switch (value.unit) {
      case 'percent':
        return { exact: false, get: () => given };
      case 'ticks':
        return { exact: true, get: ({ columns }, i) => exactly(given * tickOf(columns, i)) };
      case 'spreads':
        return { exact: true, get: ({ columns }, i) => exactly(given * (CELLS.ask(columns, i) - CELLS.bid(columns, i))) };
      case null: {
        const decimals = value.text.split('.')[1]?.length ?? 0;
        // Finer than what is exact: as near as a double comes to it, between the whole numbers that it lies between.
        const scaled = decimals <= 5 ? exactly(given) : Number(shifted(value.text, 5));
        return { exact: true, get: () => scaled };
      }
      default:
        return value.unit satisfies never;
    }
  }

  private field(value: Value & { kind: 'field' }, clause: Interval | null): Node {
    const interval = intervalOf(value, clause);
    const place = this.place(value.of);
    if (interval !== null) {
      const ago = value.at.ago ?? 0;
      this.need(interval, ago + 2);
      const column = value.name as 'open' | 'high' | 'low' | 'close' | 'volume';
      return {
        exact: true,
        get: (scope, i, cursor) => {
          const series = scope.columns.bars(place(scope, i), interval);
          if (!series) return NaN;
          const at = indexIn(series, interval, cursor) - ago;
          return at < 0 ? NaN : exactly(series[column][at] as number);
        },
      };
    }
    const found = quoteField(value.name);
    // On a bar the last trade is the bar's own.
    if (value.name === 'last') {
      return {
        exact: true,
        get: (scope, i, cursor) => {
          const at = place(scope, i);
          if (!cursor) return exactly(CELLS.last(scope.columns, at));
          const series = scope.columns.bars(at, cursor.interval);
          return series ? exactly(series.close[indexIn(series, cursor.interval, cursor)] ?? NaN) : NaN;
        },
      };
    }
    const { exact, get } = found;
    return { exact, get: (scope, i) => (exact ? exactly(get(scope.columns, place(scope, i))) : get(scope.columns, place(scope, i))) };
  }

  private study(value: Value & { kind: 'study' }, clause: Interval | null): Node {
    const definition = STUDIES.get(value.study) as StudyDefinition;
    const interval = intervalOf(value, clause) as Interval;
    const ago = value.at.ago ?? 0;
    const parameters = Object.fromEntries(definition.parameters.map(({ name, fallback }, k) => [name, value.parameters[k] ?? fallback]));
    const line = studyLine(definition, value.part);
    const asked = { key: `${value.study} ${JSON.stringify(parameters)}`, definition, parameters, line };
    const longest = Math.max(0, ...Object.values(parameters));
    this.need(interval, ago + 2 + (definition.window?.(parameters) ?? Math.max(WARM_UP, longest * 3)));
    const place = this.place(value.of);
    return {
      exact: false,
      get: (scope, i, cursor) => {
        const series = scope.columns.bars(place(scope, i), interval);
        if (!series) return NaN;
        const at = indexIn(series, interval, cursor) - ago;
        return at < 0 ? NaN : (series.study(asked)[at] as number);
      },
    };
  }

  private span(value: Value & { kind: 'span' }, clause: Interval | null): Node {
    const interval = intervalOf(value, clause) as Interval;
    const { bars, field, span } = value;
    const ago = value.at.ago ?? 0;
    this.need(interval, bars + ago + 2);
    const place = this.place(value.of);
    return {
      exact: span !== 'average',
      get: (scope, i, cursor) => {
        const series = scope.columns.bars(place(scope, i), interval);
        if (!series) return NaN;
        const last = indexIn(series, interval, cursor) - ago;
        const first = last - bars + 1;
        if (first < 0) return NaN;
        const column = series[field];
        let found = exactly(column[first] as number);
        for (let k = first + 1; k <= last; k++) {
          const next = exactly(column[k] as number);
          if (span === 'highest') found = Math.max(found, next);
          else if (span === 'lowest') found = Math.min(found, next);
          else found += next;
        }
        return span === 'average' ? found / EXACT / bars : found;
      },
    };
  }

  private changeOver(value: Value & { kind: 'change over' }): Node {
    const { count, unit } = value;
    const place = this.place(value.of);
    if (unit === 'minutes') {
      this.need('1m', count + 3);
      return {
        exact: false,
        get: ({ columns, ...rest }, i) => {
          const at = place({ columns, ...rest }, i);
          const series = columns.bars(at, '1m');
          const index = series?.closedBy(columns.now - count * 60_000) ?? -1;
          return index < 0 ? NaN : percentOf(CELLS.last(columns, at), series?.close[index] as number);
        },
      };
    }
    return {
      exact: false,
      get: (scope, i) => {
        const at = place(scope, i);
        return at < 0 ? NaN : percentOf(CELLS.last(scope.columns, at), settledBack(scope.columns, at, count, unit));
      },
    };
  }

  private parts(condition: Condition): Part[] {
    switch (condition.kind) {
      case 'and':
      case 'or':
        return [...this.parts(condition.left), ...this.parts(condition.right)];
      case 'not':
        return this.parts(condition.of);
      default: {
        const clause = this.clause(condition);
        return leavesOf(condition).map((leaf) => this.part(leaf, clause));
      }
    }
  }

  private part(leaf: Value, clause: Interval | null): Part {
    const { from, to } = leaf;
    const word = this.word(leaf);
    if (word) return { from, to, because: 'not told of it', value: word };
    const node = this.value(leaf, clause);
    return {
      from,
      to,
      because: reasonOf(leaf),
      value: (scope, i) => {
        const value = plain(node, scope, i, null);
        return Number.isFinite(value) ? decimalText(value) : null;
      },
    };
  }
}

/** In whose order of length the finest comes first. */
const LENGTHS: readonly Interval[] = ['1m', '2m', '3m', '5m', '15m', '30m', '1h', '4h', '1d', '1w'];
const finest = (intervals: readonly Interval[]): Interval | null => LENGTHS.find((one) => intervals.includes(one)) ?? null;

const ZERO: Node = { exact: true, get: () => 0 };

const percentShare = (left: Value, right: Value): boolean => [left, right].some((one) => one.kind === 'number' && one.unit === 'percent');

const shifted = (text: string, places: number): string => {
  const [whole = '0', fraction = ''] = text.split('.');
  return `${whole}${fraction.slice(0, places).padEnd(places, '0')}.${fraction.slice(places)}`;
};

type Cell = (columns: MarketColumns, i: number) => number;
/** What a column has of an instrument, by the column's name: where it lies among them is found once. */
const CELLS = Object.fromEntries(
  QUOTE_COLUMNS.map((name, at): [string, Cell] => [name, (columns, i) => (i < 0 ? NaN : ((columns.table.numbers[at] as Float64Array)[i] as number))]),
) as Record<QuoteColumn, Cell>;

const percentOf = (now: number, then: number): number => ((now - then) / then) * 100;

/** The fields of a quote: prices, quantities and their differences exact, what is divided as it comes. */
function quoteField(name: string): { exact: boolean; get: (columns: MarketColumns, i: number) => number } {
  const exact = (get: (columns: MarketColumns, i: number) => number): { exact: boolean; get: typeof get } => ({ exact: true, get });
  const inexact = (get: (columns: MarketColumns, i: number) => number): { exact: boolean; get: typeof get } => ({ exact: false, get });
  const mid = (columns: MarketColumns, i: number): number => (exactly(CELLS.bid(columns, i)) + exactly(CELLS.ask(columns, i))) / 2 / EXACT;
  const less = (a: QuoteColumn, b: QuoteColumn) => (columns: MarketColumns, i: number) =>
    (exactly(CELLS[a](columns, i)) - exactly(CELLS[b](columns, i))) / EXACT;
  switch (name) {
    case 'last':
    case 'bid':
    case 'ask':
    case 'open':
    case 'high':
    case 'low':
    case 'volume':
      return exact(CELLS[name]);
    case 'mid':
      return exact(mid);
    case 'spread':
      return exact(less('ask', 'bid'));
    case 'mark':
      return exact((columns, i) => {
        const last = CELLS.lastToday(columns, i);
        if (!Number.isNaN(last)) return last;
        const middle = mid(columns, i);
        return Number.isNaN(middle) ? CELLS.previousClose(columns, i) : middle;
      });
    case 'vwap':
      return inexact((columns, i) => CELLS.turnover(columns, i) / (CELLS.dayVolume(columns, i) * multiplierOf(columns, i)));
    case 'turnover':
      return inexact(CELLS.turnover);
    case 'range':
      return exact(less('high', 'low'));
    case 'change':
      return exact(less('lastToday', 'previousClose'));
    case 'change %':
      return inexact((columns, i) => percentOf(CELLS.lastToday(columns, i), CELLS.previousClose(columns, i)));
    case 'gap %':
      return inexact((columns, i) => percentOf(CELLS.open(columns, i), CELLS.previousClose(columns, i)));
    case 'previous high':
      return exact(CELLS.previousHigh);
    case 'previous low':
      return exact(CELLS.previousLow);
    case 'previous close':
      return exact(CELLS.previousClose);
    case 'usual volume':
      return inexact(CELLS.usualVolume);
    case 'relative volume':
      return inexact((columns, i) => CELLS.volume(columns, i) / CELLS.usualVolume(columns, i));
    case 'shares outstanding':
      return exact(CELLS.sharesOutstanding);
    case 'market value':
      return inexact((columns, i) => CELLS.sharesOutstanding(columns, i) * CELLS.last(columns, i));
    case 'earnings per share':
      return exact(CELLS.earningsPerShare);
    case 'price to earnings':
      return inexact((columns, i) => CELLS.last(columns, i) / CELLS.earningsPerShare(columns, i));
    case 'dividend per share':
      return exact(CELLS.dividendPerShare);
    case 'dividend yield':
      return inexact((columns, i) => (CELLS.dividendPerShare(columns, i) / CELLS.last(columns, i)) * 100);
    default:
      throw new Error(`no quote has ${name}`);
  }
}

const multiplierOf = (columns: MarketColumns, i: number): number => columns.instruments[i]?.multiplier ?? 1;

/** Why a value is unknown where it is. */
function reasonOf(leaf: Value): string {
  switch (leaf.kind) {
    case 'study':
    case 'span':
    case 'change over':
      return 'too little history';
    case 'field':
      if (leaf.at.on !== null || leaf.at.ago !== null || leaf.name === 'close') return 'too little history';
      if (leaf.name === 'bid' || leaf.name === 'ask' || leaf.name === 'mid' || leaf.name === 'spread') return 'one side of the book is empty or not followed';
      if (/previous|usual|relative|gap|change/.test(leaf.name)) return 'nothing known of the days before';
      return /per share|earnings|dividend|outstanding|market value/.test(leaf.name) ? 'no fundamentals' : 'no trade yet';
    default:
      return 'no trade yet';
  }
}

/** The tick of the band in which an instrument's price lies now, in whole currency. */
function tickOf(columns: MarketColumns, i: number): number {
  const instrument = columns.instruments[i];
  if (!instrument) return NaN;
  const near = ['last', 'bid', 'ask', 'previousClose'] as const;
  const price = near.map((name) => CELLS[name](columns, i)).find((one) => !Number.isNaN(one));
  if (price === undefined) return NaN;
  const unit = 10 ** instrument.priceDecimals;
  return tickAt(instrument, asPrice(Math.round(price * unit))) / unit;
}

/** The settlement that a change over days, weeks or months is against; NaN where history does not go back so far. */
function settledBack(columns: MarketColumns, i: number, count: number, unit: 'days' | 'weeks' | 'months'): number {
  const venue = columns.venue(i);
  let day = columns.today(i);
  if (unit === 'days') for (let k = 0; k < count; k++) day = previousTradingDay(venue, day);
  else {
    const date = localDay(VENUES[venue].zone, columns.now);
    day = unit === 'weeks' ? date - 7 * count : monthsBack(date, count);
    while (!isTradingDay(VENUES[venue], day)) day--;
  }
  const settled = columns.settlements[i] as Float64Array;
  let low = 0;
  let high = settled.length / SETTLED_STRIDE;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((settled[middle * SETTLED_STRIDE] as number) <= day) low = middle + 1;
    else high = middle;
  }
  return low === 0 ? NaN : (settled[(low - 1) * SETTLED_STRIDE + 1] as number);
}

function monthsBack(day: Day, months: number): Day {
  const date = new Date(day * 86_400_000);
  const first = Date.UTC(date.getUTCFullYear(), date.getUTCMonth() - months, 1);
  const length = new Date(Date.UTC(new Date(first).getUTCFullYear(), new Date(first).getUTCMonth() + 1, 0)).getUTCDate();
  return first / 86_400_000 + Math.min(date.getUTCDate(), length) - 1;
}

type Series = NonNullable<ReturnType<MarketColumns['bars']>>;

/** Which bar is the present one: the newest, or as of a closed bar the one that was closed with it. */
function indexIn(series: Series, interval: Interval, cursor: Cursor | null): number {
  if (!cursor) return series.length - 1;
  if (interval === cursor.interval) {
    const own = series.time[cursor.index] === cursor.start ? cursor.index : series.indexAt(cursor.start + 1) - 1;
    return own;
  }
  return series.closedBy(barEnd(series.venue, cursor.interval, cursor.start));
}

function compared(compare: Compare, left: Node, right: Node): Test {
  const exact = left.exact && right.exact;
  return (scope, i) => {
    const a = exact ? left.get(scope, i, null) : plain(left, scope, i, null);
    const b = exact ? right.get(scope, i, null) : plain(right, scope, i, null);
    if (Number.isNaN(a) || Number.isNaN(b)) return UNKNOWN;
    const slack = scope.slack ? scope.slack * Math.abs(b) : 0;
    switch (compare) {
      case '<':
        return truth(a < b + slack);
      case '<=':
        return truth(a <= b + slack);
      case '>':
        return truth(a > b - slack);
      case '>=':
        return truth(a >= b - slack);
      case '=':
      case 'is':
        return truth(a === b);
      case 'is not':
        return truth(a !== b);
      default:
        return compare satisfies never;
    }
  };
}

const within = (apart: number, far: number): Truth => (Number.isNaN(apart) || Number.isNaN(far) ? UNKNOWN : truth(apart <= far));

/** Whether a value went over another between two looks; `before` and `now` are value less other, `earlier` the look before that. */
function happened(event: EventName, before: number, now: number): boolean {
  switch (event) {
    case 'rises above':
      return before <= 0 && now > 0;
    case 'falls below':
      return before >= 0 && now < 0;
    case 'crosses':
      return (before <= 0 && now > 0) || (before >= 0 && now < 0);
    case 'returns from below':
      return before < 0 && now >= 0;
    case 'returns from above':
      return before > 0 && now <= 0;
    case 'turns up':
      return before < 0 && now > 0;
    case 'turns down':
      return before > 0 && now < 0;
    default:
      return event satisfies never;
  }
}

/** An event judged from one evaluation to the next; the first is none. */
function passingEvent(event: EventName, value: Node, other: Node, place: number): Test {
  const turns = event === 'turns up' || event === 'turns down';
  return (scope, i) => {
    const now = plain(value, scope, i, null);
    const side = difference(value, other, scope, i, null);
    if (!scope.memory) return UNKNOWN;
    const key = i * LONGEST_PHRASE + place;
    const before = scope.memory.get(key);
    if (Number.isNaN(side)) return UNKNOWN;
    const trend = before ? Math.sign(now - before.value) : 0;
    scope.memory.set(key, { side: Math.sign(side), value: now, trend });
    if (!before) return FALSE;
    return truth(turns ? happened(event, before.trend, trend) : happened(event, before.side, side));
  };
}

function difference(value: Node, other: Node, scope: Scope, i: number, cursor: Cursor | null): number {
  if (value.exact && other.exact) return value.get(scope, i, cursor) - other.get(scope, i, cursor);
  const [a, b] = [plain(value, scope, i, cursor), plain(other, scope, i, cursor)];
  return a === b ? 0 : a - b;
}

/** An event on closed bars: true from a bar's close until so many of the intervals after it are over. */
function barEvent(event: EventName, value: Node, other: Node, interval: Interval, bars: number, subject: string | null): Test {
  const turns = event === 'turns up' || event === 'turns down';
  return (scope, i) => {
    const { columns } = scope;
    const place = subject === null ? i : (columns.place.get(subject) ?? -1);
    const series = columns.bars(place, interval);
    const last = series?.closedBy(columns.now) ?? -1;
    if (!series || last < 0) return UNKNOWN;
    const at = (index: number): Cursor => ({ interval, index, start: series.time[index] as number });
    const side = (index: number): number => (index < 0 ? NaN : difference(value, other, scope, i, at(index)));
    const trend = (index: number): number => (index < 1 ? NaN : plain(value, scope, i, at(index)) - plain(value, scope, i, at(index - 1)));
    const measure = turns ? trend : side;
    let found: Truth = FALSE;
    let passed = intervalsUntil(series, series.end(last), columns.now, bars);
    for (let index = last; index >= 0 && passed < bars; index--) {
      const [before, now] = [measure(index - 1), measure(index)];
      if (Number.isNaN(before) || Number.isNaN(now)) found = UNKNOWN;
      else if (happened(event, before, now)) return TRUE;
      if (index > 0) passed += intervalsUntil(series, series.end(index - 1), series.end(index), bars);
    }
    return found;
  };
}

/** How many whole intervals lie between two moments, the first a bar's end; at most so many are counted. */
function intervalsUntil({ venue, interval }: Series, from: number, to: number, most: number): number {
  let count = 0;
  for (let end = nextEnd(venue, interval, from); end <= to && count < most; end = nextEnd(venue, interval, end)) count++;
  return count;
}

const nextEnd = (venue: Series['venue'], interval: Interval, end: number): number => barEnd(venue, interval, barStart(venue, interval, end));
