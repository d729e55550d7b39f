import { expect } from 'chai';
import fc from 'fast-check';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import {
  MatchingBook,
  type BookEvent,
  type MarketEvent,
  type MarketState,
  type SavedBook,
  type SavedPlace,
  type Trail,
  type TriggerSource,
} from '../../src/core/market/index.ts';
import { instrument } from '../support/world.ts';

interface Told {
  readonly fills: { id: string; price: number; quantity: number; liquidity: string }[];
  readonly canceled: { id: string; reason: string }[];
  readonly triggered: string[];
}

/** An event of the market in plain numbers. */
type PlainEvent =
  | { event: 'level'; side: 'bid' | 'ask'; price: number; quantity: number }
  | { event: 'trade'; side: 'buy' | 'sell'; price: number; quantity: number }
  | { event: 'state'; state: MarketState }
  | { event: 'price-limit'; bound: 'lower' | 'upper'; price: number | null };

interface PlainOrder {
  id: string;
  side: 'buy' | 'sell';
  limit: number | null;
  remaining: number;
  timeInForce: 'day' | 'ioc' | 'fok';
  restOnly: boolean;
}

/** A book whose owner takes everything it says and notes it. */
class NotedBook {
  readonly told: Told = { fills: [], canceled: [], triggered: [] };
  readonly book: MatchingBook;

  constructor(of = instrument('GANET.HALM')) {
    this.book = new MatchingBook(of);
  }

  private note(happened: Iterable<BookEvent>): void {
    for (const event of happened) {
      if (event.kind === 'filled') {
        const { id, price, quantity, liquidity } = event;
        this.told.fills.push({ id, price, quantity, liquidity });
      } else if (event.kind === 'canceled') this.told.canceled.push({ id: event.id, reason: event.reason });
      else this.told.triggered.push(event.id);
    }
  }

  apply = (event: PlainEvent): void => this.note(this.book.apply(event as MarketEvent));
  submit = (order: PlainOrder): void => this.note(this.book.submit({ ...order } as never));
  submitStop = (stop: PlainOrder & { stopPrice: number | null; triggerOn: TriggerSource; trail?: Trail }): void =>
    this.book.submitStop({ trail: null, best: null, ...stop } as never);
  aheadOf = (id: string): number | null => this.book.standing(id)?.ahead ?? null;
  stopOf = (id: string): number | null => this.book.standing(id)?.stopPrice ?? null;
  best = (side: 'bid' | 'ask'): number | null => this.book.best(side);
  displayedAt = (side: 'bid' | 'ask', price: number): number => this.book.displayedAt(side, asPrice(price));
  lower = (id: string, remaining: number): void => this.book.lower(id, asQuantity(remaining));
  remove = (id: string): void => this.book.remove(id);
  has = (id: string): boolean => this.book.has(id);
  places = () => this.book.places();
  /** What its owner stores: the market each time, of the orders only those whose place is another one by now. */
  private readonly stored = new Map<string, SavedPlace>();
  save(): { book: SavedBook; places: SavedPlace[] } {
    for (const [id, place] of this.book.takeMoved()) {
      if (place) this.stored.set(id, place);
      else this.stored.delete(id);
    }
    return JSON.parse(JSON.stringify({ book: this.book.save(), places: [...this.stored.values()] })) as { book: SavedBook; places: SavedPlace[] };
  }
  load(saved: { book: SavedBook; places: SavedPlace[] }): void {
    this.book.load(saved.book, saved.places);
    for (const place of saved.places) this.stored.set(place.id, place);
  }
  get restingCount(): number {
    return this.book.restingCount;
  }
  levels = (side: 'bid' | 'ask', count: number) => this.book.levels(side, count);
}

function bookWith(levels: readonly [side: 'bid' | 'ask', price: number, quantity: number][] = []): { book: NotedBook; told: Told } {
  const book = new NotedBook();
  book.apply({ event: 'state', state: 'open' });
  for (const [side, price, quantity] of levels) book.apply({ event: 'level', side, price, quantity });
  return { book, told: book.told };
}

