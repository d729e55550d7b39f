import { readFileSync } from 'node:fs';
import { expect } from 'chai';
import { bookAt, lengthOf, marketOf, readDrillTape } from '../../src/client/drill-book.ts';
import { beginDrill, pressInDrill } from '../../src/client/drill.ts';
import { readHere } from '../../src/client/order-reading.ts';
import { formatPrice } from '../../src/core/instrument/index.ts';
import { instrument } from '../support/world.ts';

const GANET = instrument('GANET.HALM');
const TARGET = { account: 'PRACTICE', instrument: 'GANET.HALM' };
const tape = readDrillTape(readFileSync(new URL('../../src/client/drill-tape.csv', import.meta.url), 'utf8'), GANET);
const key = (name: string, phrase: string) => ({ key: name, phrase, command: null, sets: [] });

describe('the book that keys are practised on', () => {
  it('is a tape of a minute with both sides at every moment, the best first, never crossed', () => {
    expect(lengthOf(tape)).to.be.within(50_000, 120_000);
    let moves = 0;
    let before = '';
    for (let passed = 0; passed <= lengthOf(tape); passed += 300) {
      const { bids, asks } = bookAt(tape, passed);
      expect(bids.length, `bids at ${passed}`).to.be.above(2);
      expect(asks.length, `asks at ${passed}`).to.be.above(2);
      expect(bids.map(({ price }) => price)).to.deep.equal(bids.map(({ price }) => price).sort((a, b) => b - a));
      expect(asks.map(({ price }) => price)).to.deep.equal(asks.map(({ price }) => price).sort((a, b) => a - b));
      expect(bids[0]?.price).to.be.below(asks[0]?.price ?? 0);
      const best = `${bids[0]?.price} ${asks[0]?.price}`;
      if (best !== before) moves++;
      before = best;
    }
    expect(moves, 'the best moves').to.be.above(10);
  });

  it('begins again when it is over', () => {
    expect(bookAt(tape, lengthOf(tape) + 1)).to.deep.equal(bookAt(tape, 0));
    expect(bookAt(tape, lengthOf(tape) + 1 + 5000)).to.deep.equal(bookAt(tape, 5000));
  });

  it('names the line of a tape that is none', () => {
    const row = (cells: string): string => `time,instrument,event,side,price,quantity,text\n${cells}\n`;
    expect(() => readDrillTape(row('2026-03-02T09:05:00.000Z,GANET.HALM,level,bid,40.444,180,'), GANET)).to.throw('line 2 of the tape: is off the tick grid');
    expect(() => readDrillTape(row('yesterday,GANET.HALM,level,bid,40.44,180,'), GANET)).to.throw('line 2 of the tape: must look like');
  });

  it('is what phrases are read against there', () => {
    const book = bookAt(tape, 7000);
    const read = readHere('buy 300 at bid', TARGET, marketOf(GANET, TARGET.account, book));
    expect(read?.requests[0]).to.include({ account: 'PRACTICE', side: 'buy', quantity: '300', limitPrice: formatPrice(GANET, book.bids[0]?.price as never) });
    const empty = marketOf(GANET, TARGET.account, { bids: [], asks: [], last: null });
    expect(readHere('buy 300 at bid', TARGET, empty)?.ok).to.equal(false);
  });

  it('makes any key right that would ask for the very same, and none that only looks so', () => {
    const keys = [key('Space Q', 'buy 100 at bid'), key('Space W', 'buy 100 GANET at bid'), key('Space E', 'buy 200 at bid'), key('Space R', 'close')];
    const drill = beginDrill(keys, 0, () => 0);
    if (!drill) throw new Error('no drill');
    const market = marketOf(GANET, TARGET.account, bookAt(tape, 7000));
    const wouldAsk = (phrase: string): string | null => {
      const read = readHere(phrase, TARGET, market);
      return read?.ok ? JSON.stringify([read.requests, read.act]) : null;
    };
    const press = (name: string) => pressInDrill(drill, name, keys, 500, () => 0, wouldAsk);
    expect([press('Space Q').right, press('Space W').right, press('Space E').wrong, press('Space R').wrong]).to.deep.equal([1, 1, 1, 1]);
    const closing = { ...drill, asked: key('Space R', 'close') };
    expect(pressInDrill(closing, 'Space Z', keys, 500, () => 0, wouldAsk).wrong, 'what can’t be told is no answer').to.equal(1);
  });
});
