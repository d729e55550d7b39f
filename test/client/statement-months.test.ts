import { expect } from 'chai';
import fc from 'fast-check';
import { monthsOf } from '../../src/client/statement-months.ts';
import { formatScaled, parseScaled } from '../../src/core/number/index.ts';

const CENTS = 2;
const cents = (text: string): bigint => parseScaled(text, CENTS) ?? 0n;
const text = (amount: bigint): string => formatScaled(amount, CENTS, CENTS);

describe('a statement by month', () => {
  it('chains to the cent, and each month is what its days moved', () => {
    const movements = fc.array(fc.bigInt({ min: -9_999_999n, max: 9_999_999n }), { maxLength: 4 });
    fc.assert(
      fc.property(fc.array(movements, { minLength: 1, maxLength: 90 }), fc.bigInt({ min: 0n, max: 9_999_999n }), (all, begins) => {
        let cash = begins;
        const days = all.map((moved, i) => {
          const opening = cash;
          for (const amount of moved) cash += amount;
          const day = new Date(Date.UTC(2026, 0, 20 + i)).toISOString().slice(0, 10);
          return { day, opening: text(opening), closing: text(cash), movements: moved.map((amount) => ({ amount: text(amount) })) };
        });
        const months = monthsOf(days);
        expect(months.map(({ month }) => month)).to.deep.equal([...new Set(days.map(({ day }) => day.slice(0, 7)))]);
        expect([months[0]?.opening, months.at(-1)?.closing]).to.deep.equal([text(begins), text(cash)]);
        for (const [i, { opening, came, went, closing }] of months.entries()) {
          expect(text(cents(opening) + cents(came) - cents(went))).to.equal(closing);
          expect([cents(came) >= 0n, cents(went) >= 0n]).to.deep.equal([true, true]);
          if (i > 0) expect(opening).to.equal(months[i - 1]?.closing);
        }
      }),
    );
  });
});
