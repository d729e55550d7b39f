import { expect } from 'chai';
import { alertLine } from '../../src/client/alert-line.ts';

describe('a line that asks to be told', () => {
  it('says of what, and from where on it stands there', () => {
    expect(alertLine('tell me when last > 42')).to.deep.equal({ from: 13, of: 'last > 42', price: false });
    expect(alertLine('  Tell when 42.10 ')).to.deep.equal({ from: 12, of: '42.10', price: true });
  });
  it('is none while it asks for nothing, or for something else', () => {
    for (const text of ['', 'tell', 'tell me when', 'tell me when  ', 'telling when 3', 'buy 100 when last > 42']) expect(alertLine(text), text).to.equal(null);
  });
});
