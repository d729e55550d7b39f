import { expect } from 'chai';
import fc from 'fast-check';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { asPrice, asQuantity, type Instrument, type Price } from '../../src/core/instrument/index.ts';
import { MatchingBook, MARKET_STATES, type BookEvent, type BookOrder, type MarketEvent, type StopOrder } from '../../src/core/market/index.ts';
import { PlainBook } from '../support/plain-book.ts';

const INSTRUMENT = FIXED_INSTRUMENTS[0] as Instrument;

type Step =
  | { readonly do: 'market'; readonly event: MarketEvent }
  | { readonly do: 'order'; readonly order: Omit<BookOrder, 'id'>; readonly reducing: boolean }
  | { readonly do: 'stop'; readonly stop: Omit<StopOrder, 'id'>; readonly reducing: boolean }
  /** The owner takes an order out and puts it in anew at another price, as for a replace. */
  | { readonly do: 'change'; readonly which: number; readonly limit: Price }
  | { readonly do: 'lower' | 'remove'; readonly which: number };

const price = fc.integer({ min: 4110, max: 4124 }).map(asPrice);
const quantity = fc.integer({ min: 1, max: 300 }).map(asQuantity);
const side = fc.constantFrom('buy' as const, 'sell' as const);
const which = fc.nat(30);
const order = fc
  .record({
    side,
    limit: fc.option(price, { freq: 6 }),
    timeInForce: fc.constantFrom('day' as const, 'day' as const, 'day' as const, 'ioc' as const, 'fok' as const),
    restOnly: fc.boolean(),
    remaining: quantity,
  })
  // Only a limit order can be asked to rest.
  .map((one) => ({ ...one, restOnly: one.restOnly && one.limit !== null }));
const trail = fc.option(
  fc.oneof(
    fc.record({ unit: fc.constant('ticks' as const), ticks: fc.integer({ min: 1, max: 5 }) }),
    fc.record({ unit: fc.constant('percent' as const), percent: fc.integer({ min: 1, max: 20 }).map((n) => BigInt(n) * 1_000_000n) }),
  ),
);
const event: fc.Arbitrary<MarketEvent> = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.record({
      event: fc.constant('level' as const),
      side: fc.constantFrom('bid' as const, 'ask' as const),
      price,
      quantity: fc.integer({ min: 0, max: 300 }).map(asQuantity),
    }),
  },
  { weight: 4, arbitrary: fc.record({ event: fc.constant('trade' as const), side, price, quantity }) },
  { weight: 1, arbitrary: fc.record({ event: fc.constant('state' as const), state: fc.constantFrom('open' as const, 'open' as const, ...MARKET_STATES) }) },
  {
    weight: 1,
    arbitrary: fc.record({ event: fc.constant('price-limit' as const), bound: fc.constantFrom('lower' as const, 'upper' as const), price: fc.option(price) }),
  },
);
const step: fc.Arbitrary<Step> = fc.oneof(
  { weight: 10, arbitrary: fc.record({ do: fc.constant('market' as const), event }) },
  { weight: 5, arbitrary: fc.record({ do: fc.constant('order' as const), order, reducing: fc.boolean() }) },
  {
    weight: 3,
    arbitrary: fc.record({
      do: fc.constant('stop' as const),
      stop: fc
        .record({ entry: order, stopPrice: price, triggerOn: fc.constantFrom('last' as const, 'bid' as const, 'ask' as const), trail })
        .map(({ entry, stopPrice, triggerOn, trail: follows }) => ({
          ...entry,
          timeInForce: 'day' as const,
          restOnly: false,
          stopPrice,
          triggerOn,
          trail: follows,
          best: null,
        })),
      reducing: fc.boolean(),
    }),
  },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('change' as const), which, limit: price }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constantFrom('lower' as const, 'remove' as const), which }) },
);

