import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import { asPrice, asQuantity, type Instrument } from '../src/core/instrument/index.ts';
import { MatchingBook, type BookEvent } from '../src/core/market/index.ts';
import { Chance } from '../src/core/random/index.ts';
import { times, type Figure } from './table.ts';

const EVENTS = 400_000;

/** Nanoseconds an event costs in a book with so many resting orders: levels, prints, new and cancelled orders. */
function costPerEvent(resting: number): number {
  let next = 0;
  const book = new MatchingBook(FIXED_INSTRUMENTS[0] as Instrument);
  let told = 0;
  const take = (happened: Iterable<BookEvent>): void => {
    for (const event of happened) told += event.id.length;
  };
  const chance = new Chance(resting, 1);
  const submit = (): void => {
    const buy = chance.next() < 0.5;
    const away = 10 + chance.below(4000);
    const order = {
      id: `o${next++}`,
      side: buy ? 'buy' : 'sell',
      limit: asPrice(buy ? 50_000 - away : 50_000 + away),
      timeInForce: 'day',
      restOnly: false,
      remaining: asQuantity(100),
    } as const;
    take(book.submit(order));
  };
  take(book.apply({ event: 'state', state: 'open' }));
  for (let i = 0; i < resting; i++) submit();
  const step = (i: number): void => {
    // Its owner stores what moved now and then.
    if (i % 1024 === 0) told += book.takeMoved().length;
    const kind = i % 4;
    const side = chance.next() < 0.5 ? 'bid' : 'ask';
    if (kind < 2) {
      const price = asPrice(side === 'bid' ? 49_999 - chance.below(20) : 50_001 + chance.below(20));
      take(book.apply({ event: 'level', side, price, quantity: asQuantity(chance.below(500)) }));
    } else if (kind === 2) {
      const price = asPrice(side === 'bid' ? 49_999 : 50_001);
      take(book.apply({ event: 'trade', side: side === 'bid' ? 'sell' : 'buy', price, quantity: asQuantity(10) }));
    } else {
      book.remove(`o${next - resting}`);
      submit();
    }
  };
  for (let i = 0; i < EVENTS / 4; i++) step(i);
  const from = process.hrtime.bigint();
  for (let i = 0; i < EVENTS; i++) step(i);
  const taken = Number(process.hrtime.bigint() - from) / EVENTS;
  if (told < 0) throw new Error('nothing is ever taken back');
  return taken;
}

export function matching(): Figure[] {
  // In turns, so that a loud moment of the machine falls on both; the least is what it costs.
  const turns = Array.from({ length: 8 }, () => [costPerEvent(10), costPerEvent(10_000)] as const);
  const few = Math.min(...turns.map(([cost]) => cost));
  const many = Math.min(...turns.map(([, cost]) => cost));
  return [
    {
      what: 'matching, events a second, 10 resting',
      value: Math.round(1e9 / few).toLocaleString('en'),
      baseline: '500,000',
      ratio: times(1e9 / few / 500_000),
      wanted: '≥ 1×',
    },
    {
      what: 'matching, cost with 10,000 resting',
      value: `${many.toFixed(0)} ns`,
      baseline: `${few.toFixed(0)} ns with 10`,
      ratio: times(many / few),
      wanted: '≤ 1.5×',
    },
  ];
}
