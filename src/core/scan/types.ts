import type { Interval } from '../market/index.ts';
import { STUDIES, type StudyDefinition } from '../study/index.ts';
import { PhraseFault, fieldOf, printValue, type Condition, type Value, type ValueType } from '../language/index.ts';

/** The type of a value; a bare number fits any but a word, a whole one may be compared by `=`. */
export interface Typed {
  readonly type: ValueType;
  readonly bare: boolean;
  readonly whole: boolean;
}

const typed = (type: ValueType): Typed => ({ type, bare: false, whole: false });
const PLAIN: Typed = { type: 'number', bare: true, whole: false };

/** The line of a study that a value means, and its place among the lines. */
export function studyLine(study: StudyDefinition, part: string | null): number {
  const found = part === null ? study.lines.findIndex(({ style }) => style !== 'histogram') : study.lines.findIndex(({ name }) => name.toLowerCase() === part);
  return Math.max(0, found);
}

/** What the values of a study are: prices where it says so or is drawn over them. */
function studyType({ kind, unit, place }: StudyDefinition): ValueType {
  if (kind === 'rate-of-change') return 'percent';
  if (unit === 'volume') return 'quantity';
  return unit === 'price' || place === 'price' ? 'price' : 'number';
}

const fault = (at: Value | Condition, message: string, expected: readonly string[] = []): never => {
  throw new PhraseFault({ message, from: at.from, to: at.to, expected });
};

/** Both are alike; else the second is the error, both named. */
function alike(left: Typed, right: Typed, at: Value): void {
  if (left.type === right.type) return;
  if ((left.bare && right.type !== 'word') || (right.bare && left.type !== 'word')) return;
  fault(at, `a ${right.type} can't stand beside a ${left.type}`, [`a ${left.type}`]);
}

/** The type of a value; what doesn't fit is a fault at its second value. */
export function typeOf(value: Value): Typed {
  switch (value.kind) {
    case 'number':
      if (value.unit === null) return { ...PLAIN, whole: !value.text.includes('.') };
      return typed(value.unit === 'percent' ? 'percent' : 'price');
    case 'word':
      return typed('word');
    case 'minus': {
      const of = typeOf(value.of);
      if (of.type === 'word') fault(value.of, 'a word has no sign', ['a number']);
      return of;
    }
    case 'field':
      return typed(value.name === 'close' ? 'price' : fieldOf(value.name).type);
    case 'study':
      return typed(studyType(STUDIES.get(value.study) as StudyDefinition));
    case 'span':
      return typed(value.field === 'volume' ? 'quantity' : 'price');
    case 'change over':
      return typed('percent');
    case 'sum': {
      const [left, right] = [typeOf(value.left), typeOf(value.right)];
      if (left.type === 'word') fault(value.left, 'a word is no number', ['a number']);
      alike(left, right, value.right);
      return { type: left.bare ? right.type : left.type, bare: left.bare && right.bare, whole: left.whole && right.whole };
    }
    case 'product': {
      const [left, right] = [typeOf(value.left), typeOf(value.right)];
      if (left.type === 'word') fault(value.left, 'a word is no number', ['a number']);
      if (right.type === 'word') fault(value.right, `a ${right.type} can't stand beside a ${left.type}`, ['a number']);
      return value.operator === 'x' ? product(left, right) : quotient(left, right);
    }
    default:
      return value satisfies never;
  }
}

function product(left: Typed, right: Typed): Typed {
  if (left.type === 'number') return { ...right, whole: left.whole && right.whole };
  if (right.type === 'number') return left;
  if (left.type === 'percent') return typed(right.type);
  if (right.type === 'percent') return typed(left.type);
  return typed(new Set([left.type, right.type]).size === 2 && left.type !== 'money' && right.type !== 'money' ? 'money' : 'number');
}

function quotient(left: Typed, right: Typed): Typed {
  if (right.type === 'number') return { ...left, whole: false };
  if (left.type === 'money' && right.type === 'price') return typed('quantity');
  if (left.type === 'money' && right.type === 'quantity') return typed('price');
  return typed('number');
}

const EXACT: readonly ValueType[] = ['price', 'quantity', 'word'];

