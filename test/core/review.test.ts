import { expect } from 'chai';
import fc from 'fast-check';
import { statement, CashBook, Lots, sharesOf } from '../../src/core/backoffice/index.ts';
import { newAccountState, type Entry, type Fill, type Touched, type Working } from '../../src/core/desk/index.ts';
import { asPrice, asQuantity, type Instrument } from '../../src/core/instrument/index.ts';
import { formatDay, parseDay, type Side } from '../../src/core/market/index.ts';
import { divideHalfEven, formatMoney, minorUnit, minus, money, moneyOf, plus, type Money } from '../../src/core/number/index.ts';
import { requestedOrder, type Order } from '../../src/core/orders/index.ts';
import { bookFill, openAccount } from '../../src/core/portfolio/index.ts';
import {
  GROUPINGS,
  RoundTrips,
  excursions,
  figuresOf,
  grouped,
  netOf,
  questionOf,
  slippage,
  type AskedTrip,
  curveOf,
  type CountedTrip,
  type RoundTrip,
} from '../../src/core/review/index.ts';
import { account, at, instrument } from '../support/world.ts';

const IDS = ['GANET.HALM', 'HALM40-JUN26.HALM', 'CARBI.VSPR'] as const;
const RUNS = Number(process.env['KAVIX_RUNS'] ?? 1000);
const MAIN = account('MAIN');
const NOON = at('12:00:00.000');

interface Step {
  readonly instrument: Instrument;
  readonly side: Side;
  readonly price: number;
  readonly quantity: number;
  /** In the smallest unit it is paid in. */
  readonly fee: number;
  readonly setup: string | null;
}

/** What follows an account's fills, fed as the desk feeds it. */
class Followed {
  readonly trips = new RoundTrips(instrument);
  readonly lots = new Lots(instrument);
  readonly cash = new CashBook(MAIN, instrument);
  readonly fills: Fill[] = [];
  readonly state = newAccountState(MAIN);
  book = openAccount(MAIN);

  take(step: Step): void {
    const { instrument: of, side, setup } = step;
    const seq = this.fills.length + 1;
    const fee = moneyOf(BigInt(step.fee) * minorUnit(of.settlesIn));
    const [price, quantity, time] = [asPrice(step.price), asQuantity(step.quantity), NOON + seq * 60_000];
    const identity = { id: `o${seq}`, clientOrderId: `c${seq}`, account: 'MAIN', instrument: of.id, side, heldBy: 'venue', product: 'overnight' } as const;
    const more = {
      reduceOnly: false,
      crossesZero: true,
      setup,
      plan: null,
      step: null,
      exitPlan: null,
      role: 'entry',
      opening: true,
      createdAt: time,
    } as const;
    const order: Order = { ...requestedOrder({ ...identity, ...more }, { type: 'market', quantity, lifetime: { kind: 'day' } }), acknowledged: 'accepted' };
    const booked = bookFill(this.book, of, { side, price, quantity, fee, product: 'overnight', time });
    const before = this.book;
    this.book = booked.book;
    const fill: Fill = {
      id: `f${seq}`,
      seq,
      time,
      orderId: order.id,
      clientOrderId: order.clientOrderId,
      account: 'MAIN',
      instrument: of.id,
      side,
      role: 'entry',
      quantity,
      price,
      fee,
      realised: booked.realised,
      liquidity: 'removed',
      orderQuantity: quantity,
      filledQuantity: quantity,
      averagePrice: '0',
    };
    this.fills.push(fill);
    const working: Working = { order, madeBy: seq, askedBy: seq, turnover: 0n, claims: [] };
    const touched: Touched = { orders: [working], fills: [fill], positions: [of.id], asked: null, plans: [], risk: false };
    const data = { kind: 'note', what: 'fill' } as const;
    const entry: Entry = {
      seq,
      time,
      account: 'MAIN',
      by: 'venue',
      instrument: of.id,
      orderId: order.id,
      causedBy: null,
      text: '',
      data,
      history: null,
      hash: '',
    };
    this.trips.take(entry, touched, this.state);
    this.lots.take(entry, touched);
    this.state.book = this.book;
    this.cash.take(entry, touched, before, this.state);
  }

