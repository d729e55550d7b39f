import { expect } from 'chai';
import fc from 'fast-check';
import {
  cutFromLast,
  evenPrice,
  exitPlanText,
  hasGained,
  legPrice,
  readExitPlan,
  shareOut,
  type Distance,
  type ExitPlanText,
  type LegName,
  type Reference,
} from '../../src/core/exits/index.ts';
import { asQuantity, formatPrice, parsePrice, parseQuantity, type Instrument } from '../../src/core/instrument/index.ts';
import { money } from '../../src/core/number/index.ts';
import { valueAt } from '../../src/core/portfolio/index.ts';
import { instrument } from '../support/world.ts';

const GANET = 'GANET.HALM';
const KELPA = 'KELPA.HALM';
const FUTURE = 'SALMO-JUN26.HALM';
const INVERSE = 'CARBI.VSPR';

/** A reference that was bought at these prices: `100@41.20 50@41.22`. */
function boughtAt(of: Instrument, fills: string): Reference {
  let quantity = 0;
  let cost = 0n;
  for (const fill of fills.split(' ')) {
    const [size = '', price = ''] = fill.split('@');
    const units = parseQuantity(of, size) ?? asQuantity(0);
    quantity += units;
    cost += valueAt(of, units, parsePrice(of, price) as never);
  }
  return { quantity: asQuantity(quantity), cost: cost as Reference['cost'] };
}

const ticks = (n: number): Distance => ({ by: 'ticks', ticks: n });
const percent = (n: number): Distance => ({ by: 'percent', percent: BigInt(Math.round(n * 1e8)) });
const sum = (text: string): Distance => ({ by: 'money', value: money(text) });

describe('the price of an exit', () => {
  const cases: readonly [why: string, id: string, fills: string, long: boolean, leg: LegName, distance: Distance, quantity: string, price: string | null][] = [
    ['ticks from the average, up for a long', GANET, '100@41.22 100@41.24 50@41.26', true, 'stop', ticks(10), '250', '41.14'],
    ['its target up too', GANET, '100@41.22 100@41.24 50@41.26', true, 'target', ticks(20), '250', '41.44'],
    ['down for a short', GANET, '100@41.22 100@41.24 50@41.26', false, 'stop', ticks(10), '250', '41.33'],
    ['its target down too', GANET, '100@41.22 100@41.24 50@41.26', false, 'target', ticks(20), '250', '41.03'],
    ['ticks of the band of the average, on the grid of where they lead', KELPA, '100@9.990', true, 'target', ticks(3), '100', '10.010'],
    ['percent of the exact average', KELPA, '100@9.990', true, 'stop', percent(1), '100', '9.895'],
    ['money for the step’s quantity', GANET, '100@41.22', true, 'stop', sum('10'), '30', '40.89'],
    ['money times the multiplier', FUTURE, '2@7.10', true, 'stop', sum('100'), '2', '7.00'],
    ['a stop is a tick away at least', GANET, '100@41.22', true, 'stop', percent(0.001), '100', '41.21'],
    ['a tick below the grid price below an average off the grid', GANET, '100@41.22 100@41.23', true, 'stop', percent(0.001), '200', '41.21'],
    ['nothing is below zero', GANET, '100@41.22', true, 'stop', ticks(5000), '100', null],
    // 1,000 at 60 cost 16.66666667; half a unit of base less is 1,000 ÷ 17.16666667 = 58.2524…, up.
    ['an inverse contract by its own formula', INVERSE, '1000@60', true, 'stop', sum('0.5'), '1000', '58.30'],
    // 1,000 ÷ 16.16666667 = 61.8556…, up.
    ['and its target', INVERSE, '1000@60', true, 'target', sum('0.5'), '1000', '61.90'],
    ['that can’t gain more than it is worth', INVERSE, '1000@60', true, 'target', sum('17'), '1000', null],
  ];
  for (const [why, id, fills, long, leg, distance, quantity, price] of cases)
    it(why, () => {
      const of = instrument(id);
      const found = legPrice(of, long, leg, distance, boughtAt(of, fills), parseQuantity(of, quantity) as never);
      expect(found && formatPrice(of, found)).to.equal(price);
    });

  it('never loses more and never makes less than was said', () => {
    const of = instrument(GANET);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 3000, max: 5000 })), { minLength: 1, maxLength: 5 }),
        fc.boolean(),
        fc.constantFrom<LegName>('stop', 'target'),
        fc.integer({ min: 1, max: 900 }),
        (fills, long, leg, cents) => {
          const reference = boughtAt(of, fills.map(([q, p]) => `${q}@${(p / 100).toFixed(2)}`).join(' '));
          const said = money((cents / 10).toFixed(2));
          const price = legPrice(of, long, leg, { by: 'money', value: said }, reference, reference.quantity);
          if (price === null) return;
          const brought = valueAt(of, reference.quantity, price);
          const gain = long ? brought - reference.cost : reference.cost - brought;
          if (leg === 'target') expect(gain >= said).to.equal(true);
          // A tick away at least, which may be more than was said.
          else expect(-gain <= said || -gain <= valueAt(of, reference.quantity, 2 as never)).to.equal(true);
        },
      ),
    );
  });

  it('comes out even, and knows a gain when it is there to the last unit', () => {
    const of = instrument(GANET);
    const reference = boughtAt(of, '100@41.22 100@41.24 50@41.26');
    expect([true, false].map((long) => formatPrice(of, evenPrice(of, long, reference, 2)))).to.deep.equal(['41.26', '41.21']);
    const gained = (price: string): boolean => hasGained(of, true, ticks(10), reference, reference.quantity, parsePrice(of, price) as never);
    expect(['41.33', '41.34'].map(gained)).to.deep.equal([false, true]);
  });
});

