import { expect } from 'chai';
import { asPrice, asQuantity, type Instrument } from '../../src/core/instrument/index.ts';
import { moneyOf } from '../../src/core/number/index.ts';
import { usesOn, type MeasuredUse, type UsedTrip } from '../../src/core/review/index.ts';
import { NO_RULES, readRules, type RiskRules, type RulesText } from '../../src/core/risk/index.ts';

const GANET = { id: 'GANET.HALM', venue: 'HALM', kind: 'share', quantityDecimals: 0 } as Instrument;
const FJORD = { id: 'FJORD.VSPR', venue: 'VSPR', kind: 'spot', quantityDecimals: 4 } as Instrument;
const DAY_MS = 86_400_000;
const within = (time: number): boolean => time >= DAY_MS && time < 2 * DAY_MS;

/** A round trip of so many euros, filled at moments of the second day; a negative one lies before it. */
function trip(instrument: Instrument, euros: number, ...fills: readonly (readonly [minute: number, signed: number])[]): UsedTrip {
  const all = fills.map(([minute, signed], i) => ({
    fillId: `${i}`,
    orderId: `${i}`,
    time: DAY_MS + minute * 60_000,
    side: signed > 0 ? ('buy' as const) : ('sell' as const),
    price: asPrice(1),
    quantity: asQuantity(Math.abs(signed)),
    intended: null,
    bySomeTrade: false,
  }));
  return { instrument, closedAt: all.at(-1)?.time ?? 0, net: moneyOf(BigInt(euros) * 10n ** 8n), trip: { fills: all } };
}
function rules(text: Partial<RulesText>): RiskRules {
  const read = readRules(text);
  return read.ok ? read.value : NO_RULES;
}

describe('the use of rules on a day', () => {
  it('tells nothing of a rule that is not set', () => {
    expect(usesOn(within, [trip(GANET, -5, [1, 100], [2, -100])], [], NO_RULES)).to.deep.equal([]);
  });

  it('measures losses by how low the day ran, of the account and of the worst instrument', () => {
    const trips = [trip(GANET, -30, [1, 10], [2, -10]), trip(FJORD, 50, [3, 10_000], [4, -10_000]), trip(GANET, -10, [5, 10], [6, -10])];
    const set = rules({ dayLossLimit: '100', instrumentLossLimit: '60' });
    expect(usesOn(within, trips, [], set)).to.deep.equal([
      { rule: 'dayLossLimit', of: null, used: '30.00', most: '100.00' },
      { rule: 'instrumentLossLimit', of: 'GANET.HALM', used: '40.00', most: '60.00' },
    ]);
    const won = usesOn(within, [trip(GANET, 7, [1, 10], [2, -10])], [], set);
    expect(
      won.map(({ of, used }) => [of, used]),
      'a day that lost nothing',
    ).to.deep.equal([
      [null, '0.00'],
      [null, '0.00'],
    ]);
  });

  it('counts units and positions by what was filled that day, whenever the round trip began and ended', () => {
    const trips = [trip(GANET, -1, [-5, 300], [1, -100], [2, 250], [3, -450]), trip(FJORD, 1, [4, 25_000], [5, -25_000])];
    expect(usesOn(within, trips, [], rules({ dayQuantityCap: { share: '1000', spot: '4' }, maxPositionQuantity: '500' }))).to.deep.equal([
      { rule: 'dayQuantityCap', of: 'share', used: '800', most: '1000' },
      { rule: 'dayQuantityCap', of: 'spot', used: '5', most: '4' },
      { rule: 'maxPositionQuantity', of: 'GANET.HALM', used: '450', most: '500' },
    ]);
  });

  it('counts the longest row of losers, which zero and more end; losses of another day count nothing', () => {
    const of = (...euros: number[]): UsedTrip[] => euros.map((one, i) => trip(GANET, one, [2 * i, 1], [2 * i + 1, -1]));
    const set = rules({ coolDownMinutes: 10, coolDownAfterLosses: 4 });
    expect(usesOn(within, of(-1, -1, 0, -1, -2, -3, 4), [], set)).to.deep.equal([{ rule: 'coolDown', of: null, used: '3', most: '4' }]);
    expect(usesOn(within, [trip(GANET, -1, [-9, 1], [-8, -1])], [], set)[0]?.used).to.equal('0');
  });

  it('tells of single orders the one that used the largest share, by what the rule was then', () => {
    const use = (rule: MeasuredUse['rule'], used: number, most: number, instrument: string | null = GANET.id): MeasuredUse => ({
      rule,
      used: BigInt(Math.round(used * 1e8)),
      most: BigInt(Math.round(most * 1e8)),
      instrument,
    });
    const orders = [
      use('maxDistancePercent', 1.255, 3),
      use('openRisk', 40, 200),
      // A larger sum, but a smaller share of what was left then.
      use('openRisk', 60, 400),
      use('maxOrderQuantity', 300, 1000),
      use('maxOrderQuantity', 0.25, 0.5, FJORD.id),
      use('maxOrdersPerMinute', 4, 6, null),
      use('maxOrdersPerMinute', 2, 6, null),
    ];
    expect(usesOn(within, [], orders, NO_RULES)).to.deep.equal([
      { rule: 'maxOrderQuantity', of: 'FJORD.VSPR', used: '0.25', most: '0.5' },
      { rule: 'maxDistancePercent', of: 'GANET.HALM', used: '1.25', most: '3.00' },
      { rule: 'maxOrdersPerMinute', of: null, used: '4', most: '6' },
      { rule: 'openRisk', of: 'GANET.HALM', used: '40.00', most: '200.00' },
    ]);
  });
});
