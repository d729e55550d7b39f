import { expect } from 'chai';
import { problemWords } from '../../src/live/index.ts';

const said = (...errors: { path: string; message: string }[]): string =>
  problemWords({ type: '/problems/validation', title: 'Not accepted', status: 422, detail: 'Something is wrong.', errors });

describe('a problem in words', () => {
  it('names the part of which something is said', () => {
    expect(said({ path: '/limitPrice', message: 'is needed by a limit order' })).to.equal('limit price is needed by a limit order');
    expect(said({ path: '/expiresAt', message: 'is needed by gtd' })).to.equal('its end is needed by gtd');
    expect(said({ path: '/steps/1/share', message: 'must be above 0' }, { path: '?from', message: 'must not be later than to' })).to.equal(
      'share must be above 0; from must not be later than to',
    );
    expect(said({ path: '', message: 'must be an object' })).to.equal('it must be an object');
  });

  it('leaves what stands by itself as it is, and what has no parts', () => {
    expect(said({ path: '/steps', message: 'the shares sum to 60' })).to.equal('the shares sum to 60');
    expect(problemWords({ type: '', title: '', status: 409, detail: 'There is nothing to close.' })).to.equal('There is nothing to close.');
  });
});
