import { expect } from 'chai';
import fc from 'fast-check';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import type { Instrument } from '../../src/core/instrument/index.ts';
import {
  atMarket,
  besideBasket,
  closingRows,
  draftOf,
  evenRows,
  inHundreds,
  newRow,
  readSheet,
  requestOf,
  reversed,
  scaled,
  slippedTicks,
  sheetOf,
  sortedBy,
  type DraftRow,
} from '../../src/client/baskets.ts';

const KNOWN: Readonly<Record<string, string>> = { GANET: 'GANET.HALM', 'GANET.HALM': 'GANET.HALM', BRINE: 'BRINE.HALM', 'BRINE.HALM': 'BRINE.HALM' };
const known = (name: string): string | null => KNOWN[name.toUpperCase()] ?? null;
const shown = ({ instrument, side, quantity, type, price, until, account }: DraftRow): string =>
  [side, quantity, instrument, type, price, until, account].filter(Boolean).join(' ');
const row = (more: Partial<DraftRow>): DraftRow => newRow('MAIN', { instrument: 'GANET.HALM', quantity: '100', price: '41.20', ...more });

describe('a basket as it is written', () => {
  it('sends what its type takes: a figure as a price, anything else as a phrase', () => {
    const { id, ...sent } = requestOf(row({ price: 'bid - 2 spreads', setup: 'Swap' }));
    expect(id).to.match(/^r/);
    expect(sent).to.deep.equal({
      account: 'MAIN',
      instrument: 'GANET.HALM',
      side: 'buy',
      quantity: '100',
      type: 'limit',
      limitPhrase: 'bid - 2 spreads',
      setup: 'Swap',
    });
    expect(requestOf(row({ type: 'market', stop: '40.00' }))).not.to.have.any.keys('limitPrice', 'stopPrice');
    expect(requestOf(row({ type: 'stop-limit', stop: '41.30', until: 'gtc' }))).to.include({ limitPrice: '41.20', stopPrice: '41.30', timeInForce: 'gtc' });
    const one = row({ type: 'stop-limit', stop: '41.30', until: 'gtc', plan: 'Two-step', setup: 'A' });
    expect(draftOf(requestOf(one))).to.deep.equal(one);
  });

  it('is turned round, put to market, scaled down to the step, rounded to hundreds, put in order', () => {
    const rows = [row({ quantity: '155' }), row({ instrument: 'BRINE.HALM', side: 'sell', quantity: '0.5' }), row({ quantity: 'some' })];
    expect(reversed(rows).map(({ side }) => side)).to.deep.equal(['sell', 'buy', 'sell']);
    expect(atMarket(rows).map(({ type, price }) => type + price)).to.deep.equal(['market', 'market', 'market']);
    expect(scaled(rows, '50', (id) => (id.startsWith('BRINE') ? 2 : 0)).map(({ quantity }) => quantity)).to.deep.equal(['77', '0.25', 'some']);
    expect(scaled(rows, '0', () => 0)).to.deep.equal(rows);
    expect(inHundreds([row({ quantity: '149' }), row({ quantity: '20' }), row({ quantity: '250' })]).map(({ quantity }) => quantity)).to.deep.equal([
      '100',
      '100',
      '200',
    ]);
    expect(sortedBy(rows, 'instrument').map(({ instrument }) => instrument)).to.deep.equal(['BRINE.HALM', 'GANET.HALM', 'GANET.HALM']);
  });

  it('takes rows of a sheet by their heads, in any order, and says what each column became', () => {
    const sheet = readSheet('Symbol\tShares\tRemark\tSide\nganet\t1 200\tlater\tS\nBRINE\t-300\t\t\n', 'MAIN', known);
    expect(sheet.columns).to.deep.equal(['instrument', 'quantity', null, 'side']);
    expect(sheet.rows.map(shown)).to.deep.equal(['sell 1200 GANET.HALM market day MAIN', 'sell 300 BRINE.HALM market day MAIN']);
    expect(readSheet('GANET,buy,100,,41.20', 'EVAL', known).rows.map(shown)).to.deep.equal(['buy 100 GANET.HALM limit 41.20 day EVAL']);
  });

  it('names line and column of what is wrong, and keeps the rows that are right', () => {
    const text =
      'instrument,side,quantity,type,price\nGANET,buy,100,limit,41.20\nNOPE,buy,1,,\nBRINE,long,5,,\nBRINE,buy,many,,\nBRINE,sell,5,limit,\nBRINE,sell,5,swap,1\n';
    const sheet = readSheet(text, 'MAIN', known);
    expect(sheet.rows.map(shown)).to.deep.equal(['buy 100 GANET.HALM limit 41.20 day MAIN']);
    expect(sheet.problems.map(({ line, column, message }) => `${line}:${column} ${message}`)).to.deep.equal([
      '3:1 NOPE is no instrument',
      '4:2 long is neither buy nor sell',
      '5:3 many is no quantity over 0',
      '6:5 a limit order needs a price',
      '7:4 swap is none of market, limit, stop, stop-limit, trailing-stop',
    ]);
  });

  it('is the same after it was saved as a sheet and read again', () => {
    const anyRow = fc.record({
      instrument: fc.constantFrom('GANET.HALM', 'BRINE.HALM'),
      side: fc.constantFrom('buy', 'sell'),
      quantity: fc.integer({ min: 1, max: 100_000 }).map(String),
      type: fc.constantFrom('market', 'limit', 'stop', 'stop-limit'),
      price: fc.constantFrom('41.20', 'bid - 2 spreads', 'mid, or "so"'),
      stop: fc.constantFrom('', '40.00'),
      until: fc.constantFrom('day', 'gtc'),
      account: fc.constantFrom('MAIN', 'EVAL'),
      plan: fc.constantFrom('', 'Two-step'),
      setup: fc.constantFrom('', 'A, "b"'),
    });
    const bare = ({ id: _id, ...rest }: DraftRow): object => rest;
    fc.assert(
      fc.property(fc.array(anyRow, { minLength: 1, maxLength: 12 }), (given) => {
        const rows = given.map((one) => newRow('MAIN', one as Partial<DraftRow>));
        const back = readSheet(sheetOf(rows), 'MAIN', known);
        expect(back.problems).to.deep.equal([]);
        expect(back.rows.map(bare)).to.deep.equal(rows.map(bare));
      }),
    );
  });

  it('comes from positions: closed, or brought to equal shares', () => {
    const held = [
      { account: 'MAIN', instrument: 'GANET.HALM', quantity: '100', marketValue: '4000.00' },
      { account: 'MAIN', instrument: 'BRINE.HALM', quantity: '100', marketValue: '2000.00' },
      { account: 'EVAL', instrument: 'SALMO', quantity: '-2', marketValue: '-9.00' },
      { account: 'MAIN', instrument: 'KELPA', quantity: '0', marketValue: '0.00' },
    ];
    expect(closingRows(held).map(shown)).to.deep.equal([
      'sell 100 GANET.HALM market day MAIN',
      'sell 100 BRINE.HALM market day MAIN',
      'buy 2 SALMO market day EVAL',
    ]);
    expect(evenRows(held, () => 0).map(shown)).to.deep.equal(['sell 25 GANET.HALM market day MAIN', 'buy 50 BRINE.HALM market day MAIN']);
  });
});