  /** Closes what is open, so that everything counts. */
  flatten(): void {
    for (const id of IDS) {
      const held = this.book.positions[id]?.quantity ?? 0;
      const last = this.fills.filter((fill) => fill.instrument === id).at(-1);
      if (held !== 0 && last)
        this.take({ instrument: instrument(id), side: held > 0 ? 'sell' : 'buy', price: last.price, quantity: Math.abs(held), fee: 3, setup: null });
    }
  }
}

const steps = fc.array(
  fc.record({
    instrument: fc.constantFrom(...IDS).map((id) => instrument(id)),
    side: fc.constantFrom<Side>('buy', 'sell'),
    price: fc.integer({ min: 3900, max: 4300 }),
    quantity: fc.integer({ min: 1, max: 40 }),
    fee: fc.integer({ min: 0, max: 999 }),
    setup: fc.constantFrom('a', 'b', null),
  }),
  { minLength: 1, maxLength: 40 },
);

const sum = (values: readonly Money[]): Money => values.reduce((total, value) => plus(total, value), moneyOf(0n));
const fed = (of: readonly Step[]): Followed => {
  const followed = new Followed();
  for (const step of of) followed.take(step);
  return followed;
};
const trip = (of: Partial<RoundTrip> & Pick<RoundTrip, 'fills'>): RoundTrip => ({
  id: 'f1',
  account: 'MAIN',
  instrument: 'GANET.HALM',
  product: 'overnight',
  long: true,
  setup: null,
  openedAt: 0,
  closedAt: 100,
  quantity: asQuantity(100),
  entered: money('4100'),
  leftQuantity: asQuantity(100),
  left: money('4150'),
  gross: money('50'),
  fees: money('8.25'),
  firstRisk: null,
  ...of,
});
const part = (time: number, side: Side, price: number, intended: number | null = null, bySomeTrade = false) => ({
  fillId: `f${time}`,
  orderId: `o${time}`,
  time,
  side,
  price: asPrice(price),
  quantity: asQuantity(100),
  intended: intended === null ? null : asPrice(intended),
  bySomeTrade,
});

describe('round trips', () => {
  it('make what the fills made, less all fees, whatever is scaled and turned round', () => {
    fc.assert(
      fc.property(steps, (of) => {
        const followed = fed(of);
        followed.flatten();
        for (const id of IDS) {
          const fills = followed.fills.filter((fill) => fill.instrument === id);
          const trips = followed.trips.closed.filter((one) => one.instrument === id);
          const made = minus(sum(fills.map(({ realised }) => realised)), sum(fills.map(({ fee }) => fee)));
          expect(sum(trips.map(netOf))).to.equal(made);
          // By units: what went in came out, and a fill through zero is in two of them.
          for (const one of trips) expect(one.quantity).to.equal(one.leftQuantity);
          const units = trips.reduce((total, one) => total + one.quantity + one.leftQuantity, 0);
          expect(units).to.equal(fills.reduce((total, { quantity }) => total + quantity, 0));
        }
      }),
      { numRuns: RUNS },
    );
  });

  it('are cut wherever the position is flat or turns, counted one unit after the other', () => {
    fc.assert(
      fc.property(steps, (of) => {
        const followed = fed(of);
        let ends = 0;
        for (const id of IDS) {
          let held = 0;
          for (const { instrument: one, side, quantity } of of)
            if (one.id === id)
              for (let unit = 0; unit < quantity; unit++) {
                held += side === 'buy' ? 1 : -1;
                if (held === 0) ends++;
              }
        }
        expect(followed.trips.closed.length).to.equal(ends);
      }),
      { numRuns: RUNS },
    );
  });

  it('are of the first setup that an entry had', () => {
    const G = instrument('GANET.HALM');
    const enter = { instrument: G, side: 'buy', price: 4100, quantity: 10, fee: 200 } as const;
    const { trips } = fed([
      { ...enter, setup: null },
      { ...enter, setup: 'dip' },
      { ...enter, setup: 'late' },
      { ...enter, side: 'sell', quantity: 30, setup: 'out' },
    ]);
    expect(trips.closed.map(({ setup }) => setup)).to.deep.equal(['dip']);
  });
});