const order = (id: string, side: 'buy' | 'sell', limit: number | null, remaining: number, timeInForce: 'day' | 'ioc' | 'fok' = 'day'): PlainOrder => ({
  id,
  side,
  limit,
  remaining,
  timeInForce,
  restOnly: false,
});
const filled = (told: Told): string[] => told.fills.map((fill) => `${fill.id} ${fill.quantity}@${fill.price}`);

describe('a marketable order', () => {
  it('takes opposite levels best first, one fill a level, at the levels’ prices', () => {
    const { book, told } = bookWith([
      ['ask', 4120, 300],
      ['ask', 4121, 400],
      ['ask', 4123, 900],
    ]);
    book.submit(order('a', 'buy', 4121, 1000));
    expect(filled(told)).to.deep.equal(['a 300@4120', 'a 400@4121']);
    expect(told.fills.every((fill) => fill.liquidity === 'removed')).to.equal(true);
    expect(book.best('ask')).to.equal(4123);
  });

  it('leaves what it took gone until the level is displayed anew', () => {
    const { book, told } = bookWith([['ask', 4120, 300]]);
    book.submit(order('a', 'buy', 4120, 300));
    book.submit(order('b', 'buy', 4120, 50));
    expect(filled(told)).to.deep.equal(['a 300@4120']);
    book.apply({ event: 'level', side: 'ask', price: 4120, quantity: 80 });
    expect(filled(told)).to.deep.equal(['a 300@4120', 'b 50@4120']);
    expect(book.displayedAt('ask', 4120)).to.equal(30);
  });

  it('of fok is filled whole or cancelled; of ioc the rest is cancelled', () => {
    const { book, told } = bookWith([['bid', 4118, 100]]);
    book.submit(order('a', 'sell', 4118, 150, 'fok'));
    book.submit(order('b', 'sell', 4118, 150, 'ioc'));
    expect(filled(told)).to.deep.equal(['b 100@4118']);
    expect(told.canceled).to.deep.equal([
      { id: 'a', reason: 'fok' },
      { id: 'b', reason: 'ioc' },
    ]);
  });

  it('waits ahead of all limits when it is a market order that found too little', () => {
    const { book, told } = bookWith([['ask', 4120, 100]]);
    book.submit(order('limit', 'buy', 4119, 200));
    book.submit(order('market', 'buy', null, 300));
    book.apply({ event: 'level', side: 'ask', price: 4119, quantity: 250 });
    expect(filled(told)).to.deep.equal(['market 100@4120', 'market 200@4119', 'limit 50@4119']);
  });

  it('never fills outside the day’s limits', () => {
    const { book, told } = bookWith([['ask', 4200, 100]]);
    book.apply({ event: 'price-limit', bound: 'upper', price: 4190 });
    book.submit(order('a', 'buy', null, 100));
    expect(told.fills).to.deep.equal([]);
  });
});

describe('a resting order', () => {
  it('is filled by a print past the quantity ahead of it, in the order of coming', () => {
    // The published case: print 700; A 100 with 500 ahead, B 100 with 600 ahead.
    const { book, told } = bookWith([['bid', 4118, 500]]);
    book.submit(order('A', 'buy', 4118, 100));
    book.apply({ event: 'level', side: 'bid', price: 4118, quantity: 600 });
    book.submit(order('B', 'buy', 4118, 100));
    expect([book.aheadOf('A'), book.aheadOf('B')]).to.deep.equal([500, 600]);
    book.apply({ event: 'trade', side: 'sell', price: 4118, quantity: 700 });
    expect(filled(told)).to.deep.equal(['A 100@4118']);
    expect(book.aheadOf('B')).to.equal(0);
  });

  it('is not touched at its price by an aggressor on its own side', () => {
    const { book, told } = bookWith();
    book.submit(order('a', 'buy', 4118, 100));
    book.apply({ event: 'trade', side: 'buy', price: 4118, quantity: 900 });
    expect(told.fills).to.deep.equal([]);
  });

  it('is filled wholly at its limit by any print through its price', () => {
    const { book, told } = bookWith([['bid', 4118, 5000]]);
    book.submit(order('a', 'buy', 4118, 300));
    book.apply({ event: 'trade', side: 'buy', price: 4117, quantity: 1 });
    expect(filled(told)).to.deep.equal(['a 300@4118']);
  });

  it('moves up when less is displayed ahead of it', () => {
    const { book } = bookWith([['bid', 4118, 500]]);
    book.submit(order('a', 'buy', 4118, 100));
    book.apply({ event: 'level', side: 'bid', price: 4118, quantity: 200 });
    book.apply({ event: 'level', side: 'bid', price: 4118, quantity: 900 });
    expect(book.aheadOf('a')).to.equal(200);
  });

  it('shares an opposite level that reaches it: best price first, each at its own limit', () => {
    const { book, told } = bookWith();
    book.submit(order('low', 'buy', 4118, 100));
    book.submit(order('high', 'buy', 4119, 100));
    book.apply({ event: 'level', side: 'ask', price: 4117, quantity: 150 });
    expect(filled(told)).to.deep.equal(['high 100@4119', 'low 50@4118']);
    expect(book.displayedAt('ask', 4117)).to.equal(0);
  });

  it('keeps its place when it is lowered', () => {
    const { book } = bookWith([['bid', 4118, 500]]);
    book.submit(order('a', 'buy', 4118, 300));
    book.apply({ event: 'trade', side: 'sell', price: 4118, quantity: 100 });
    book.lower('a', 100);
    expect(book.aheadOf('a')).to.equal(400);
  });
});

