import type { Condition, Value } from '../../src/core/language/index.ts';
import type { Instrument } from '../../src/core/instrument/index.ts';
import { aggregate, barEnd, barStart, type Bar, type Interval, type Quote } from '../../src/core/market/index.ts';

/** An instrument as plain lists: its quote and its minute bars, oldest first. */
export interface PlainListing {
  readonly instrument: Instrument;
  readonly quote: Quote;
  readonly minutes: readonly Bar[];
}

type Three = boolean | null;

/** Evaluates conditions the plain way: bars aggregated anew for each value, no columns, nothing kept. */
export class NaiveConditions {
  private readonly listings: readonly PlainListing[];
  private readonly now: number;
  /** Whether a mean, a product or a quotient met something nearer than doubles tell: either answer is right then. */
  tied = false;

  constructor(listings: readonly PlainListing[], now: number) {
    this.listings = listings;
    this.now = now;
  }

  holds(condition: Condition, of: PlainListing): Three {
    switch (condition.kind) {
      case 'and': {
        const [a, b] = [this.holds(condition.left, of), this.holds(condition.right, of)];
        return a === false || b === false ? false : a === null || b === null ? null : true;
      }
      case 'or': {
        const [a, b] = [this.holds(condition.left, of), this.holds(condition.right, of)];
        return a === true || b === true ? true : a === null || b === null ? null : false;
      }
      case 'not': {
        const a = this.holds(condition.of, of);
        return a === null ? null : !a;
      }
      case 'flag':
        return condition.flag === 'halted' ? of.quote.state === 'halted' : condition.flag === 'open now' ? of.quote.state === 'open' : false;
      case 'compare': {
        const clause = intervalNamed(condition);
        return this.both(condition.left, condition.right, of, clause, (a, b) =>
          condition.compare === '<'
            ? a < b
            : condition.compare === '<='
              ? a <= b
              : condition.compare === '>'
                ? a > b
                : condition.compare === '>='
                  ? a >= b
                  : a === b,
        );
      }
      case 'between': {
        const clause = intervalNamed(condition);
        const low = this.both(condition.value, condition.low, of, clause, (a, b) => a >= b);
        const high = this.both(condition.value, condition.high, of, clause, (a, b) => a <= b);
        return low === false || high === false ? false : low === null || high === null ? null : true;
      }
      case 'event': {
        const interval = intervalNamed(condition) ?? '1d';
        const bars = this.bars(of, interval);
        const closed = bars.filter((bar) => barEnd(of.instrument.venue, interval, bar.time) <= this.now);
        if (closed.length === 0) return null;
        let unknown = false;
        for (let k = closed.length - 1; k >= 0; k--) {
          let until = barEnd(of.instrument.venue, interval, (closed[k] as Bar).time);
          for (let n = 0; n < (condition.within ?? 1); n++) until = barEnd(of.instrument.venue, interval, barStart(of.instrument.venue, interval, until));
          if (until <= this.now) break;
          const at = (index: number): number => (index < 0 ? NaN : this.value(condition.value, of, interval, closed.slice(0, index + 1)));
          const other = (index: number): number => (index < 0 || !condition.other ? 0 : this.value(condition.other, of, interval, closed.slice(0, index + 1)));
          const turns = condition.event === 'turns up' || condition.event === 'turns down';
          const exact = isExact(condition.value) && (!condition.other || isExact(condition.other));
          const before = this.apart(exact, at(k - 1), turns ? at(k - 2) : other(k - 1));
          const now = this.apart(exact, at(k), turns ? at(k - 1) : other(k));
          if (Number.isNaN(before) || Number.isNaN(now)) unknown = true;
          else if (went(condition.event, before, now)) return true;
        }
        return unknown ? null : false;
      }
      case 'near':
      case 'watched':
        throw new Error(`${condition.kind} is not compared here`);
      default:
        return condition satisfies never;
    }
  }

  private both(left: Value, right: Value, of: PlainListing, clause: Interval | null, holds: (a: number, b: number) => boolean): Three {
    const [a, b] = [this.value(left, of, clause, null), this.value(right, of, clause, null)];
    return Number.isNaN(a) || Number.isNaN(b) ? null : holds(this.apart(isExact(left) && isExact(right), a, b), 0);
  }