describe('lots', () => {
  it('make the same by either method once all is closed, and by the average what each fill realised', () => {
    fc.assert(
      fc.property(steps, (of) => {
        const followed = fed(of);
        followed.flatten();
        for (const id of IDS) {
          const made = sum(followed.trips.closed.filter((one) => one.instrument === id).map(netOf));
          for (const method of ['fifo', 'average'] as const)
            expect(sum(followed.lots.closed[method].filter((lot) => lot.instrument === id).map(({ result }) => result))).to.equal(made);
          const gross = followed.lots.closed.average.filter((lot) => lot.instrument === id).map(({ result, fees }) => plus(result, fees));
          const closings = followed.fills.filter((fill) => fill.instrument === id).map(({ realised }) => realised);
          expect(sum(gross)).to.equal(sum(closings));
        }
      }),
      { numRuns: RUNS },
    );
  });

  it('close the oldest first', () => {
    const G = instrument('GANET.HALM');
    const step = (side: Side, quantity: number, price: number, fee: number): Step => ({ instrument: G, side, price, quantity, fee, setup: null });
    const { lots } = fed([step('buy', 100, 4000, 400), step('buy', 200, 4100, 820), step('sell', 150, 4200, 630)]);
    const said = lots.closed.fifo.map(({ quantity, fees, result }) => [quantity, formatMoney(fees, 'EUR'), formatMoney(result, 'EUR')]);
    expect(said).to.deep.equal([[100, '8.20', '191.80'], [50, '4.15', '45.85']]); // prettier-ignore
    expect(lots.closed.average.map(({ result }) => formatMoney(result, 'EUR'))).to.deep.equal(['187.60']);
  });
});

describe('a statement', () => {
  it('chains, and ends with the cash there is', () => {
    fc.assert(
      fc.property(steps, (of) => {
        const followed = fed(of.filter(({ instrument: { kind } }) => kind !== 'inverse'));
        const today = parseDay('2026-03-02');
        const days = statement(
          MAIN,
          [today - 1, today, today + 1],
          followed.cash.movements.filter(({ purpose }) => purpose === 'cash'),
          followed.cash.openedWith('EUR', 'cash'),
        );
        for (const { opening, movements, closing } of days) expect(plus(opening, ...movements.map(({ amount }) => amount))).to.equal(closing);
        expect(days.slice(1).map(({ opening }) => opening)).to.deep.equal(days.slice(0, -1).map(({ closing }) => closing));
        expect(days.at(-1)?.closing).to.equal(followed.book.cash);
        expect(days[0]?.opening).to.equal(MAIN.cash);
      }),
      { numRuns: RUNS },
    );
  });
});