describe('a halted market', () => {
  it('fills and triggers nothing, and matches what waits in the order it came when it opens', () => {
    const { book, told } = bookWith();
    book.apply({ event: 'state', state: 'halted' });
    book.submit(order('first', 'buy', 4121, 100));
    book.submit(order('second', 'buy', 4125, 100));
    book.apply({ event: 'level', side: 'ask', price: 4120, quantity: 150 });
    book.apply({ event: 'trade', side: 'sell', price: 4100, quantity: 100 });
    expect(told.fills).to.deep.equal([]);
    book.apply({ event: 'state', state: 'open' });
    expect(filled(told)).to.deep.equal(['first 100@4120', 'second 50@4120']);
  });

  it('cancels an order that was asked only to rest and would trade at the open', () => {
    const { book, told } = bookWith();
    book.apply({ event: 'state', state: 'closed' });
    book.submit({ ...order('a', 'buy', 4121, 100), restOnly: true });
    book.apply({ event: 'level', side: 'ask', price: 4120, quantity: 150 });
    book.apply({ event: 'state', state: 'open' });
    expect(told.canceled).to.deep.equal([{ id: 'a', reason: 'venue' }]);
  });
});

describe('a stop', () => {
  const stop = (id: string, side: 'buy' | 'sell', stopPrice: number, triggerOn: 'last' | 'bid' | 'ask' = 'last') => ({
    ...order(id, side, null, 100),
    stopPrice,
    triggerOn,
  });

  it('at 30.80 sells when a trade prints 30.79', () => {
    const { book, told } = bookWith([['bid', 3078, 500]]);
    book.submitStop(stop('s', 'sell', 3080));
    book.apply({ event: 'trade', side: 'buy', price: 3081, quantity: 1 });
    expect(told.triggered).to.deep.equal([]);
    book.apply({ event: 'trade', side: 'buy', price: 3079, quantity: 1 });
    expect(told.triggered).to.deep.equal(['s']);
    expect(filled(told)).to.deep.equal(['s 100@3078']);
  });

  it('triggers in the order it came, each matched at once', () => {
    const { book, told } = bookWith([['ask', 4130, 120]]);
    book.submitStop(stop('first', 'buy', 4126));
    book.submitStop(stop('second', 'buy', 4125));
    book.apply({ event: 'trade', side: 'buy', price: 4127, quantity: 1 });
    expect(told.triggered).to.deep.equal(['first', 'second']);
    expect(filled(told)).to.deep.equal(['first 100@4130', 'second 20@4130']);
  });

  it('on the bid triggers by the best bid after a row', () => {
    const { book, told } = bookWith([['bid', 4118, 100]]);
    book.submitStop(stop('s', 'sell', 4117, 'bid'));
    book.apply({ event: 'level', side: 'bid', price: 4116, quantity: 50 });
    expect(told.triggered).to.deep.equal([]);
    book.apply({ event: 'level', side: 'bid', price: 4118, quantity: 0 });
    expect(told.triggered).to.deep.equal(['s']);
  });
});

