import { ACCOUNTS } from '../demo/accounts.ts';
import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import { newAccountState, type Entry, type Fill, type Touched, type Working } from '../src/core/desk/index.ts';
import { asPrice, asQuantity, type Instrument } from '../src/core/instrument/index.ts';
import { NO_MONEY, minus, money, moneyOf, plus } from '../src/core/number/index.ts';
import { requestedOrder, type Order } from '../src/core/orders/index.ts';
import { applyFill, flatPosition, type AccountTerms } from '../src/core/portfolio/index.ts';
import { GROUPINGS, RoundTrips, figuresOf, grouped, type CountedTrip } from '../src/core/review/index.ts';
import { Chance } from '../src/core/random/index.ts';
import { ms, times, type Figure } from './table.ts';

const FILLS = 1_000_000;
/** As the log is read. */
const AT_ONCE = 2000;
const TRIPS = 50_000;
const FEE = money('2.00');
const NOON = Date.parse('2026-03-02T12:00:00.000Z');
const [MAIN] = ACCOUNTS as readonly [AccountTerms];
const GANET = FIXED_INSTRUMENTS.find(({ id }) => id === 'GANET.HALM') as Instrument;

const timed = (work: () => void): number => {
  const began = performance.now();
  work();
  return performance.now() - began;
};

const identity = { id: 'o', clientOrderId: 'c', account: 'MAIN', instrument: GANET.id, side: 'buy', heldBy: 'venue', product: 'overnight' } as const;
const more = {
  reduceOnly: false,
  crossesZero: false,
  setup: null,
  plan: null,
  step: null,
  exitPlan: null,
  role: 'entry',
  opening: true,
  createdAt: NOON,
} as const;

function fillsOf(chance: Chance, first: number): Fill[] {
  return Array.from({ length: AT_ONCE }, (_, at): Fill => {
    const i = first + at;
    const side = chance.next() < 0.5 ? 'buy' : 'sell';
    const quantity = asQuantity(1 + chance.below(5));
    return {
      id: `f${i}`,
      seq: i + 1,
      time: NOON + i,
      orderId: 'o',
      clientOrderId: 'c',
      account: 'MAIN',
      instrument: GANET.id,
      side,
      role: 'entry',
      quantity,
      price: asPrice(4000 + chance.below(300)),
      fee: FEE,
      realised: NO_MONEY,
      liquidity: 'removed',
      orderQuantity: quantity,
      filledQuantity: quantity,
      averagePrice: '0',
    };
  });
}

const NOTHING: Touched = { orders: [], fills: [], positions: [], asked: null, plans: [], risk: false };

const entryOf = ({ seq, time }: Fill): Entry => ({
  seq,
  time,
  account: 'MAIN',
  by: 'venue',
  instrument: GANET.id,
  orderId: 'o',
  causedBy: null,
  text: '',
  data: { kind: 'note', what: 'fill' },
  history: null,
  hash: '',
});

/** Round trips from a long past, and their figures: against booking the fills alone, and against one sum. */
export function review(): Figure[] {
  const order: Order = {
    ...requestedOrder({ ...identity, ...more }, { type: 'market', quantity: asQuantity(1), lifetime: { kind: 'day' } }),
    acknowledged: 'accepted',
  };
  const working: Working = { order, madeBy: 1, askedBy: 1, turnover: 0n, claims: [] };
  const state = newAccountState(MAIN);
  const trips = new RoundTrips(() => GANET);
  let position = flatPosition(GANET.id, NOON);
  let [bare, whole] = [0, 0];
  const dice = new Chance(15);
  for (let first = 0; first < FILLS; first += AT_ONCE) {
    const fills = fillsOf(dice, first);
    bare += timed(() => {
      for (const { side, price, quantity, fee, time } of fills)
        position = applyFill(GANET, position, { side, price, quantity, fee, time, product: 'overnight' }).position;
    });
    const entries = fills.map((fill): [Entry, Touched] => [entryOf(fill), { ...NOTHING, orders: [working], fills: [fill], positions: [GANET.id] }]);
    whole += timed(() => {
      for (const [entry, touched] of entries) trips.take(entry, touched, state);
      // The desk keeps them in a table.
      trips.closed.length = 0;
    });
  }
  const chance = new Chance(16);
  const counted = Array.from({ length: TRIPS }, (_, i): CountedTrip => {
    const net = moneyOf(BigInt(chance.below(200_000) - 100_000) * 1_000_000n);
    const setup = ['a', 'b', 'c', null][chance.below(4)] ?? null;
    const closedAt = NOON + i * 60_000;
    return {
      instrument: GANET,
      account: 'MAIN',
      setup,
      long: chance.next() < 0.5,
      closedAt,
      heldSeconds: 60,
      quantity: '100',
      gross: plus(net, money('4.00')),
      fees: money('4.00'),
      net,
      r: net / 100n,
    };
  });
  const sum = timed(() => void counted.reduce((total, { net }) => plus(total, net), minus(NO_MONEY, NO_MONEY)));
  // In turns, so that a loud moment of the machine falls on all; the least of each is what it costs.
  const turns = [1, 2, 3].map(() => GROUPINGS.map((by) => timed(() => grouped(counted, by).map((group) => figuresOf(group.trips, 60)))));
  const slowest = Math.max(...GROUPINGS.map((_, i) => Math.min(...turns.map((turn) => turn[i] as number))));
  const [all, each] = [`${FILLS.toLocaleString('en')} fills`, `${TRIPS.toLocaleString('en')} round trips`];
  return [
    { what: `${all} into round trips`, value: ms(whole), baseline: `booking them alone ${ms(bare)}`, ratio: times(whole / bare), wanted: '2.5 s' },
    {
      what: 'one fill more',
      value: `${((whole / FILLS) * 1000).toFixed(2)} µs`,
      baseline: `booking it ${((bare / FILLS) * 1000).toFixed(2)} µs`,
      ratio: times(whole / bare),
      wanted: '50 µs',
    },
    { what: `${each}: figures by the slowest group`, value: ms(slowest), baseline: `one sum ${ms(sum)}`, ratio: times(slowest / sum), wanted: '120 ms' },
  ];
}
