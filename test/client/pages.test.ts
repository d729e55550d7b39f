import { expect } from 'chai';
import { signedStatistic, statistic } from '../../src/kit/Figure.tsx';
import { NOTHING_MARKED, daysIn, newestPeriod, sentenceOf } from '../../src/views/pages/review/period.ts';
import { isLastOfWeek, sheetAt } from '../../src/views/pages/sheet/due.ts';
import { parseDay } from '../../src/core/market/index.ts';

const at = (text: string): string => sheetAt(Date.parse(text));

describe('the day sheet that is due', () => {
  it('is one a trading day, and one more for the week once that is over', () => {
    expect(at('2026-03-02T08:00:00Z')).to.equal('2026-03-02');
    expect(at('2026-03-02T18:00:00Z')).to.equal('2026-03-02');
    expect(at('2026-03-06T17:29:59Z')).to.equal('2026-03-06');
    expect(at('2026-03-06T17:30:00Z')).to.equal('2026-03-07');
    expect(at('2026-03-08T12:00:00Z')).to.equal('2026-03-07');
    expect(at('2026-03-09T07:00:00Z')).to.equal('2026-03-09');
  });

  it('knows the last trading day of a week', () => {
    expect(['2026-03-02', '2026-03-05', '2026-03-06'].map((day) => isLastOfWeek(parseDay(day)))).to.deep.equal([false, false, true]);
  });
});

describe('what is chosen in the review', () => {
  it('opens on the newest week that something ended in', () => {
    // 2 March 2026 is a Monday.
    expect(newestPeriod(undefined, '2026-03-02')).to.equal('this week');
    expect(newestPeriod('2026-03-02T09:10:00.000Z', '2026-03-02')).to.equal('this week');
    expect(newestPeriod('2026-02-27T16:00:00.000Z', '2026-03-02')).to.equal('last week');
    expect(newestPeriod('2026-02-20T16:00:00.000Z', '2026-03-02')).to.equal('all');
  });

  it('writes its figures in groups, rounded, with their sign', () => {
    expect([statistic('1678'), statistic('0.345'), statistic('-1234567.891')]).to.deep.equal(['1,678.00', '0.34', '−1,234,567.89']);
    expect(['-1513.3', '80.941', '0', '-0.004', '1234.5'].map((text) => signedStatistic(text))).to.deep.equal([
      '−1,513.30',
      '+80.94',
      '0.00',
      '0.00',
      '+1,234.50',
    ]);
  });

  it('is days, both inclusive', () => {
    expect(daysIn('last month', '2026-03-02')).to.deep.equal({ from: '2026-02-01', to: '2026-02-28' });
    expect(daysIn('last month', '2026-01-15')).to.deep.equal({ from: '2025-12-01', to: '2025-12-31' });
    expect(daysIn('last week', '2026-03-04')).to.deep.equal({ from: '2026-02-23', to: '2026-03-01' });
    expect(daysIn('from … to', '2026-03-02', { from: '2026-01-05', to: '' })).to.deep.equal({ from: '2026-01-05', to: '2026-03-02' });
    expect(daysIn('from … to', '2026-03-02', { from: '', to: '2026-01-09' })).to.deep.equal({ to: '2026-01-09' });
  });

  it('is one sentence that names every filter', () => {
    const days = { from: '2026-01-05', to: '2026-03-02' };
    expect(sentenceOf('all', days, NOTHING_MARKED)).to.equal('Every round trip that is over, in all accounts');
    expect(sentenceOf('from … to', days, { ...NOTHING_MARKED, account: ['MAIN', 'EVAL'], setup: ['dip', '(none)'], side: ['long', 'short'] })).to.equal(
      'Round trips that ended from 2026-01-05 to 2026-03-02, in MAIN and EVAL, of dip, or without a setup',
    );
    expect(sentenceOf('today', days, { ...NOTHING_MARKED, instrument: ['A', 'B', 'C'], kind: ['share'], side: ['short'], hour: ['10', '09'] })).to.equal(
      'Round trips that ended today, in all accounts, in A, B and C, shares only, short ones, ended in the hours of 09 and 10',
    );
  });
});
