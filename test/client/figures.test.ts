import { expect } from 'chai';
import { figureTo, placesOf } from '../../src/kit/Figure.tsx';

const column = (...texts: string[]): string[] => texts.map((text) => figureTo(text, placesOf(texts)));

describe('a column of figures', () => {
  it('of prices has all their places, so that they stand on the point', () => {
    expect(column('4.62', '19.1', '35', '1204.005')).to.deep.equal(['4.620', '19.100', '35.000', '1,204.005']);
    expect(column('19', '35')).to.deep.equal(['19', '35']);
  });

  it('of what was computed has two, each marked that is shortened', () => {
    expect(column('2.43902', '-2.67417', '1234.5678', '2.5', '3')).to.deep.equal(['~2.44', '~−2.67', '~1,234.57', '2.50', '3.00']);
  });

  it('of small ones has four', () => {
    expect(column('0.0234567', '-0.5')).to.deep.equal(['~0.0235', '−0.5000']);
  });

  it('leaves words as they are', () => {
    expect(column('open', '2.43902', 'halted')).to.deep.equal(['open', '~2.44', 'halted']);
    expect(column('open')).to.deep.equal(['open']);
  });
});
