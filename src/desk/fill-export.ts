import type { Fill } from '../core/desk/index.ts';
import { fixExecutionReport } from '../core/formats/index.ts';
import { formatQuantity, asQuantity, type Instrument } from '../core/instrument/index.ts';
import { presentFill } from './present/index.ts';

type InstrumentOf = (id: string) => Instrument;

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