/** What both books can do. */
interface Book {
  apply(event: MarketEvent): void;
  submit(order: BookOrder): void;
  submitStop(stop: StopOrder): void;
  lower(id: string, remaining: number): void;
  remove(id: string): void;
  has(id: string): boolean;
}

/**
 * Runs the steps in a book whose owner has a position: after each fill it cuts its reducing orders to what is left of
 * it, and takes them out when it is flat, before the book goes on.
 */
function run(steps: readonly Step[], make: (tell: (what: string, id: string, price: number, quantity: number) => void) => Book): string[] {
  const log: string[] = [];
  const orders = new Map<string, { side: 'buy' | 'sell'; left: number; reducing: boolean; entry: BookOrder | StopOrder }>();
  let position = 0;
  const book: Book = make((what, id, at, filled) => {
    log.push(`${what} ${id} ${filled}@${at}`);
    const of = orders.get(id);
    if (!of || what !== 'filled') return;
    of.left -= filled;
    position += of.side === 'buy' ? filled : -filled;
    for (const [other, cut] of orders) {
      const closable = Math.max(0, cut.side === 'sell' ? position : -position);
      if (!cut.reducing || !book.has(other) || cut.left <= closable) continue;
      log.push(`cut ${other} ${closable}`);
      cut.left = closable;
      if (closable === 0) book.remove(other);
      else book.lower(other, closable);
    }
  });
  const enter = (entry: BookOrder | StopOrder, reducing: boolean): void => {
    orders.set(entry.id, { side: entry.side, left: entry.remaining, reducing, entry });
    if ('triggerOn' in entry) book.submitStop({ ...entry });
    else book.submit({ ...entry });
  };
  steps.forEach((one, i) => {
    if (one.do === 'market') return book.apply(one.event);
    if (one.do === 'order') return enter({ id: `o${i}`, ...one.order }, one.reducing);
    if (one.do === 'stop') return enter({ id: `s${i}`, ...one.stop }, one.reducing);
    const id = [...orders.keys()][one.which] ?? '';
    const of = orders.get(id);
    if (!of || !book.has(id)) return;
    if (one.do !== 'lower') book.remove(id);
    else if (of.left > 1) book.lower(id, (of.left = Math.ceil(of.left / 2)));
    if (one.do === 'change') {
      orders.delete(id);
      enter({ ...of.entry, limit: one.limit, remaining: asQuantity(of.left) }, of.reducing);
    }
  });
  for (const id of orders.keys()) if (book.has(id)) log.push(`left ${id} ${orders.get(id)?.left}`);
  return log;
}

function real(tell: (what: string, id: string, price: number, quantity: number) => void): Book {
  const book = new MatchingBook(INSTRUMENT);
  const take = (happened: Iterable<BookEvent>): void => {
    for (const one of happened)
      if (one.kind === 'filled') tell('filled', one.id, one.price, one.quantity);
      else tell(one.kind, one.id, one.kind === 'triggered' ? one.stopPrice : 0, 0);
  };
  return {
    apply: (event) => take(book.apply(event)),
    submit: (one) => take(book.submit(one)),
    submitStop: (one) => book.submitStop(one),
    lower: (id, remaining) => book.lower(id, asQuantity(remaining)),
    remove: (id) => book.remove(id),
    has: (id) => book.has(id),
  };
}

describe('the matching book beside the rules written down plainly', () => {
  it('does the same to every order, with limits, stops, trails, changes, halts and an owner that cuts between two fills', () => {
    let fills = 0;
    fc.assert(
      fc.property(fc.array(step, { maxLength: 60, size: 'max' }), (steps) => {
        const told = run(steps, real);
        expect(told).to.deep.equal(run(steps, (tell) => new PlainBook(INSTRUMENT, tell)));
        fills += told.filter((line) => line.startsWith('filled')).length;
      }),
      { numRuns: 3000 },
    );
    expect(fills).to.be.greaterThan(2000);
  });
});
