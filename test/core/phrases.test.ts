import { expect } from 'chai';
import fc from 'fast-check';
import { BROUGHT_KEYS, freeKey, keyProblem, parseCondition, parseOrder, printCondition, printOrder } from '../../src/core/language/index.ts';
import { ODD_CHARACTERS, conditionText, orderText } from '../support/phrases.ts';

const RUNS = Number(process.env['KAVIX_RUNS'] ?? 4000);

/** A tree without the places in the text that it was read at. */
const bare = (tree: unknown): unknown =>
  JSON.parse(
    JSON.stringify(tree, (key, value: unknown) =>
      key === 'from' || key === 'to' || key === 'at' || key === 'named' ? (key === 'at' && isWhich(value) ? value : undefined) : value,
    ),
  );
const isWhich = (value: unknown): boolean => typeof value === 'object' && value !== null && 'on' in value;

const errorOf = (text: string, read: (text: string) => ReturnType<typeof parseOrder> | ReturnType<typeof parseCondition>): [string, readonly string[]] => {
  const found = read(text);
  if (found.ok) throw new Error(`${text} is read`);
  return [text.slice(found.error.from, found.error.to), found.error.expected];
};

describe('order phrases', () => {
  const CANONICAL: readonly (readonly [string, string])[] = [
    ['buy 500', 'buy 500 at market'],
    ['BUY 500 At BID', 'buy 500 at bid'],
    ['  sell\t100 GANET.HALM  stop 41.00   limit - 10 ticks ', 'sell 100 GANET.HALM stop 41.00 limit - 10 ticks'],
    ['buy 25% of position at mid - 3 tick', 'buy 25 % of position at mid - 3 ticks'],
    ['buy risking 200 to low - 2 ticks', 'buy risking 200 to low - 2 ticks at market'],
    ['sell 100 trail 1.5%', 'sell 100 trail 1.5 %'],
    ['close 50%', 'close 50 %'],
    ['flatten account, account NIGHT', 'flatten account, account NIGHT'],
    ['stop to break-even + 1 tick', 'stop to break-even + 1 ticks'],
    [
      'buy 100 at 41, until 2026-03-04 14:30, with "two step", as "half and half"',
      'buy 100 at 41, until 2026-03-04 14:30, with "two step", as "half and half"',
    ],
    ['buy 100, with stop 40.50 target 42', 'buy 100 at market, with stop 40.50 target 42'],
    ['buy 100, with "stop"', 'buy 100 at market, with "stop"'],
  ];
  for (const [text, canonical] of CANONICAL)
    it(`reads “${text.trim()}”`, () => {
      const found = parseOrder(text);
      expect(found.ok && printOrder(found.value)).to.equal(canonical);
    });

  const WRONG: readonly (readonly [string, string, string?])[] = [
    ['hold 500', 'hold', 'buy'],
    ['buy 500 att 41', 'att', 'at'],
    ['buy 500 at', '', 'bid'],
    ['buy 500 at 41 ioc', 'ioc', ','],
    ['buy 500 at 41, ioc, fok', 'fok'],
    ['buy 500 at 41, rest only, ioc', 'ioc'],
    ['buy 500, held here', 'held here'],
    ['buy 500 at 41, on bid', 'on bid'],
    ['buy 500 stop 41.50, rest only', 'rest only'],
    ['buy 500 at 41, intraday, overnight', 'overnight'],
    ['buy 500 at 41, as one, as two', 'as two'],
    ['close, ioc', 'ioc', 'account'],
    ['buy 1e6', '1e6'],
    ['buy 1234567890123456789', '1234567890123456789'],
    ['buy 007', '007'],
    ['buy 100 at 41, with "', '"'],
    ['buy 100 at 41; ioc', ';'],
  ];
  for (const [text, word, expected] of WRONG)
    it(`refuses “${text}” at “${word}”`, () => {
      const [at, could] = errorOf(text, parseOrder);
      expect(at).to.equal(word);
      if (expected !== undefined) expect(could).to.include(expected);
    });

  it('refuses a line break where it stands, and a phrase that is too long', () => {
    const broken = parseOrder('buy 100\nat 41');
    expect(!broken.ok && [broken.error.from, broken.error.message]).to.deep.equal([7, 'one line only: a line break has no place in a phrase']);
    const long = parseOrder(`buy 1${', ioc'.repeat(100)}`);
    expect(!long.ok && long.error.message).to.match(/at most 500/);
  });
});

