import { expect } from 'chai';
import { scaleWithoutLimit } from '../../src/client/day-scale.ts';

const day = (name: string, net: string): { day: string; net: string } => ({ day: name, net });

describe('the gauge’s scale without a limit', () => {
  it('is the largest session before today, either way', () => {
    const days = [day('2026-02-26', '120.00'), day('2026-02-27', '-340.50'), day('2026-03-02', '900.00')];
    expect(scaleWithoutLimit(days, '2026-03-02', '100000.00')).to.equal(340.5);
    expect(scaleWithoutLimit(days, '2026-03-03', '100000.00'), 'the next day').to.equal(900);
  });

  it('looks at twenty sessions', () => {
    const quiet = Array.from({ length: 20 }, (_, i) => day(`2026-02-${String(i + 1).padStart(2, '0')}`, '-10.00'));
    expect(scaleWithoutLimit([day('2026-01-30', '5000.00'), ...quiet, day('2026-03-02', '0.00')], '2026-03-02', '100000.00')).to.equal(10);
  });

  it('is a percent of equity where nothing was made or lost yet', () => {
    expect(scaleWithoutLimit([day('2026-03-02', '50.00')], '2026-03-02', '25000.00')).to.equal(250);
    expect(scaleWithoutLimit([day('2026-02-27', '0.00')], '2026-03-02', '0.00')).to.equal(1);
    expect(scaleWithoutLimit([], undefined, undefined), 'nothing known').to.equal(1);
  });
});
