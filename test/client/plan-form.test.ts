import { expect } from 'chai';
import fc from 'fast-check';
import type { ResolverOptions } from 'react-hook-form';
import { bodyOf, checkPlan, NEW_PLAN, problemsIn, restFor, type PlanValues } from '../../src/views/panes/exit-plans/plan-form.ts';

const OPTIONS: ResolverOptions<PlanValues> = { fields: {}, shouldUseNativeValidation: false };
const wrongWith = async (to: Partial<PlanValues>): Promise<string[]> => {
  const { errors } = await checkPlan({ ...NEW_PLAN, name: 'two', ...to }, undefined, OPTIONS);
  return problemsIn(errors).map(({ words }) => words);
};
const steps = (...shares: string[]): PlanValues['steps'] => shares.map((share) => ({ ...NEW_PLAN.steps[0], share }));

describe('an exit plan as it is typed', () => {
  it('begins as a plan that only lacks its name', async () => {
    expect(await wrongWith({})).to.deep.equal([]);
  });

  it('leaves the last step what the others leave of 100, and nothing where they leave nothing', () => {
    expect(restFor(steps('60', ''))).to.equal('40');
    expect(restFor(steps('33.33', '33.33', ''))).to.equal('33.34');
    expect(restFor(steps('100', ''))).to.equal(null);
    expect(restFor(steps('x', '50'))).to.equal('100');
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 2400 }), { minLength: 1, maxLength: 4 }), (hundredths) => {
        const before = hundredths.map((one) => (one / 100).toFixed(2));
        const rest = Number(restFor(steps(...before, '')));
        expect(Math.round(rest * 100)).to.equal(10_000 - hundredths.reduce((sum, one) => sum + one, 0));
      }),
    );
  });

  it('says what is wrong with its place in words, all at once', async () => {
    expect(await wrongWith({ steps: steps('60', '30') })).to.deep.equal(['the shares sum to 90; they must sum to 100']);
    const found = await wrongWith({ steps: [{ share: 'half', stop: { by: 'ticks', value: '', order: 'market' } }] });
    expect(found.map((words) => words.split(':')[0])).to.include.members(['step 1 share', 'step 1 stop value']);
  });

  it('sends no setup where none was typed, and no blanks around what was', () => {
    expect(bodyOf({ ...NEW_PLAN, name: ' two ', setup: '  ' })).to.deep.include({ name: 'two', setup: undefined });
    expect(bodyOf({ ...NEW_PLAN, name: 'two', setup: ' gap ' })).to.deep.include({ setup: 'gap' });
  });
});
