import { expect } from 'chai';
import fc from 'fast-check';
import { fromText, toText } from '../../src/core/exact-text.ts';

const plain = fc.letrec((tie) => ({
  value: fc.oneof(
    { depthSize: 'small' },
    fc.constantFrom(null, true, false, undefined),
    fc.string({ unit: 'binary' }),
    fc.double(),
    fc.integer(),
    fc.bigInt(),
    fc.array(tie('value'), { maxLength: 4 }),
    fc.dictionary(fc.string(), tie('value'), { maxKeys: 4 }),
  ),
})).value;

describe('text that carries exact integers', () => {
  it('is what JSON writes, a bigint as its digits', () => {
    const byReplacer = (value: unknown): string => JSON.stringify(value, (_key, part: unknown) => (typeof part === 'bigint' ? { '#': part.toString() } : part));
    fc.assert(
      fc.property(plain, (value) => {
        expect(toText({ value })).to.equal(byReplacer({ value }));
      }),
      { numRuns: 2000 },
    );
  });

  it('reads back as it was', () => {
    const order = { id: 'MAIN-1', limit: 4120, cost: 412_000_000_000n, steps: [{ share: -1n }, null], said: '"#" is no number', none: null };
    expect(fromText(toText(order))).to.deep.equal(order);
    expect(fromText(toText(2n ** 80n))).to.equal(2n ** 80n);
  });
});