describe('condition phrases', () => {
  const CANONICAL: readonly (readonly [string, string])[] = [
    ['LAST > 41.20 AND Volume >= 500', 'last > 41.20 and volume >= 500'],
    ['(last > 1 or last > 2) and halted', '(last > 1 or last > 2) and halted'],
    ['last > 1 or (last > 2 and halted)', 'last > 1 or last > 2 and halted'],
    ['not (not halted)', 'not not halted'],
    ['(bid + ask) ÷ 2 × 3 > (1)', '(bid + ask) / 2 x 3 > 1'],
    ['10 - (2 - 3) > 1', '10 - (2 - 3) > 1'],
    ['macd.signal on 5m crosses macd on 5m within 3 bars', 'macd.signal on 5m crosses macd on 5m within 3 bars'],
    ['bollinger(20,2).upper < last', 'bollinger(20, 2).upper < last'],
    ['highest high over 1 bar on 1d 1 bar ago > last', 'highest high over 1 bars on 1d 1 bars ago > last'],
    ['change over 1 week > 2%', 'change over 1 weeks > 2 %'],
    ['kind is Share', 'kind is Share'],
    ['watched in "my list"', 'watched in "my list"'],
    ['- last + 42 > 0', '- last + 42 > 0'],
    ['last within 3 ticks of ask', 'last within 3 ticks of ask'],
    ['vwap on 1m > vwap', 'vwap on 1m > vwap'],
  ];
  for (const [text, canonical] of CANONICAL)
    it(`reads “${text}”`, () => {
      const found = parseCondition(text);
      expect(found.ok && printCondition(found.value)).to.equal(canonical);
    });

  const WRONG: readonly (readonly [string, string, string?])[] = [
    ['lasst > 1', 'lasst', 'last'],
    ['last >', ''],
    ['and last > 1', 'and'],
    ['last 41', '41', '>'],
    ['(last > 41', '', ')'],
    ['last > 41)', ')'],
    ['(last) > 1 )', ')'],
    ['bollinger(3).peak > 1', 'peak', 'upper'],
    ['sma(3) on fortnight > 1', 'fortnight', '1m'],
    ['atr(3, 5) > 1', '5'],
    ['change over 3 hours > 1', 'hours', 'days'],
    ['watched in', ''],
    ['last > 1 within 3 bars', 'within'],
  ];
  for (const [text, word, expected] of WRONG)
    it(`refuses “${text}” at “${word}”`, () => {
      const [at, could] = errorOf(text, parseCondition);
      expect(at).to.equal(word);
      if (expected !== undefined) expect(could).to.include(expected);
    });
});

describe('a free key', () => {
  it('is one that nothing has, and that brings nothing along in the layer', () => {
    const taken = new Set<string>();
    for (let key = freeKey(taken); key !== null; key = freeKey(taken)) {
      expect(BROUGHT_KEYS[key], key).to.equal(undefined);
      expect(keyProblem(key, true), key).to.equal(null);
      taken.add(key);
    }
    expect(taken.size).to.be.above(20);
    expect([...taken].slice(0, 3)).to.deep.equal(['Space Q', 'Space W', 'Space Y']);
  });
});

describe('any phrase', () => {
  const canonicalOf = (text: string): { order: string | null; condition: string | null } => {
    const [order, condition] = [parseOrder(text), parseCondition(text)];
    return { order: order.ok ? printOrder(order.value) : null, condition: condition.ok ? printCondition(condition.value) : null };
  };

  it('that is printed and read again is the same tree', () => {
    fc.assert(
      fc.property(orderText, (text) => {
        const found = parseOrder(text);
        if (!found.ok) return;
        const again = parseOrder(printOrder(found.value));
        expect(again.ok && bare(again.value)).to.deep.equal(bare(found.value));
      }),
      { numRuns: RUNS },
    );
    fc.assert(
      fc.property(conditionText, (text) => {
        const found = parseCondition(text);
        if (!found.ok) return;
        const again = parseCondition(printCondition(found.value));
        expect(again.ok && bare(again.value), text).to.deep.equal(bare(found.value));
      }),
      { numRuns: RUNS },
    );
  });

  it('that would be too long written out is refused: what is kept is read again', () => {
    const compact = [`last>1${'+1'.repeat(240)}`, `last>1${'+1'.repeat(125)}`, 'buy 1 at bid - 1 %', `buy 100 at 41${' '.repeat(480)}`];
    expect(compact.map((text) => canonicalOf(text).condition?.length ?? canonicalOf(text).order?.length ?? 'refused')).to.deep.equal([
      'refused',
      'refused',
      18,
      13,
    ]);
    const longest = `last>1${'+1'.repeat(122)}`;
    expect(canonicalOf(longest).condition?.length).to.equal(496);
    const found = parseCondition(`${longest}+1+1`);
    expect(!found.ok && found.error).to.deep.include({ from: 0, to: 254, message: 'a phrase is at most 500 characters long; written out this has 504' });
  });

  it('never throws, and says where it fails within the text', () => {
    const word = fc.constantFrom(
      ...'buy sell at stop last > 41.20 ( ) and or not x / + - % ticks on 1m sma ( 3 ) , "a" GANET within bars of 1e6'.split(' '),
      ...ODD_CHARACTERS,
    );
    const text = fc.oneof(
      fc.string({ maxLength: 520 }),
      fc.array(word, { maxLength: 40 }).map((words) => words.join(' ')),
      orderText,
      conditionText,
    );
    fc.assert(
      fc.property(text, fc.nat(), (given, cut) => {
        for (const one of [given, given.slice(0, cut % (given.length + 1))])
          for (const found of [parseOrder(one), parseCondition(one)]) {
            if (found.ok) continue;
            const { from, to, expected, message } = found.error;
            expect(from).to.be.at.least(0).and.at.most(to);
            expect(to).to.be.at.most(one.length);
            expect(expected.length).to.be.at.most(12);
            expect(message).to.not.equal('');
          }
      }),
      { numRuns: RUNS },
    );
  });

  it('takes time that grows with its length alone: brackets, signs and nots as deep as they fit', () => {
    const deep = [
      '('.repeat(240) + 'halted' + ')'.repeat(240),
      'not '.repeat(120) + 'halted',
      `last > ${'- '.repeat(240)}1`,
      `last > ${'('.repeat(200)}1${')'.repeat(200)}`,
    ];
    for (const text of deep) {
      const from = performance.now();
      for (let i = 0; i < 20; i++) canonicalOf(text);
      expect((performance.now() - from) / 20, text.slice(0, 20)).to.be.below(50);
    }
  });
});
