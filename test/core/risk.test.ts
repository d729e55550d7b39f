import { createHash } from 'node:crypto';
import { expect } from 'chai';
import fc from 'fast-check';
import { sha256 } from '../../src/core/sha256.ts';
import {
  NO_RULES,
  RULE_NAMES,
  chained,
  isIntact,
  isLooser,
  isTighter,
  minutesCovered,
  newRiskState,
  nextBound,
  nextWindow,
  readRules,
  rulesText,
  takenWithin,
  tighterOf,
  windowAt,
  withRule,
  withTaken,
  type RiskRules,
  type RuleName,
  type RulesText,
  type TradeWindow,
} from '../../src/core/risk/index.ts';

const rules = (text: Partial<RulesText>): RiskRules => {
  const read = readRules(text);
  if (!read.ok) throw new Error(JSON.stringify(read.refusal));
  return read.value;
};
const LIMITED = { dayLossLimit: '300', instrumentLossLimit: '100' } as const;

describe('which of two rules is looser', () => {
  /** Each from its loosest to its tightest. */
  const ladders: readonly [RuleName, readonly Partial<RulesText>[]][] = [
    ['dayLossLimit', [{}, { dayLossLimit: '301' }, { dayLossLimit: '300' }]],
    ['onDayLoss', [{}, { ...LIMITED, onDayLoss: 'block' }, { ...LIMITED, onDayLoss: 'close-out' }]],
    ['instrumentLossLimit', [{}, { instrumentLossLimit: '100.01' }, { instrumentLossLimit: '100' }]],
    ['onInstrumentLoss', [{}, { ...LIMITED, onInstrumentLoss: 'block' }, { ...LIMITED, onInstrumentLoss: 'close-out' }]],
    ['dayQuantityCap', [{}, { dayQuantityCap: { share: '10' } }, { dayQuantityCap: { share: '9' } }, { dayQuantityCap: { share: '9', future: '1' } }]],
    [
      'noTradeWindows',
      [
        {},
        { noTradeWindows: [{ from: '12:00', to: '13:00', days: ['mon'] }] },
        { noTradeWindows: [{ from: '12:00', to: '13:00' }] },
        { noTradeWindows: [{ from: '11:59', to: '13:00' }] },
      ],
    ],
    ['maxOrderQuantity', [{}, { maxOrderQuantity: '2' }, { maxOrderQuantity: '1' }]],
    ['maxOrderValue', [{}, { maxOrderValue: '2' }, { maxOrderValue: '1' }]],
    ['maxDistancePercent', [{}, { maxDistancePercent: '2' }, { maxDistancePercent: '1.99' }]],
    ['maxOrdersPerMinute', [{}, { maxOrdersPerMinute: 2 }, { maxOrdersPerMinute: 1 }]],
    ['maxPositionQuantity', [{}, { maxPositionQuantity: '2' }, { maxPositionQuantity: '1' }]],
    ['coolDownMinutes', [{}, { coolDownMinutes: 5 }, { coolDownMinutes: 6 }]],
    ['coolDownAfterLosses', [{}, { coolDownAfterLosses: 4 }, { coolDownAfterLosses: 3 }]],
    ['openRisk', [{}, { openRisk: 'warn' }, { openRisk: 'refuse' }]],
  ];
  it('is told for every rule', () => expect(ladders.map(([name]) => name).sort()).to.deep.equal([...RULE_NAMES].sort()));
  for (const [name, steps] of ladders)
    it(`of ${name}, every pair`, () => {
      for (const [i, from] of steps.entries())
        for (const [j, to] of steps.entries()) {
          const [a, b] = [rules(from), rules(to)];
          expect([isLooser(name, a, b), isTighter(name, a, b)], `${i} to ${j}`).to.deep.equal([j < i, j > i]);
          const tight = withRule(a, name, tighterOf(name, a, b));
          expect([isLooser(name, a, tight), isLooser(name, b, tight)], `${i} and ${j}`).to.deep.equal([false, false]);
        }
    });

  it('windows and caps can be both at once: then neither counts alone', () => {
    const [a, b] = [rules({ noTradeWindows: [{ from: '12:00', to: '13:00' }] }), rules({ noTradeWindows: [{ from: '12:30', to: '18:00' }] })];
    expect([isLooser('noTradeWindows', a, b), isTighter('noTradeWindows', a, b)]).to.deep.equal([true, true]);
    const both = minutesCovered(tighterOf('noTradeWindows', a, b) as readonly TradeWindow[]);
    expect(both.filter(Boolean).length).to.equal(7 * 6 * 60);
    const [c, d] = [rules({ dayQuantityCap: { share: '5' } }), rules({ dayQuantityCap: { future: '2', share: '7' } })];
    expect(tighterOf('dayQuantityCap', c, d)).to.deep.equal(rules({ dayQuantityCap: { future: '2', share: '5' } }).dayQuantityCap);
  });
});

