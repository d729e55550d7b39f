import { stringify } from 'csv-stringify/sync';
import type { Fill } from '../core/desk/index.ts';
import { fixExecutionReport } from '../core/formats/index.ts';
import { formatQuantity, asQuantity, type Instrument } from '../core/instrument/index.ts';
import { presentFill } from './present/index.ts';

const COLUMNS = [
  'id',
  'seq',
  'time',
  'orderId',
  'clientOrderId',
  'account',
  'instrument',
  'side',
  'role',
  'quantity',
  'price',
  'fee',
  'feeCurrency',
  'realised',
  'currency',
  'liquidity',
] as const;

type InstrumentOf = (id: string) => Instrument;

/** Fills as CSV (RFC 4180), one line each under a header. */
export const fillsAsCsv = (fills: readonly Fill[], instrumentOf: InstrumentOf): string =>
  stringify(
    fills.map((fill) => presentFill(instrumentOf(fill.instrument), fill)),
    { header: true, columns: [...COLUMNS], record_delimiter: '\r\n' },
  );

/** Fills as FIX.4.4 execution reports, one a line; each says how its order stood after it. */
export const fillsAsFix = (fills: readonly Fill[], instrumentOf: InstrumentOf): string =>
  fills
    .map((fill) => {
      const instrument = instrumentOf(fill.instrument);
      const report = fixExecutionReport(presentFill(instrument, fill), {
        quantity: formatQuantity(instrument, fill.orderQuantity),
        filledQuantity: formatQuantity(instrument, fill.filledQuantity),
        remainingQuantity: formatQuantity(instrument, asQuantity(Math.max(0, fill.orderQuantity - fill.filledQuantity))),
        averagePrice: fill.averagePrice,
        done: fill.filledQuantity >= fill.orderQuantity,
      });
      return `${report}\n`;
    })
    .join('');
