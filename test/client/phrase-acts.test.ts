import { expect } from 'chai';
import { evenAsked, intentsOf, looksLikeOrder, type PhraseReading } from '../../src/client/phrase-acts.ts';

const read = (given: Partial<PhraseReading>): PhraseReading => ({ ok: true, canonical: '', reading: '', requests: [], act: null, error: null, ...given });
const act = (given: object): PhraseReading => read({ act: { account: 'MAIN', instrument: 'GANET.HALM', ...given } });

describe('what a phrase that was read asks for', () => {
  it('is each of its orders, or nothing where it was not understood', () => {
    const requests = [
      { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'market', quantity: '1' },
      { account: 'MAIN', instrument: 'GANET.HALM', side: 'sell', type: 'limit', quantity: '2', limitPrice: '42.00' },
    ];
    expect(intentsOf(read({ requests }))).to.deep.equal(requests.map((wish) => ({ kind: 'place', wish })));
    expect(intentsOf(read({ ok: false, requests }))).to.deep.equal([]);
    expect(intentsOf(read({}))).to.deep.equal([]);
  });

  it('is one act in an instrument, with what of it was named', () => {
    const base = { account: 'MAIN', instrument: 'GANET.HALM' };
    expect(intentsOf(act({ kind: 'close' }))).to.deep.equal([{ kind: 'close', ...base }]);
    expect(intentsOf(act({ kind: 'close', percent: '25' }))).to.deep.equal([{ kind: 'close', ...base, percent: '25' }]);
    expect(intentsOf(act({ kind: 'close', quantity: '10' }))).to.deep.equal([{ kind: 'close', ...base, quantity: '10' }]);
    expect(intentsOf(act({ kind: 'reverse' }))).to.deep.equal([{ kind: 'reverse', ...base }]);
    expect(intentsOf(act({ kind: 'cancel' }))).to.deep.equal([{ kind: 'cancel-many', ...base }]);
    expect(intentsOf(act({ kind: 'cancel', side: 'sell' }))).to.deep.equal([{ kind: 'cancel-many', ...base, side: 'sell' }]);
  });

  it('may be the whole account for what that makes sense of, and nothing for the rest', () => {
    const whole = (kind: string): PhraseReading => act({ kind, instrument: null });
    expect(intentsOf(whole('flatten'))).to.deep.equal([{ kind: 'flatten', account: 'MAIN', instrument: null }]);
    expect(intentsOf(whole('cancel'))).to.deep.equal([{ kind: 'cancel-many', account: 'MAIN', instrument: null }]);
    expect(intentsOf(whole('close'))).to.deep.equal([]);
    expect(intentsOf(whole('reverse'))).to.deep.equal([]);
  });

  it('of a stop to break-even is told apart, for it depends on what works', () => {
    const even = act({ kind: 'break-even', plusTicks: 2 });
    expect([evenAsked(even), intentsOf(even)]).to.deep.equal([{ account: 'MAIN', instrument: 'GANET.HALM', plusTicks: 2 }, []]);
    expect(evenAsked(act({ kind: 'break-even' }))?.plusTicks).to.equal(0);
    expect([evenAsked(act({ kind: 'break-even', instrument: null })), evenAsked(act({ kind: 'close' })), evenAsked(read({}))]).to.deep.equal([
      null,
      null,
      null,
    ]);
  });

  it('is guessed from its first word, in whatever letters', () => {
    const texts = ['buy 100 at bid', '  Sell 5', 'CLOSE half', 'stop to even', 'flatten', 'cancel buys', 'reverse', 'buyer', 'stop', 'ganet', ''];
    expect(texts.filter(looksLikeOrder)).to.deep.equal(texts.slice(0, 7));
  });
});
