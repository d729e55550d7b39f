import { useStore } from '@nanostores/react';
import { X } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { openSlip } from '../../client/gestures/index.ts';
import { sizeOf } from '../../client/session.ts';
import type { Instrument } from '../../core/instrument/index.ts';
import { grouped, resultClass, signed } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { paintInView } from '../../kit/in-view.ts';
import { $orders, $positions, followQuote, isWorking, positionKey, quoteOf, type LiveQuote } from '../../live/index.ts';
import { orderCell } from '../act/OrderCells.tsx';
import { dragsInstrument } from '../workspace/drag.ts';
import { setInstrument } from '../workspace/panes.ts';
import { dayLine, linePoints } from './day-lines.ts';
import { writeRow } from './quote-cells.ts';

const LINE = { width: 64, height: 16 };

interface RowProps {
  readonly pane: string;
  readonly instrument: Instrument;
  readonly account: string;
  readonly columns: readonly string[];
  readonly decimals: string;
  readonly selected: boolean;
  readonly onOut: () => void;
}

/** One instrument's row: React makes its cells, the market writes them. */
export function QuoteRow({ pane, instrument, account, columns, decimals, selected, onOut }: RowProps) {
  const row = useRef<HTMLTableRowElement>(null);
  const position = useStore($positions)[positionKey(account, instrument.id)];
  const orders = useStore($orders);
  const working = Object.values(orders).filter((order) => order.account === account && order.instrument === instrument.id && isWorking(order)).length;
  const closes = useRef<readonly number[]>([]);
  useEffect(() => {
    const element = row.current;
    if (!element) return undefined;
    const painted = paintInView<LiveQuote>(element, (quote) => writeRow(element, instrument, quote, decimals));
    const stop = followQuote(instrument.id, painted.next);
    return () => {
      stop();
      painted.stop();
    };
  }, [instrument, columns, decimals]);
  useEffect(() => {
    if (!columns.includes('day')) return undefined;
    const ask = (): void =>
      dayLine(instrument.id, (found) => {
        closes.current = found;
        row.current?.querySelector('polyline')?.setAttribute('points', linePoints(found, LINE.width, LINE.height));
      });
    ask();
    const timer = setInterval(ask, 60_000);
    return () => clearInterval(timer);
  }, [instrument.id, columns]);
  /** The slip, seeded with exactly what was pressed. */
  const seed = (side: 'buy' | 'sell', given: { quantity?: string; limitPrice?: string; reduceOnly?: boolean }): void =>
    openSlip(pane, {
      account,
      instrument: instrument.id,
      side,
      type: given.limitPrice === undefined ? 'market' : 'limit',
      quantity: given.quantity ?? sizeOf(account, instrument.id),
      ...(given.limitPrice === undefined ? {} : { limitPrice: given.limitPrice }),
      ...(given.reduceOnly ? { reduceOnly: true } : {}),
    });
  const held = position && position.quantity !== '0' ? position : null;
  return (
    <tr
      ref={row}
      aria-selected={selected}
      data-instrument={instrument.id}
      onPointerDown={(event) => event.button === 0 && !(event.target as HTMLElement).closest('button') && setInstrument(pane, instrument.id)}
    >
      <td {...dragsInstrument(instrument.id)}>
        <InstrumentName id={instrument.id} />
        {working > 0 && <span className="plate brass ml-1 !px-1 text-[11px]">{working}</span>}
      </td>
      {columns.map((column) => {
        switch (column) {
          case 'bid':
          case 'ask':
            return <td key={column} className="figure" data-column={column} {...orderCell(column === 'bid' ? 'buy' : 'sell')} />;
          case 'bidQuantity':
          case 'askQuantity':
            return (
              <td key={column} className="right">
                <button
                  type="button"
                  className="figure"
                  onClick={() => {
                    const text = quoteOf(instrument.id)?.text;
                    const [price, quantity] = column === 'bidQuantity' ? [text?.bid, text?.bidQuantity] : [text?.ask, text?.askQuantity];
                    if (price && quantity) seed(column === 'bidQuantity' ? 'buy' : 'sell', { quantity, limitPrice: price });
                  }}
                >
                  <span className="sr-only">{`${column === 'bidQuantity' ? 'Bid' : 'Ask'} quantity of ${instrument.id} `}</span>
                  <span data-column={column} />
                </button>
              </td>
            );
          case 'position':
            return (
              <td key={column} className="right">
                {held && (
                  <button
                    type="button"
                    className="figure underline underline-offset-2"
                    onClick={() => seed(Number(held.quantity) > 0 ? 'sell' : 'buy', { quantity: held.quantity.replace('-', ''), reduceOnly: true })}
                  >
                    {grouped(held.quantity.replace('-', '−'))}
                  </button>
                )}
              </td>
            );
          case 'result':
            return (
              <td key={column} className={`figure ${held ? resultClass(held.unrealised) : ''}`}>
                {held ? signed(held.unrealised) : ''}
              </td>
            );
          case 'day':
            return (
              <td key={column}>
                <svg width={LINE.width} height={LINE.height} className="block" role="img" aria-label={`Day line of ${instrument.id}`}>
                  <polyline points={linePoints(closes.current, LINE.width, LINE.height)} fill="none" stroke="var(--quiet)" strokeWidth="1" />
                </svg>
              </td>
            );
          case 'balance':
            return (
              <td key={column} data-column="balance">
                <span className="block h-[8px] w-[52px]" />
              </td>
            );
          case 'name':
            return <td key={column}>{instrument.name}</td>;
          case 'kind':
            return <td key={column}>{instrument.kind}</td>;
          case 'venue':
            return <td key={column}>{instrument.venue}</td>;
          case 'sector':
            return <td key={column}>{instrument.sector}</td>;
          default:
            return <td key={column} className="figure" data-column={column} />;
        }
      })}
      <td className="!p-0">
        <button type="button" className="grid h-[20px] w-[20px] place-items-center quiet" aria-label={`Take out ${instrument.id}`} onClick={onOut}>
          <X size={11} />
        </button>
      </td>
    </tr>
  );
}
