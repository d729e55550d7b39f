import { expect } from 'chai';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import { formatScaled } from '../../src/core/number/index.ts';
import { applyFill, averagePrice, commissionOf, flatPosition, valueAt } from '../../src/core/portfolio/index.ts';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { instrument } from '../support/world.ts';

/** One instrument of each kind, and the account whose commission it is traded at. */
const KINDS = {
  share: ['GANET.HALM', 'MAIN'],
  future: ['SALMO-JUN26.HALM', 'MAIN'],
  option: ['GANET-APR26-40C.HALM', 'MAIN'],
  spot: ['CARB-EUR.VSPR', 'NIGHT'],
  inverse: ['CARBI.VSPR', 'NIGHT'],
} as const;
type Kind = keyof typeof KINDS;

/**
 * Worked with pen and paper's means (exact fractions, rounded only where the rules say): each fill an order of its
 * own, what is held in the end, what was realised, all fees, the average of what is left.
 */
const CASES: readonly (readonly [kind: Kind, fills: string, held: string, realised: string, fees: string, average: string])[] = [
  ['share', 'buy 100 41.00, sell 100 41.50', '0', '50', '8.25', 'flat'],
  ['share', 'sell 200 41.00, buy 200 40.25', '0', '150', '16.25', 'flat'],
  ['share', 'buy 300 41.20, sell 100 41.30, sell 200 40.90', '0', '-50', '24.67', 'flat'],
  ['share', 'buy 100 41.00, buy 200 41.10, sell 300 41.05', '0', '-5', '24.64', 'flat'],
  ['share', 'buy 7 41.01, buy 5 41.02, sell 3 41.00, sell 9 41.05', '0', '0.28', '8', 'flat'],
  ['share', 'buy 1000 41.37, sell 1000 41.39', '0', '20', '80', 'flat'],
  ['share', 'buy 100 40.00, sell 250 41.00, buy 150 40.50', '0', '175', '20.33', 'flat'],
  ['share', 'sell 3 40.01, sell 4 40.02, buy 2 40.05, buy 5 40.00', '0', '0.01', '8', 'flat'],
  ['share', 'buy 50 39.99, sell 25 40.01', '25', '0.5', '4', '39.99'],
  ['share', 'sell 1 41.00, buy 1 41.01', '0', '-0.01', '4', 'flat'],
  ['future', 'buy 1 68.50, sell 1 69.00', '0', '250', '4', 'flat'],
  ['future', 'sell 2 68.50, buy 2 68.00', '0', '500', '8', 'flat'],
  ['future', 'buy 3 68.50, sell 1 68.55, sell 2 68.40', '0', '-75', '12', 'flat'],
  ['future', 'buy 1 68.00, buy 2 68.10, sell 3 68.05', '0', '-25', '12', 'flat'],
  ['future', 'buy 1 68.50, sell 2 69.00, buy 1 68.95', '0', '275', '8', 'flat'],
  ['future', 'sell 3 68.05, sell 2 68.20, buy 4 68.10, buy 1 68.00', '0', '75', '20', 'flat'],
  ['future', 'buy 5 68.50, sell 2 68.45', '3', '-50', '14', '68.5'],
  ['future', 'sell 1 68.50, buy 1 68.50', '0', '0', '4', 'flat'],
  ['future', 'buy 2 70.00, buy 1 70.05, sell 1 70.10', '2', '41.66666667', '8', '70.01666667'],
  ['future', 'sell 4 67.95, buy 7 67.90, sell 3 67.80', '0', '-50', '28', 'flat'],
  ['option', 'buy 1 1.50, sell 1 2.10', '0', '60', '4', 'flat'],
  ['option', 'sell 2 1.50, buy 2 0.05', '0', '290', '8', 'flat'],
  ['option', 'buy 3 1.20, sell 1 1.30, sell 2 0.90', '0', '-50', '12', 'flat'],
  ['option', 'buy 10 0.35, sell 10 0.34', '0', '-10', '40', 'flat'],
  ['option', 'sell 5 2.00, buy 2 2.50, buy 3 1.00', '0', '200', '20', 'flat'],
  ['option', 'buy 1 1.00, buy 2 1.01, sell 3 1.00', '0', '-2', '12', 'flat'],
  ['option', 'buy 2 0.50, sell 4 0.60, buy 2 0.55', '0', '30', '16', 'flat'],
  ['option', 'buy 7 1.11, sell 3 1.12', '4', '3', '20', '1.11'],
  ['option', 'sell 1 0.01, buy 1 0.02', '0', '-1', '4', 'flat'],
  ['option', 'buy 3 3.33, buy 3 3.34, sell 4 3.30', '2', '-14', '20', '3.335'],
  ['spot', 'buy 1 60.00, sell 1 61.00', '0', '1', '0.12', 'flat'],
  ['spot', 'buy 0.5 60.00, sell 0.5 59.00', '0', '-0.5', '0.06', 'flat'],
  ['spot', 'buy 3 60.00, sell 1 60.10, sell 2 60.20', '0', '0.5', '0.36', 'flat'],
  ['spot', 'buy 0.1 60.01, buy 0.2 60.05, sell 0.3 60.04', '0', '0.001', '0.04', 'flat'],
  ['spot', 'buy 10 63.30, sell 4 63.35', '6', '0.2', '0.88', '63.3'],
  ['spot', 'buy 0.001 60.00, sell 0.001 75.00', '0', '0.015', '0', 'flat'],
  ['spot', 'buy 1 63.33, buy 1 63.34, buy 1 63.35, sell 2 63.40', '1', '0.12', '0.31', '63.34'],
  ['spot', 'buy 2.5 58.20, sell 2.5 58.20', '0', '0', '0.3', 'flat'],
  ['spot', 'buy 7 61.11, sell 3 61.12, sell 4 61.10', '0', '-0.01', '0.85', 'flat'],
  ['spot', 'buy 100 59.99, sell 100 60.01', '0', '2', '12', 'flat'],
  ['inverse', 'buy 1000 60.00, buy 1000 90.00, sell 2000 80.00', '0', '2.77777778', '0.02638889', 'flat'],
  ['inverse', 'buy 1000 50.00, sell 1000 80.00', '0', '7.5', '0.01625', 'flat'],
  ['inverse', 'sell 1000 80.00, buy 1000 50.00', '0', '7.5', '0.01625', 'flat'],
  ['inverse', 'sell 600 60.00, buy 600 75.00', '0', '-2', '0.009', 'flat'],
  ['inverse', 'buy 300 63.30, sell 100 63.35, sell 200 63.20', '0', '-0.00375244', '0.00474122', 'flat'],
  ['inverse', 'buy 100 60.00, sell 250 61.00, buy 150 60.50', '0', '0.04764486', '0.00412218', 'flat'],
  ['inverse', 'buy 7 61.11, sell 3 61.12', '4', '0.00000803', '0.00008181', '61.10999585'],
  ['inverse', 'sell 1000 66.66, sell 1000 66.67, buy 1500 66.60', '-500', '0.02195988', '0.02626164', '66.6649996'],
  ['inverse', 'buy 1 60.00, sell 1 60.01', '0', '0.00000278', '0.00001666', 'flat'],
  ['inverse', 'buy 5000 64.00, sell 5000 63.99', '0', '-0.01220894', '0.0781311', 'flat'],
];