describe('figures', () => {
  const counted = fc.array(
    fc.record({
      cents: fc.integer({ min: -50_000, max: 50_000 }),
      fee: fc.integer({ min: 0, max: 900 }),
      r: fc.option(fc.bigInt({ min: -500_000_000n, max: 500_000_000n })),
      minute: fc.integer({ min: 0, max: 60 * 24 * 40 }),
      of: fc.constantFrom(...IDS),
      setup: fc.constantFrom('a', 'b', null),
      long: fc.boolean(),
    }),
    { maxLength: 30 },
  );
  const tripsOf = (
    made: readonly { cents: number; fee: number; r: bigint | null; minute: number; of: string; setup: string | null; long: boolean }[],
  ): CountedTrip[] =>
    made
      .map(({ cents, fee, r, minute, of, setup, long }) => {
        const net = moneyOf(BigInt(cents) * 1_000_000n);
        const fees = moneyOf(BigInt(fee) * 1_000_000n);
        return {
          instrument: instrument(of),
          account: 'MAIN',
          setup,
          long,
          closedAt: NOON + minute * 60_000,
          heldSeconds: minute,
          quantity: '1',
          gross: plus(net, fees),
          fees,
          net,
          r,
        };
      })
      .sort((a, b) => a.closedAt - b.closedAt);

  it('are what counting them by hand gives', () => {
    fc.assert(
      fc.property(counted, fc.integer({ min: 1, max: 60 }), (made, days) => {
        const trips = tripsOf(made);
        const seen = figuresOf(trips, days);
        const wins = trips.filter(({ net }) => net > 0n);
        const losses = trips.filter(({ net }) => net < 0n);
        expect([seen.count, seen.wins, seen.losses, seen.flat]).to.deep.equal([
          trips.length,
          wins.length,
          losses.length,
          trips.length - wins.length - losses.length,
        ]);
        const net = sum(trips.map((one) => one.net));
        expect([seen.net, seen.gross, seen.fees]).to.deep.equal([net, sum(trips.map(({ gross }) => gross)), sum(trips.map(({ fees }) => fees))]);
        expect(seen.perDay).to.equal(divideHalfEven(net, BigInt(days)));
        // The largest fall from any earlier point of the curve, 0 being the first, to a later one.
        const curve = [moneyOf(0n), ...trips.map((_, i) => sum(trips.slice(0, i + 1).map((one) => one.net)))];
        let fall = 0n;
        for (let high = 0; high < curve.length; high++)
          for (let low = high; low < curve.length; low++) if ((curve[high] ?? 0n) - (curve[low] ?? 0n) > fall) fall = (curve[high] ?? 0n) - (curve[low] ?? 0n);
        expect(seen.drawdown).to.equal(fall);
        const run = (is: (one: CountedTrip) => boolean): number => Math.max(0, ...trips.map((_, i) => { let n = 0; while (i + n < trips.length && is(trips[i + n] as CountedTrip)) n++; return n; })); // prettier-ignore
        expect([seen.winStreak, seen.lossStreak]).to.deep.equal([run(({ net: made }) => made > 0n), run(({ net: made }) => made < 0n)]);
        const lost = sum(losses.map((one) => one.net));
        expect(seen.profitFactor).to.equal(losses.length === 0 ? null : divideHalfEven(sum(wins.map((one) => one.net)) * 100_000_000n, 0n - lost));
        const withR = trips.flatMap(({ r }) => (r === null ? [] : [r]));
        expect(seen.expectancyR).to.equal(withR.length === 0 ? null : divideHalfEven(withR.reduce((a, b) => a + b, 0n), BigInt(withR.length))); // prettier-ignore
      }),
      { numRuns: RUNS },
    );
  });

  it('are drawn as a curve that with fewer points keeps its ends, its high and its low', () => {
    fc.assert(
      fc.property(counted, fc.integer({ min: 4, max: 40 }), (made, most) => {
        const trips = tripsOf(made);
        const whole = trips.map(({ closedAt }, i) => ({ time: closedAt, net: sum(trips.slice(0, i + 1).map(({ net }) => net)) }));
        const curve = curveOf(trips, most);
        expect(curve.length).to.be.at.most(Math.min(most, trips.length));
        if (trips.length <= most) {
          expect(curve).to.deep.equal(whole);
          return;
        }
        const places = curve.map((point) => whole.findIndex(({ time, net }) => time === point.time && net === point.net));
        expect(places.every((place) => place >= 0)).to.equal(true);
        expect([curve[0], curve[curve.length - 1]]).to.deep.equal([whole[0], whole[whole.length - 1]]);
        const nets = (points: typeof whole): bigint[] => points.map(({ net }) => net).sort((a, b) => Number(a - b));
        expect([nets(curve)[0], nets(curve).at(-1)]).to.deep.equal([nets(whole)[0], nets(whole).at(-1)]);
      }),
      { numRuns: RUNS },
    );
  });

  it('of groups part the whole, by every grouping', () => {
    fc.assert(
      fc.property(counted, fc.constantFrom(...GROUPINGS), (made, by) => {
        const trips = tripsOf(made);
        const groups = grouped(trips, by);
        expect(groups.flatMap((group) => group.trips).sort((a, b) => a.closedAt - b.closedAt || trips.indexOf(a) - trips.indexOf(b))).to.deep.equal(trips);
        expect(new Set(groups.map(({ key }) => key)).size).to.equal(groups.length);
        expect(sum(groups.map((group) => figuresOf(group.trips, 1).net))).to.equal(figuresOf(trips, 1).net);
      }),
      { numRuns: 300 },
    );
  });

  it('group by the exchange’s own day and hour: Saturday is Friday’s, summer time an hour on', () => {
    const one = (time: string, of = 'GANET.HALM'): CountedTrip => ({ ...(tripsOf([{ cents: 1, fee: 0, r: null, minute: 0, of, setup: null, long: true }])[0] as CountedTrip), closedAt: Date.parse(time) }); // prettier-ignore
    const key = (trip: CountedTrip, by: (typeof GROUPINGS)[number]): string | undefined => grouped([trip], by)[0]?.key;
    expect(key(one('2026-03-07T12:00:00.000Z'), 'day')).to.equal('2026-03-06');
    expect(key(one('2026-03-07T12:00:00.000Z', 'CARBI.VSPR'), 'weekday')).to.equal('sat');
    expect(key(one('2026-03-30T09:30:00.000Z'), 'hour')).to.equal('10');
    expect(key(one('2026-03-30T09:30:00.000Z', 'CARBI.VSPR'), 'hour')).to.equal('09');
    expect(key(one('2026-03-05T12:00:00.000Z'), 'week')).to.equal('2026-03-02');
    expect(formatDay(parseDay('2026-03-02'))).to.equal('2026-03-02');
  });
});