/** Checks the types of a whole condition; the first that doesn't fit is a fault. */
export function checkTypes(condition: Condition): void {
  switch (condition.kind) {
    case 'and':
    case 'or':
      checkTypes(condition.left);
      checkTypes(condition.right);
      return;
    case 'not':
      checkTypes(condition.of);
      return;
    case 'flag':
    case 'watched':
      return;
    case 'compare': {
      const { compare, right } = condition;
      const [left, other] = [typeOf(condition.left), typeOf(right)];
      alike(left, other, right);
      const ordered = compare !== '=' && compare !== 'is' && compare !== 'is not';
      if (ordered && left.type === 'word') fault(right, `words are compared by =, is and is not, not by ${compare}`, ['=', 'is', 'is not']);
      const exact = EXACT.includes(left.type) || EXACT.includes(other.type) || (left.whole && other.whole);
      if (!ordered && !exact) fault(right, `${compare} is for prices, quantities, words and whole numbers only`, ['<', '<=', '>', '>=', 'between', 'within']);
      return;
    }
    case 'between': {
      const value = numeric(condition.value);
      alike(value, numeric(condition.low), condition.low);
      alike(value, numeric(condition.high), condition.high);
      return;
    }
    case 'near': {
      const value = numeric(condition.value);
      alike(value, numeric(condition.of), condition.of);
      const distance = typeOf(condition.distance);
      if (distance.type === 'price') alike(value, distance, condition.distance);
      return;
    }
    case 'event': {
      const value = numeric(condition.value);
      if (condition.other) alike(value, numeric(condition.other), condition.other);
      return;
    }
    default:
      condition satisfies never;
  }
}

function numeric(value: Value): Typed {
  const found = typeOf(value);
  if (found.type === 'word') fault(value, `“${printValue(value)}” is a word, and a number is needed`, ['a number', 'a price']);
  return found;
}

/** The values in a condition that say something by themselves, in the order of the text. */
export function leavesOf(condition: Condition): Value[] {
  switch (condition.kind) {
    case 'and':
    case 'or':
      return [...leavesOf(condition.left), ...leavesOf(condition.right)];
    case 'not':
      return leavesOf(condition.of);
    case 'compare':
      return [...valuesIn(condition.left), ...valuesIn(condition.right)];
    case 'between':
      return [...valuesIn(condition.value), ...valuesIn(condition.low), ...valuesIn(condition.high)];
    case 'near':
      return [...valuesIn(condition.value), ...valuesIn(condition.of)];
    case 'event':
      return [...valuesIn(condition.value), ...(condition.other ? valuesIn(condition.other) : [])];
    case 'flag':
    case 'watched':
      return [];
    default:
      return condition satisfies never;
  }
}

function valuesIn(value: Value): Value[] {
  switch (value.kind) {
    case 'number':
    case 'word':
      return [];
    case 'minus':
      return valuesIn(value.of);
    case 'sum':
    case 'product':
      return [...valuesIn(value.left), ...valuesIn(value.right)];
    default:
      return [value];
  }
}

/**
 * The interval that a value takes by itself or from its clause; null for what has no bars. `close` alone has none:
 * that is the fault it is.
 *
 * @param clause the one interval that is named in the clause, if one is
 */
export function intervalOf(value: Value, clause: Interval | null): Interval | null {
  switch (value.kind) {
    case 'study':
    case 'span':
      return value.at.on ?? clause ?? '1d';
    case 'field':
      if (value.at.on !== null) return barField(value) ? value.at.on : fault(value, `${value.name} has no bars: open, high, low, close and volume do`);
      if (value.at.ago !== null) return barField(value) ? (clause ?? '1d') : fault(value, `${value.name} has no bars: open, high, low, close and volume do`);
      if (value.name !== 'close') return null;
      return clause ?? fault(value, 'close of which bars? last is the last trade, close on 1d the close of a day', ['last', 'close on 1d']);
    default:
      return null;
  }
}

const barField = ({ name }: Value & { kind: 'field' }): boolean => ['open', 'high', 'low', 'close', 'volume'].includes(name);

/** The one interval that a clause names; null where it names none or several. */
export function namedInterval(values: readonly Value[]): Interval | null {
  const named = new Set(values.flatMap((value) => ('at' in value && value.at.on !== null ? [value.at.on] : [])));
  return named.size === 1 ? ([...named][0] as Interval) : null;
}
