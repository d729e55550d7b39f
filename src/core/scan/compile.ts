import { decimalText } from '../number/index.ts';
import type { Instrument } from '../instrument/index.ts';
import type { Interval } from '../market/index.ts';
import { STUDIES, type StudyDefinition } from '../study/index.ts';
import { caught, listingMeant, PhraseFault, printCondition, type Condition, type Read, type Value } from '../language/index.ts';
import { EXACT, TRUE, UNKNOWN, exactly, plain, truth, type Node, type Scope, type Test, type Truth, type WordNode } from './evaluation.ts';
import { barEvent, compared, indexIn, passingEvent, within } from './events.ts';
import { CELLS, percentOf, quoteField, settledBack, tickOf } from './quote-fields.ts';
import { checkTypes, intervalOf, leavesOf, namedInterval, studyLine } from './types.ts';

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