describe('a basket beside another', () => {
  it('says of each row what the other has differently, and what only the other has', () => {
    const rows = [
      row({ instrument: 'GANET.HALM' }),
      row({ instrument: 'BRINE.HALM', side: 'sell' }),
      row({ instrument: 'KELPA.HALM' }),
      row({ instrument: 'GANET.HALM', quantity: '50' }),
      newRow('MAIN'),
    ];
    const others = [
      row({ instrument: 'BRINE.HALM', side: 'buy', price: 'bid - 2 spreads', plan: 'quick' }),
      row({ instrument: 'GANET.HALM' }),
      row({ instrument: 'KELPA.HALM', account: 'EVAL' }),
      row({ instrument: 'GANET.HALM', quantity: '60', type: 'market', price: '' }),
    ];
    const { words, rest } = besideBasket(rows, others);
    expect(rows.map(({ id }) => words.get(id))).to.deep.equal([
      'the same',
      'side buy, price bid - 2 spreads, plan quick',
      'not there',
      'quantity 60, type market, price none',
      undefined,
    ]);
    expect(rest.map(({ instrument, account }) => `${instrument} ${account}`)).to.deep.equal(['KELPA.HALM EVAL']);
  });
});

describe('what a row of a run slipped in ticks', () => {
  const GANET = FIXED_INSTRUMENTS.find(({ id }) => id === 'GANET.HALM') as Instrument;
  const SALMO = FIXED_INSTRUMENTS.find(({ id }) => id === 'SALMO-JUN26.HALM') as Instrument;

  it('is a cost where more was paid or less was got than the middle of the market at arrival', () => {
    const of = (side: 'buy' | 'sell', averagePrice: string | null, arrival: string | null, instrument = GANET): string | null =>
      slippedTicks({ side, averagePrice, arrival }, instrument);
    expect(of('buy', '41.20', '41.19')).to.equal('1.0');
    expect(of('sell', '41.18', '41.19')).to.equal('1.0');
    expect(of('buy', '41.10', '41.19')).to.equal('-9.0');
    // A tick of this one is 0.05, and the middle lies between two.
    expect(of('buy', '68.55', '68.525', SALMO)).to.equal('0.5');
    expect(of('sell', '41.19', '41.19')).to.equal('0.0');
    expect([of('buy', null, '41.19'), of('buy', '41.20', null)]).to.deep.equal([null, null]);
  });
});