describe('no-trade windows', () => {
  const NIGHT = rules({ noTradeWindows: [{ from: '22:00', to: '02:00', days: ['mon'] }] }).noTradeWindows ?? [];
  const inside = (time: string, venue: 'HALM' | 'VSPR' = 'HALM'): string | null => {
    const found = windowAt(NIGHT, venue, Date.parse(time));
    return found && new Date(found.until).toISOString();
  };

  it('span midnight and are named by the day they begin on', () => {
    const cases = [
      '2026-03-02T21:59:59.999Z',
      '2026-03-02T22:00:00.000Z',
      '2026-03-03T01:59:59.999Z',
      '2026-03-03T02:00:00.000Z',
      '2026-03-03T23:00:00.000Z',
      '2026-03-09T01:00:00.000Z',
    ];
    const until = '2026-03-03T02:00:00.000Z';
    expect(cases.map((time) => inside(time))).to.deep.equal([null, until, until, null, null, null]);
  });

  it('are in the exchange’s own time, in summer too', () => {
    const MORNING = rules({ noTradeWindows: [{ from: '09:10', to: '09:15' }] }).noTradeWindows ?? [];
    const at = (time: string, venue: 'HALM' | 'VSPR') => windowAt(MORNING, venue, Date.parse(time)) !== null;
    expect([at('2026-03-30T08:10:00.000Z', 'HALM'), at('2026-03-30T08:10:00.000Z', 'VSPR')]).to.deep.equal([true, false]);
    expect([at('2026-03-30T09:10:00.000Z', 'HALM'), at('2026-03-30T09:10:00.000Z', 'VSPR')]).to.deep.equal([false, true]);
    expect(nextBound(MORNING, 'VSPR', Date.parse('2026-03-30T09:12:00.000Z'))).to.equal(Date.parse('2026-03-30T09:15:00.000Z'));
    expect(nextWindow(MORNING, 'VSPR', Date.parse('2026-03-30T09:12:00.000Z'))).to.equal(Date.parse('2026-03-31T09:10:00.000Z'));
    expect([nextWindow(NIGHT, 'HALM', Date.parse('2026-03-03T01:00:00.000Z')), nextWindow([], 'HALM', 0)]).to.deep.equal([
      Date.parse('2026-03-09T22:00:00.000Z'),
      null,
    ]);
  });
});

describe('rules as they are written', () => {
  const wrong = (text: Partial<RulesText>): string[] => {
    const read = readRules(text);
    return read.ok ? [] : read.refusal.map(({ path }) => path);
  };
  it('name what is wrong with them', () => {
    expect(wrong({ dayLossLimit: '0' })).to.deep.equal(['/dayLossLimit']);
    expect(wrong({ onDayLoss: 'block' })).to.deep.equal(['/onDayLoss']);
    expect(wrong({ onInstrumentLoss: 'close-out' })).to.deep.equal(['/onInstrumentLoss']);
    expect(wrong({ noTradeWindows: [{ from: '25:00', to: '26:00' }] })).to.deep.equal(['/noTradeWindows/0/from', '/noTradeWindows/0/to']);
    expect(wrong({ noTradeWindows: [{ from: '12:00', to: '12:00' }] })).to.deep.equal(['/noTradeWindows/0/to']);
    expect(wrong({ dayQuantityCap: { share: '-1' } })).to.deep.equal(['/dayQuantityCap/share']);
  });

  it('are read back as they are told', () => {
    const text: Partial<RulesText> = {
      ...LIMITED,
      onDayLoss: 'close-out',
      dayQuantityCap: { spot: '0.5' },
      noTradeWindows: [{ from: '09:00', to: '09:05', days: ['mon', 'fri'] }],
      maxDistancePercent: '2.5',
      coolDownMinutes: 15,
    };
    expect(rules(rulesText(rules(text)))).to.deep.equal(rules(text));
    expect(rules({})).to.deep.equal(NO_RULES);
  });
});

describe('the record of changes', () => {
  it('hashes as the standard says', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 300 }), (text) => {
        expect(sha256(text)).to.equal(createHash('sha256').update(text).digest('hex'));
      }),
    );
  });

  const made = () => {
    const change = (rule: RuleName, old: unknown, to: unknown) => ({ time: 0, by: 'demo', rule, old, new: to, kind: 'set' as const });
    const first = chained([], [change('dayLossLimit', null, '300.00'), change('openRisk', null, 'warn')]);
    return [...first, ...chained(first, [change('dayLossLimit', '300.00', '250.00')])];
  };

  it('is one chain, and shows what was edited, dropped or put in between', () => {
    const record = made();
    expect([record.map(({ seq }) => seq), isIntact(record)]).to.deep.equal([[1, 2, 3], true]);
    expect(isIntact(record.map((one, i) => (i === 1 ? { ...one, new: 'refuse' } : one)))).to.equal(false);
    expect(isIntact([...record.slice(0, 1), ...record.slice(2)])).to.equal(false);
    expect(isIntact([record[1], record[0], record[2]].flatMap((one) => one ?? []))).to.equal(false);
  });
});

describe('opening orders within a minute', () => {
  it('are those in (t − 60 s, t], however many came before', () => {
    const steps = fc.array(fc.oneof(fc.constant(0), fc.integer({ min: 0, max: 900 }), fc.integer({ min: 59_990, max: 60_010 })), { maxLength: 400 });
    fc.assert(
      fc.property(steps, fc.integer({ min: 0, max: 61_000 }), (gaps, later) => {
        let time = 0;
        let state = newRiskState();
        const taken: number[] = [];
        for (const gap of gaps) {
          time += gap;
          state = withTaken(state, time);
          taken.push(time);
        }
        const at = time + later;
        expect(takenWithin(state, at)).to.equal(taken.filter((one) => one > at - 60_000 && one <= at).length);
      }),
    );
  });

  it('keeps no more of them than a minute and a handful', () => {
    let state = newRiskState();
    for (let time = 0; time < 600_000; time += 100) state = withTaken(state, time);
    expect(state.taken.earlier.length + state.taken.latest.length).to.be.within(600, 664);
  });
});