describe('excursions and slippage', () => {
  const G = instrument('GANET.HALM');
  const show = ({ mae, mfe }: { mae: Money; mfe: Money }) => [formatMoney(mae, 'EUR'), formatMoney(mfe, 'EUR')];
  const trades = (...of: [number, number][]) => of.map(([time, price]) => ({ time, price: asPrice(price) }));

  it('are the worst and best it stood at while it was open', () => {
    // 100 at 41.00: 40.70 is −30, 41.90 is +90; before and after nothing counts.
    const one = trip({ openedAt: 10, fills: [part(10, 'buy', 4100), part(100, 'sell', 4150)] });
    expect(show(excursions(G, one, trades([10, 3000], [20, 4070], [30, 4190], [100, 4150], [101, 9000])))).to.deep.equal(['-30.00', '90.00']);
  });

  it('count a trade that brought a fill about after that fill', () => {
    const bid = trip({ openedAt: 10, fills: [part(10, 'buy', 4100, 4100, true), part(100, 'sell', 4150)] });
    expect(show(excursions(G, bid, trades([10, 4080], [50, 4150])))).to.deep.equal(['-20.00', '50.00']);
  });

  it('never are on the wrong side of nothing', () => {
    const one = trip({ fills: [part(0, 'buy', 4100), part(100, 'sell', 4150)] });
    expect(show(excursions(G, one, []))).to.deep.equal(['0.00', '50.00']);
  });

  it('what fills cost against what was meant: positive is cost', () => {
    // Bought at 41.02 where 41.00 was asked, a stop at 40.50 sold at 40.45.
    const one = trip({ fills: [part(0, 'buy', 4102), part(100, 'sell', 4045, 4050)] });
    const cost = (asked: number | null) => slippage(G, one, () => (asked === null ? null : asPrice(asked)));
    expect(formatMoney(cost(4100) ?? moneyOf(-1n), 'EUR')).to.equal('7.00');
    expect(cost(null)).to.equal(null);
  });
});