describe('the shares of a plan', () => {
  it('are floors, and the last takes the rest', () => {
    const of = (quantity: number, ...shares: number[]) =>
      shareOut(
        asQuantity(quantity),
        shares.map((one) => BigInt(Math.round(one * 1e8))),
      );
    expect(of(101, 50, 50)).to.deep.equal([50, 51]);
    expect(of(7, 50, 30, 20)).to.deep.equal([3, 2, 2]);
    expect(of(67, 50, 30, 20)).to.deep.equal([33, 20, 14]);
    expect(of(75, 30, 20)).to.deep.equal([45, 30]);
    expect(of(1, 50, 50)).to.deep.equal([0, 1]);
  });

  it('always sum to the quantity, whatever it is', () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.array(fc.integer({ min: 1, max: 10_000 }), { minLength: 1, maxLength: 5 }), (quantity, shares) => {
        const parts = shareOut(asQuantity(quantity), shares.map(BigInt));
        expect(parts.reduce<number>((total, part) => total + part, 0)).to.equal(quantity);
        expect(Math.min(...parts)).to.be.at.least(0);
      }),
    );
  });

  it('are cut from the last one back', () => {
    expect(cutFromLast([30, 20].map(asQuantity), asQuantity(15))).to.deep.equal([15, 0]);
    expect(cutFromLast([50, 30, 20].map(asQuantity), asQuantity(85))).to.deep.equal([50, 30, 5]);
  });
});

describe('a plan as it is written', () => {
  const leg = { by: 'ticks', value: '10', order: 'market' } as const;
  const plan = (more: Partial<ExitPlanText>): ExitPlanText => ({
    heldBy: 'venue',
    onSizeChange: 'follow',
    onMissedLevel: 'fire',
    steps: [{ share: '100', stop: leg }],
    ...more,
  });
  const paths = (more: Partial<ExitPlanText>): string[] => {
    const read = readExitPlan(plan(more));
    return read.ok ? [] : read.refusal.map(({ path }) => path);
  };

  const wrong: readonly [why: string, more: Partial<ExitPlanText>, paths: readonly string[]][] = [
    ['shares that sum to 90', { steps: ['50', '40'].map((share) => ({ share, stop: leg })) }, ['/steps']],
    ['a step with nothing', { steps: [{ share: '100' }] }, ['/steps/0']],
    ['a share of nothing', { steps: ['0', '100'].map((share) => ({ share, stop: leg })) }, ['/steps/0/share']],
    ['a distance of nothing', { steps: [{ share: '100', stop: { ...leg, value: '0' } }] }, ['/steps/0/stop/value']],
    ['half a tick', { steps: [{ share: '100', stop: { ...leg, value: '1.5' } }] }, ['/steps/0/stop/value']],
    ['a stop that loses all', { steps: [{ share: '100', stop: { ...leg, by: 'percent', value: '100' } }] }, ['/steps/0/stop/value']],
    ['an offset without a limit', { steps: [{ share: '100', stop: { ...leg, limitOffsetTicks: 2 } }] }, ['/steps/0/stop/limitOffsetTicks']],
    ['a market target at the venue', { steps: [{ share: '100', target: leg }] }, ['/steps/0/target/order']],
    [
      'a target that trails at the venue',
      { steps: [{ share: '100', target: { ...leg, order: 'limit', trail: { unit: 'ticks', value: '5' } } }] },
      ['/steps/0/target/trail'],
    ],
    [
      'an adjusted target',
      { heldBy: 'here', steps: [{ share: '100', target: { ...leg, adjust: [{ kind: 'break-even', afterGain: { by: 'ticks', value: '1' }, plusTicks: 0 }] } }] },
      ['/steps/0/target/adjust'],
    ],
  ];
  for (const [why, more, where] of wrong) it(`refuses ${why}`, () => expect(paths(more)).to.deep.equal(where));

  it('is told as it is read back', () => {
    const whole = plan({
      name: 'thirds',
      heldBy: 'here',
      steps: [
        {
          share: '33.33',
          stop: { ...leg, order: 'limit', limitOffsetTicks: 3, trail: { unit: 'percent', value: '1.5' } },
          target: { ...leg, by: 'money', value: '12.50' },
        },
        {
          share: '66.67',
          stop: {
            by: 'price',
            value: '41.20',
            order: 'market',
            adjust: [{ kind: 'trail', afterGain: { by: 'percent', value: '0.5' }, distance: { unit: 'money', value: '20' }, incrementTicks: 2 }],
          },
        },
      ],
    });
    const read = readExitPlan(whole);
    if (!read.ok) throw new Error(JSON.stringify(read.refusal));
    const again = readExitPlan(exitPlanText(read.value));
    expect(again.ok && again.value).to.deep.equal(read.value);
  });
});