  /** How far apart two values are, as exact sums of decimal numbers would be. */
  private apart(exact: boolean, a: number, b: number): number {
    const apart = Math.round((a - b) * 1e9) / 1e9;
    if (apart === 0 && !exact) this.tied = true;
    return apart;
  }

  private value(value: Value, of: PlainListing, clause: Interval | null, closed: readonly Bar[] | null): number {
    const price = 10 ** of.instrument.priceDecimals;
    const { quote } = of;
    const whole = (units: number | null): number => (units === null ? NaN : units / price);
    switch (value.kind) {
      case 'number':
        return Number(value.text);
      case 'minus':
        return -this.value(value.of, of, clause, closed);
      case 'sum': {
        const [a, b] = [this.value(value.left, of, clause, closed), this.value(value.right, of, clause, closed)];
        return value.operator === '+' ? a + b : a - b;
      }
      case 'product': {
        const [a, b] = [this.value(value.left, of, clause, closed), this.value(value.right, of, clause, closed)];
        return value.operator === 'x' ? a * b : a / b;
      }
      case 'field': {
        const on = value.at.on ?? (value.name === 'close' || value.at.ago !== null ? (clause ?? '1d') : null);
        if (on !== null) {
          const bars = closed ?? this.bars(of, on);
          const bar = bars[bars.length - 1 - (value.at.ago ?? 0)];
          return bar ? (value.name === 'volume' ? bar.volume : whole(bar[value.name as 'close'])) : NaN;
        }
        if (value.name === 'last') return closed ? whole((closed[closed.length - 1] as Bar).close) : whole(quote.lastEver);
        if (value.name === 'bid' || value.name === 'ask' || value.name === 'high' || value.name === 'low' || value.name === 'open')
          return whole(quote[value.name]);
        if (value.name === 'volume') return quote.volume;
        throw new Error(`${value.name} is not compared here`);
      }
      case 'study': {
        const bars = closed ?? this.bars(of, value.at.on ?? clause ?? '1d');
        const closes = bars.slice(0, bars.length - (value.at.ago ?? 0)).map((bar) => whole(bar.close));
        const n = value.parameters[0] ?? 20;
        return value.study === 'sma' ? plainMean(closes, n) : exponentialMean(closes, n);
      }
      case 'span': {
        const bars = closed ?? this.bars(of, value.at.on ?? clause ?? '1d');
        const end = bars.length - (value.at.ago ?? 0);
        if (end - value.bars < 0) return NaN;
        const found = bars.slice(end - value.bars, end).map((bar) => (value.field === 'volume' ? bar.volume : whole(bar[value.field])));
        const sum = found.reduce((a, b) => a + b, 0);
        return value.span === 'highest'
          ? Math.max(...found)
          : value.span === 'lowest'
            ? Math.min(...found)
            : value.span === 'average'
              ? sum / found.length
              : sum;
      }
      default:
        throw new Error(`${value.kind} is not compared here`);
    }
  }

  private bars(of: PlainListing, interval: Interval): Bar[] {
    return aggregate(of.instrument.venue, of.minutes, interval);
  }

  find(id: string): PlainListing {
    return this.listings.find(({ instrument }) => instrument.id === id) as PlainListing;
  }
}

/** Prices, quantities, their sums and differences; what is divided or multiplied comes as doubles do. */
function isExact(value: Value): boolean {
  switch (value.kind) {
    case 'number':
    case 'field':
      return true;
    case 'minus':
      return isExact(value.of);
    case 'sum':
      return isExact(value.left) && isExact(value.right);
    case 'span':
      return value.span !== 'average';
    default:
      return false;
  }
}

const plainMean = (values: readonly number[], n: number): number => (values.length < n ? NaN : values.slice(-n).reduce((a, b) => a + b, 0) / n);

function exponentialMean(values: readonly number[], n: number): number {
  if (values.length < n) return NaN;
  let mean = plainMean(values.slice(0, n), n);
  for (const value of values.slice(n)) mean += (2 / (n + 1)) * (value - mean);
  return mean;
}

function went(event: string, before: number, now: number): boolean {
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
    default:
      return before > 0 && now < 0;
  }
}

function intervalNamed(condition: Condition): Interval | null {
  const found = new Set([...JSON.stringify(condition).matchAll(/"on":"(\w+)"/g)].map(([, on]) => on as Interval));
  return found.size === 1 ? ([...found][0] as Interval) : null;
}