describe('any sequence of events', () => {
  const price = fc.integer({ min: 4110, max: 4130 });
  const quantity = fc.integer({ min: 1, max: 500 });
  const event = fc.oneof(
    fc.record({ do: fc.constant('level' as const), side: fc.constantFrom('bid' as const, 'ask' as const), price, quantity: fc.integer({ min: 0, max: 500 }) }),
    fc.record({ do: fc.constant('trade' as const), side: fc.constantFrom('buy' as const, 'sell' as const), price, quantity }),
    fc.record({
      do: fc.constant('order' as const),
      side: fc.constantFrom('buy' as const, 'sell' as const),
      limit: fc.option(price),
      quantity,
      timeInForce: fc.constantFrom('day' as const, 'ioc' as const, 'fok' as const),
    }),
    fc.record({ do: fc.constant('cancel' as const), which: fc.nat(20) }),
    fc.record({ do: fc.constant('state' as const), state: fc.constantFrom('open' as const, 'halted' as const) }),
  );

  it('conserves quantity, respects limits, and leaves no resting order that crosses the displayed market', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 60 }), (events) => {
        const { book, told } = bookWith();
        const asked = new Map<string, { side: string; limit: number | null; quantity: number }>();
        for (const one of events) {
          if (one.do === 'level') book.apply({ event: 'level', side: one.side, price: one.price, quantity: one.quantity });
          else if (one.do === 'trade') book.apply({ event: 'trade', side: one.side, price: one.price, quantity: one.quantity });
          else if (one.do === 'state') book.apply({ event: 'state', state: one.state });
          else if (one.do === 'cancel') book.remove(`o${one.which}`);
          else {
            const id = `o${asked.size}`;
            asked.set(id, { side: one.side, limit: one.limit, quantity: one.quantity });
            book.submit({ id, side: one.side, limit: one.limit, remaining: one.quantity, timeInForce: one.timeInForce, restOnly: false });
          }
        }
        for (const [id, { side, limit, quantity: whole }] of asked) {
          const fills = told.fills.filter((fill) => fill.id === id);
          const done = fills.reduce((sum, fill) => sum + fill.quantity, 0);
          const rest = book.places().find((place) => place.id === id)?.remaining ?? 0;
          expect(done + rest).to.be.at.most(whole);
          if (book.has(id)) expect(done + rest).to.equal(whole);
          for (const fill of fills) {
            expect(fill.quantity).to.be.greaterThan(0);
            if (limit !== null) expect(side === 'buy' ? fill.price <= limit : fill.price >= limit).to.equal(true);
          }
        }
        if (book.book.state !== 'open') return;
        const bid = book.best('bid');
        const ask = book.best('ask');
        for (const resting of book.places()) {
          if (resting.limit === null) expect(resting.side === 'buy' ? ask : bid).to.equal(null);
          else if (resting.side === 'buy' && ask !== null) expect(resting.limit).to.be.lessThan(ask);
          else if (resting.side === 'sell' && bid !== null) expect(resting.limit).to.be.greaterThan(bid);
        }
      }),
      { numRuns: 600 },
    );
  });

  it('is the same after saving and loading in between', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 40 }), fc.nat(40), (events, cut) => {
        const run = (reload: boolean): string => {
          let { book, told } = bookWith();
          const all: string[] = [];
          events.forEach((one, i) => {
            if (reload) book.save();
            if (reload && i === cut) {
              all.push(...filled(told));
              const next = bookWith();
              next.book.load(book.save());
              expect(next.book.places()).to.deep.equal(book.places());
              ({ book, told } = next);
            }
            if (one.do === 'level') book.apply({ event: 'level', side: one.side, price: one.price, quantity: one.quantity });
            else if (one.do === 'trade') book.apply({ event: 'trade', side: one.side, price: one.price, quantity: one.quantity });
            else if (one.do === 'state') book.apply({ event: 'state', state: one.state });
            else if (one.do === 'cancel') book.remove(`o${one.which}`);
            else book.submit({ id: `o${i}`, side: one.side, limit: one.limit, remaining: one.quantity, timeInForce: one.timeInForce, restOnly: false });
          });
          return [...all, ...filled(told)].join('|');
        };
        expect(run(true)).to.equal(run(false));
      }),
      { numRuns: 200 },
    );
  });
});