describe('shares of a whole', () => {
  it('sum to 100.00, however many there are', () => {
    fc.assert(
      fc.property(fc.array(fc.bigInt({ min: 1n, max: 10n ** 12n }), { minLength: 1, maxLength: 40 }), (values) => {
        const shares = sharesOf(values.map((value, i) => ({ key: `k${i}`, value: moneyOf(value) })));
        expect(shares.reduce((total, { percent }) => total + percent, 0n)).to.equal(10_000n);
        const total = values.reduce((a, b) => a + b, 0n);
        for (const { value, percent } of shares) expect(Math.abs(Number(percent) - (Number(value) / Number(total)) * 10_000)).to.be.lessThan(1.01);
      }),
      { numRuns: RUNS },
    );
  });

  it('give what is left to the largest remainders, ties by key', () => {
    const thirds = sharesOf(['b', 'a', 'c'].map((key) => ({ key, value: money('300') })));
    expect(thirds.map(({ key, percent }) => [key, percent])).to.deep.equal([['a', 3334n], ['b', 3333n], ['c', 3333n]]); // prettier-ignore
    expect(sharesOf([])).to.deep.equal([]);
  });
});

describe('the question of a day', () => {
  const trip = (opened: string, closed: string, net: string, more: Partial<AskedTrip> = {}): AskedTrip => ({
    instrument: instrument('GANET.HALM'),
    setup: null,
    openedAt: at(`${opened}:00.000`),
    closedAt: at(`${closed}:00.000`),
    gross: money(net),
    fees: money('0'),
    net: money(net),
    ...more,
  });

  it('is none without round trips', () => {
    expect(questionOf([])).to.equal(null);
  });

  it('is of the first minutes where most losers were begun in them', () => {
    const trips = [
      trip('09:02', '09:05', '-10'),
      trip('09:04', '09:30', '-20'),
      trip('09:09', '11:00', '-5'),
      trip('10:00', '10:10', '-9'),
      trip('12:00', '12:30', '-1'),
    ];
    expect(questionOf(trips)).to.equal('Three of five losers were in the first 10 minutes. What will you change?');
    // Two of four are not most of them.
    expect(questionOf([trips[0] as AskedTrip, trips[1] as AskedTrip, trips[3] as AskedTrip, trips[4] as AskedTrip])).not.to.contain('first 10 minutes');
  });

  it('is of what was begun right after a loss', () => {
    const trips = [trip('10:00', '10:10', '-10'), trip('10:12', '10:20', '-12'), trip('10:24', '10:40', '-11'), trip('14:00', '15:00', '50')];
    expect(questionOf(trips)).to.equal('Two of two trades begun within 5 minutes of a loss lost as well. What will you do after the next loss?');
  });

  it('is of the one loss that was more than half of all', () => {
    const trips = [trip('10:00', '11:00', '-10'), trip('12:00', '12:10', '-90'), trip('13:00', '13:10', '-12')];
    expect(questionOf(trips)).to.equal('One loss, 90.00 in GANET, is more than half of all that was lost. What let it grow?');
  });

  it('is of a setup that only lost, of costs, of what won, or of the losers', () => {
    const pair = { setup: 'Pair' };
    const lost = [trip('10:00', '10:10', '-10', pair), trip('11:00', '11:10', '-10', pair), trip('12:00', '12:10', '-10', pair)];
    expect(questionOf(lost)).to.equal('All three trades of Pair lost. What did they have in common?');
    const dear = trip('10:00', '10:10', '-2', { gross: money('8'), fees: money('10') });
    expect(questionOf([dear])).to.equal('Before costs it made 8.00; costs took 10.00. Which trades were not worth their costs?');
    expect(questionOf([trip('10:00', '10:10', '5'), trip('11:00', '11:10', '5'), trip('12:00', '12:10', '-1')])).to.equal(
      'Two of three won. What will you do again?',
    );
    expect(questionOf([trip('10:00', '10:10', '-5')])).to.equal('Would you take the loser again?');
  });
});
