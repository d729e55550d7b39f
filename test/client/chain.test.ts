import { expect } from 'chai';
import { placeOfSpot, rowsIn } from '../../src/client/chain.ts';

const cell = (delta: number): { delta: string } => ({ delta: String(delta) });
const ROWS = [36, 38, 40, 42, 44, 46].map((strike, i) => ({ strike: strike.toFixed(2), call: cell(0.99 - i * 0.19), put: cell(-0.01 - i * 0.19) }));
const strikes = (rows: readonly { strike: string }[]): number[] => rows.map(({ strike }) => Number(strike));

describe('the strikes of a chain', () => {
  it('know between which two of them the spot stands', () => {
    expect([35, 36, 41, 46, 50].map((spot) => placeOfSpot(ROWS, spot))).to.deep.equal([0, 1, 3, 6, 6]);
    expect(placeOfSpot(ROWS, null)).to.equal(null);
  });

  it('are shown so many either side of the spot', () => {
    expect(strikes(rowsIn(ROWS, '3', 41))).to.deep.equal([36, 38, 40, 42, 44, 46]);
    expect(strikes(rowsIn(ROWS, '3', 45))).to.deep.equal([40, 42, 44, 46]);
    expect(strikes(rowsIn(ROWS, '3', 30))).to.deep.equal([36, 38, 40]);
    expect(rowsIn(ROWS, 'all', 41)).to.equal(ROWS);
    expect(rowsIn(ROWS, '3', null)).to.equal(ROWS);
  });

  it('are shown by delta where one of the two is worth a look', () => {
    const rows = [
      { strike: '30.00', call: cell(0.99), put: cell(-0.01) },
      { strike: '38.00', call: cell(0.93), put: cell(-0.07) },
      { strike: '40.00', call: null, put: cell(-0.5) },
      { strike: '60.00', call: cell(0.01), put: null },
    ];
    expect(strikes(rowsIn(rows, 'delta', 39))).to.deep.equal([38, 40]);
    const unknown = rows.map(({ strike }) => ({ strike, call: { delta: null }, put: null }));
    expect(rowsIn(unknown, 'delta', 39)).to.equal(unknown);
  });
});
