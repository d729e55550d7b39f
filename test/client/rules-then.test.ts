import { expect } from 'chai';
import fc from 'fast-check';
import { rulesBefore, type RulesText } from '../../src/core/risk/index.ts';
import { dayUntil, dayWords } from '../../src/views/pages/review/rules-then.ts';

const minute = (n: number): string => new Date(Date.UTC(2026, 2, 2, 9, n)).toISOString();

const rulesAt = (now: RulesText, changes: readonly (Parameters<typeof rulesBefore>[1][number] & { time: string })[], at: string): RulesText =>
  rulesBefore(
    now,
    changes.filter(({ time }) => time > at),
  );

describe('the rules at a round trip', () => {
  it('are those of its moment: what was set later is taken back, locks change nothing', () => {
    const now = { dayLossLimit: '300.00', maxOrderQuantity: '50', coolDownMinutes: 15 } as unknown as RulesText;
    const changes = [
      { time: minute(0), rule: 'dayLossLimit', kind: 'set', old: null },
      { time: minute(10), rule: 'dayLossLimit', kind: 'set', old: '200.00' },
      { time: minute(12), rule: 'maxOrderQuantity', kind: 'lock', old: null },
      { time: minute(20), rule: 'dayLossLimit', kind: 'set', old: '250.00' },
      { time: minute(20), rule: 'coolDownMinutes', kind: 'set', old: null },
    ] as (Parameters<typeof rulesBefore>[1][number] & { time: string })[];
    expect(rulesAt(now, changes, minute(5))).to.deep.equal({ dayLossLimit: '200.00', maxOrderQuantity: '50', coolDownMinutes: null });
    expect(rulesAt(now, changes, minute(10)), 'set in that moment').to.include({ dayLossLimit: '250.00' });
    expect(rulesAt(now, changes, minute(30))).to.deep.equal(now);
  });

  it('are what setting them one after the other made of them', () => {
    const value = fc.option(fc.integer({ min: 1, max: 9 }).map(String), { nil: null });
    fc.assert(
      fc.property(fc.array(fc.record({ rule: fc.constantFrom('dayLossLimit', 'maxOrderValue'), value }), { maxLength: 12 }), fc.nat(13), (sets, until) => {
        const states: Record<string, string | null>[] = [{ dayLossLimit: null, maxOrderValue: null }];
        const changes = sets.map(({ rule, value: next }, i) => {
          const before = states[i] as Record<string, string | null>;
          states.push({ ...before, [rule]: next });
          return { time: minute(i + 1), rule, kind: 'set', old: before[rule] };
        }) as (Parameters<typeof rulesBefore>[1][number] & { time: string })[];
        const now = states[states.length - 1] as unknown as RulesText;
        expect(rulesAt(now, changes, minute(until))).to.deep.equal(states[Math.min(until, sets.length)]);
      }),
    );
  });

  it('stand beside what the day had come to: only round trips that were over', () => {
    const trip = (opened: number, closed: number, netEur: string) => ({ openedAt: minute(opened), closedAt: minute(closed), netEur });
    const trips = [trip(10, 30, '-5.00'), trip(0, 5, '12.50'), trip(6, 8, '-20.00'), trip(7, 9, '-1.25')];
    expect(dayUntil(trips, minute(10))).to.deep.equal({ net: -8.75, count: 3, lostInRow: 2 });
    expect(dayUntil(trips, minute(5))).to.deep.equal({ net: 12.5, count: 1, lostInRow: 0 });
    expect(dayUntil(trips, minute(0))).to.deep.equal({ net: 0, count: 0, lostInRow: 0 });
    // One that began and ended in this very moment is not before it.
    expect(dayUntil([trip(3, 3, '7.00')], minute(3)).count).to.equal(0);
    expect([minute(10), minute(5), minute(0)].map((at) => dayWords(dayUntil(trips, at)))).to.deep.equal([
      'When it began: −8.75 EUR that day after 3 round trips, the last 2 lost.',
      'When it began: +12.50 EUR that day after 1 round trip, the last one won.',
      'It was the first round trip of its day.',
    ]);
  });
});
