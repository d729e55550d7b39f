import { expect } from 'chai';
import { bodyErrors } from '../../src/schemas/validate.ts';

const order = { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', quantity: '100', limitPrice: '41.20' };

/** What is said of a body that differs in one part from one that is right. */
const said = (operation: Parameters<typeof bodyErrors>[0], right: object, path: string, value: unknown): string | undefined =>
  bodyErrors(operation, { ...right, [path]: value }).find((one) => one.path.startsWith(`/${path}`))?.message;

describe('what is wrong with the shape of a body', () => {
  const cases: readonly [value: [Parameters<typeof bodyErrors>[0], object, string, unknown], words: string][] = [
    [['POST /api/orders/preview', order, 'limitPrice', 41.2], 'must be a decimal such as "41.20", at most 18 digits'],
    [['POST /api/orders/preview', order, 'limitOffsetTicks', 1.5], 'must be a whole number'],
    [['POST /api/orders/preview', order, 'restOnly', 'yes'], 'must be true or false'],
    [['POST /api/orders/preview', order, 'side', 'up'], 'must be one of buy, sell'],
    [['PUT /api/settings', {}, 'scale', 400], 'must be at most 150'],
    [['PUT /api/settings', {}, 'scale', 5], 'must be at least 85'],
    [['PUT /api/settings', {}, 'sounds', 'fill'], 'must be a list'],
    [['PUT /api/settings', {}, 'sounds', ['fill', 'fill']], 'must name nothing twice'],
    [['PUT /api/settings', {}, 'daySheetSeen', '2026-03-02 09:00'], 'must have at most 10 characters'],
    [['PUT /api/settings', {}, 'colour', 'red'], 'is not known here'],
    [['POST /api/tokens', {}, 'name', ''], 'must not be empty'],
  ];
  for (const [[operation, right, path, value], words] of cases)
    it(`is said in a trader’s words: ${path} ${JSON.stringify(value)}`, () => {
      expect(said(operation, right, path, value)).to.equal(words);
    });

  it('never speaks as the checker does', () => {
    const bodies: unknown[] = [null, 5, [], 'text', {}, { steps: [] }, { rows: Array.from({ length: 500 }, () => ({})) }, { lines: [] }];
    for (const operation of [
      'POST /api/orders',
      'POST /api/exit-plans',
      'POST /api/baskets',
      'POST /api/scans',
      'PUT /api/settings',
      'POST /api/alerts',
    ] as const)
      for (const body of bodies)
        for (const { message } of bodyErrors(operation, body)) expect(message).to.not.match(/must NOT|must be (string|object|array|integer|<=|>=)/);
  });
});