const plain = (amount: bigint): string => formatScaled(amount, 8);

function traded(kind: Kind, fills: string): readonly string[] {
  const [id, account] = KINDS[kind];
  const of = instrument(id);
  const line = ACCOUNTS.find((one) => one.id === account)?.commission.find((one) => one.kind === kind);
  if (!line) throw new Error(`no commission for ${kind}`);
  let position = flatPosition(id, 0);
  let [realised, fees] = [0n, 0n];
  for (const said of fills.split(', ')) {
    const [side, many = '', at = ''] = said.split(' ');
    const quantity = asQuantity(Math.round(Number(many) * 10 ** of.quantityDecimals));
    const price = asPrice(Math.round(Number(at) * 10 ** of.priceDecimals));
    const fee = commissionOf(line, of, quantity, valueAt(of, quantity, price));
    const applied = applyFill(of, position, { side: side === 'buy' ? 'buy' : 'sell', quantity, price, fee, product: 'overnight', time: 0 });
    position = applied.position;
    realised += applied.realised;
    fees += fee;
  }
  const average = averagePrice(of, position.quantity, position.cost);
  const held = String(Number((position.quantity / 10 ** of.quantityDecimals).toFixed(8)));
  return [held, plain(realised), plain(fees), average === null ? 'flat' : plain(average)];
}

const full = (text: string): string => (text === 'flat' ? text : formatScaled(BigInt(Math.round(Number(text) * 1e8)), 8));

describe('profit and loss, ten cases of each kind', () => {
  for (const [kind, fills, held, realised, fees, average] of CASES)
    it(`${kind}: ${fills}`, () => {
      expect(traded(kind, fills)).to.deep.equal([held, full(realised), full(fees), full(average)]);
    });
});
