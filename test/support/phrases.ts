import fc from 'fast-check';

/** Characters that no phrase has a use for. */
export const ODD_CHARACTERS = [
  '\u0000',
  '\u00a0',
  '\u200b',
  '\u202e',
  '😀',
  '\ud800',
  '−',
  '«',
  '％',
  '٣',
  '"',
  '\\',
  "'",
  '`',
  '${x}',
  '<b>',
  ';',
  '\t',
  '\n',
  '\r',
];

const pick = (...of: string[]): fc.Arbitrary<string> => fc.constantFrom(...of);
const said = (...parts: fc.Arbitrary<string>[]): fc.Arbitrary<string> => fc.tuple(...parts).map((words) => words.filter(Boolean).join(' '));

const distance = said(pick('1', '2', '3', '0.05', '0.5'), pick('', 'ticks', 'tick', '%', 'spread', 'spreads'));
const reference = fc
  .tuple(pick('41.00', '41.20', 'bid', 'ask', 'mid', 'last', 'average', 'open', 'high', 'low', 'vwap', 'settlement'), pick('', '+', '-'), distance)
  .map(([of, sign, far]) => (sign === '' ? of : `${of} ${sign} ${far}`));
const instrument = pick('', '', 'GANET.HALM', 'KELPA', 'HALM40-JUN26');
const name = pick('scalp', '"two step"', '"half and half"', '"stop"', 'X');

const amount = fc.oneof(
  pick('1', '100', '0.5', 'position'),
  said(pick('10', '25.5', '100'), pick('%'), pick('of position', 'of buying power', 'of equity')),
  said(pick('for'), pick('100', '9970.50')),
  said(pick('risking'), pick('10', '200'), pick('to'), reference),
);
const price = fc.oneof(
  pick('', 'at market'),
  said(pick('at'), reference),
  said(pick('stop'), reference),
  said(pick('stop'), reference, pick('limit'), reference),
  said(pick('stop'), reference, pick('limit + 10 ticks', 'limit - 10 ticks')),
  said(pick('trail'), distance),
);
const extra = fc.oneof(
  pick(
    'until day',
    'until cancelled',
    'until 2026-03-04',
    'until 2026-03-04 14:30',
    'ioc',
    'fok',
    'held here',
    'rest only',
    'reduce only',
    'through zero',
    'intraday',
  ),
  said(pick('with'), name),
  said(pick('with stop'), reference),
  said(pick('with stop'), reference, pick('target'), reference),
  said(pick('as'), name),
  pick('account MAIN', 'account EVAL', 'on last', 'on bid'),
);
const verb = fc.oneof(
  said(pick('close', 'close 50', 'close 50 %'), instrument),
  said(pick('reverse', 'flatten', 'flatten account', 'stop to break-even', 'stop to break-even + 2 ticks'), instrument),
  said(pick('cancel'), pick('orders', 'buys', 'sells'), pick('', 'account', 'GANET.HALM')),
);

/** Order phrases by the grammar; some exclude themselves and are refused. */
export const orderText: fc.Arbitrary<string> = fc
  .tuple(
    fc.oneof({ weight: 4, arbitrary: said(pick('buy', 'sell'), amount, instrument, price) }, { weight: 1, arbitrary: verb }),
    fc.array(extra, { maxLength: 3 }),
  )
  .map(([act, extras]) => [act, ...extras].join(', '));

const at = pick('', 'on 1m', 'on 5m', 'on 1d', 'on 1m 1 bar ago', 'on 5m 2 bars ago');
const value: fc.Arbitrary<string> = fc.letrec<{ value: string; factor: string }>((tie) => ({
  factor: fc.oneof(
    { maxDepth: 2 },
    pick('last', 'bid', 'ask', 'mid', 'high', 'low', 'vwap', 'previous close', 'KELPA.HALM last', '41.20', '0.5', '3 ticks', '1 spread'),
    said(pick('close', 'sma(3)', 'ema(2)', 'bollinger(3, 2).upper', 'rsi(3)'), pick('on 1m', 'on 5m')),
    said(pick('highest high', 'lowest low', 'average close', 'sum of volume'), pick('over 3 bars'), at),
    tie('value').map((inner) => `(${inner})`),
    tie('factor').map((inner) => `- ${inner}`),
  ),
  value: fc.oneof(
    { maxDepth: 2 },
    tie('factor'),
    fc.tuple(tie('value'), pick('+', '-', 'x', '/'), tie('factor')).map((words) => words.join(' ')),
  ),
})).value;

const clause = fc.oneof(
  said(value, pick('<', '<=', '>', '>='), value),
  said(value, pick('between'), value, pick('and'), value),
  said(value, pick('within 3 ticks of', 'within 0.5 % of', 'within 0.05 of'), value),
  said(value, pick('rises above', 'falls below', 'crosses', 'returns from below', 'returns from above'), value, pick('', 'within 3 bars')),
  said(value, pick('turns up', 'turns down'), pick('', 'within 2 bars')),
  pick(
    'halted',
    'open now',
    'held',
    'has orders',
    'optionable',
    'watched in mine',
    'kind is share',
    'sector is "tidal power"',
    'change % > 1 %',
    'change over 3 days > 1',
  ),
);

/** Condition phrases by the grammar; types may not fit. */
export const conditionText: fc.Arbitrary<string> = fc.letrec<{ condition: string }>((tie) => ({
  condition: fc.oneof(
    { maxDepth: 3 },
    clause,
    fc.tuple(tie('condition'), pick('and', 'or'), tie('condition')).map((words) => words.join(' ')),
    tie('condition').map((inner) => `not (${inner})`),
    tie('condition').map((inner) => `(${inner})`),
  ),
})).condition;
