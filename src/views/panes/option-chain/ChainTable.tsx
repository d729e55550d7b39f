import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef } from 'react';
import { placeOfSpot } from '../../../client/chain.ts';
import type { Chain, ChainCell, ChainRow } from '../../../client/live-chain.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { CHAIN } from './settings.ts';

type Column = (typeof CHAIN.columns.options)[number][0];

export type Press = (option: string, side: 'bid' | 'ask', price: string, gathers: boolean) => void;

const PERCENT = 100;
export const percent = (text: string | null): string => (text === null ? '–' : `${(Number(text) * PERCENT).toFixed(1)} %`);
const fixed =
  (places: number) =>
  (text: string | null): string =>
    text === null ? '–' : Number(text).toFixed(places).replace('-', '−');

const SAID: Readonly<Record<Column, (text: string | null) => string>> = {
  position: (text) => (Number(text) === 0 ? '' : fixed(0)(text)),
  impliedVolatility: percent,
  delta: fixed(2),
  gamma: fixed(3),
  theta: fixed(3),
  vega: fixed(3),
  mid: fixed(2),
  last: (text) => text ?? '–',
  volume: (text) => text ?? '–',
};

/** More strikes than this are drawn only where they can be seen. */
const MANY = 24;
const ROW_PX = 23;

interface Props {
  readonly chain: Chain;
  readonly rows: readonly ChainRow[];
  readonly spot: number | null;
  readonly columns: readonly Column[];
  readonly shown: string | null;
  readonly press: Press;
}

/** Strikes down the middle, calls to the left and puts to the right with the same columns the other way round, and where the spot stands between them. */
export function ChainTable({ chain, rows, spot, columns, shown, press }: Props) {
  const scroll = useRef<HTMLDivElement>(null);
  const words = (column: Column): string => CHAIN.columns.options.find(([value]) => value === column)?.[1] ?? column;
  const outward = useMemo(() => [...columns].reverse(), [columns]);
  const place = placeOfSpot(rows, spot);
  const many = rows.length > MANY;
  const virtual = useVirtualizer({ count: rows.length, enabled: many, getScrollElement: () => scroll.current, estimateSize: () => ROW_PX, overscan: 4 });
  const at = rows.findIndex((row) => shownIn(row, shown) !== null);
  useEffect(() => {
    if (many && at >= 0) virtual.scrollToIndex(at, { align: 'auto' });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only where another option is shown
  }, [at, many]);
  const seen = many ? virtual.getVirtualItems() : [];
  const from = many ? (seen[0]?.index ?? 0) : 0;
  const to = many ? (seen[seen.length - 1]?.index ?? -1) + 1 : rows.length;
  const head = (text: string) => (
    <th key={text} scope="col" className="text-right">
      {text}
    </th>
  );
  return (
    <div ref={scroll} className="chain min-h-0 flex-1 scroll" tabIndex={0} role="region" aria-label={`Options of ${chain.underlying}`}>
      <table className="list w-full" aria-rowcount={rows.length + 2}>
        <thead>
          <tr>
            <th scope="colgroup" colSpan={columns.length + 1}>
              calls
            </th>
            <th scope="col" rowSpan={2} className="text-center align-bottom">
              strike
            </th>
            <th scope="colgroup" colSpan={columns.length + 1}>
              puts
            </th>
          </tr>
          <tr>
            {outward.map((column) => head(words(column)))}
            {head('bid / ask')}
            {head('bid / ask ')}
            {columns.map((column) => head(`${words(column)} `))}
          </tr>
        </thead>
        <tbody>
          {from > 0 && <tr aria-hidden="true" style={{ height: from * ROW_PX }} />}
          {rows.slice(from, to).map((row, i) => (
            <Strike
              key={row.strike}
              row={row}
              place={from + i + 3}
              columns={columns}
              outward={outward}
              spot={from + i === place ? (chain.spot ?? '–') : null}
              shown={shownIn(row, shown)}
              press={press}
            />
          ))}
          {to < rows.length && <tr aria-hidden="true" style={{ height: (rows.length - to) * ROW_PX }} />}
        </tbody>
      </table>
    </div>
  );
}

const shownIn = ({ call, put }: ChainRow, shown: string | null): string | null =>
  shown !== null && (call?.instrument === shown || put?.instrument === shown) ? shown : null;

interface StrikeProps extends Pick<Props, 'columns' | 'shown' | 'press'> {
  readonly row: ChainRow;
  /** Counted from 1 with the heads. */
  readonly place: number;
  readonly outward: readonly Column[];
  /** Where the spot stands, of the strike that it stands before. */
  readonly spot: string | null;
}

/** A strike; drawn again only when something of it has changed. */
const Strike = memo(function Strike({ row: { strike, call, put }, place, columns, outward, spot, shown, press }: StrikeProps) {
  return (
    <tr aria-rowindex={place} className={spot === null ? '' : 'border-t-2 border-lamp'} title={spot === null ? undefined : `the spot stands at ${spot}`}>
      <Figures cell={call} columns={outward} />
      <Quote cell={call} shown={shown} press={press} />
      <td className="figure text-center font-semibold">{strike}</td>
      <Quote cell={put} shown={shown} press={press} />
      <Figures cell={put} columns={columns} />
    </tr>
  );
});

const Figures = memo(function Figures({ cell, columns }: { cell: ChainCell | null; columns: readonly Column[] }) {
  return columns.map((column) => (
    <td key={column} className="figure">
      {cell === null ? '' : SAID[column](cell[column])}
    </td>
  ));
});

/**
 * What an option is bid and asked: a press on the bid rests a buy there and on the ask a sell, in the slip; with Shift
 * it gathers a leg, which is bought at the ask and sold at the bid.
 */
const Quote = memo(function Quote({ cell, shown, press }: { cell: ChainCell | null; shown: string | null; press: Press }) {
  if (cell === null) return <td />;
  const side = (name: 'bid' | 'ask') => {
    const price = cell[name];
    if (price === null) return <span className="text-quiet">–</span>;
    return (
      <button
        type="button"
        className="figure min-h-[22px] px-1"
        aria-label={`${cell.instrument} ${name} ${price}`}
        title={`${name === 'bid' ? 'buy' : 'sell'} limit at ${price}; with Shift a leg that ${name === 'bid' ? 'sells' : 'buys'} at it`}
        onClick={(event) => press(cell.instrument, name, price, event.shiftKey)}
      >
        {price}
      </button>
    );
  };
  return (
    <td className={`figure whitespace-nowrap ${cell.instrument === shown ? 'font-bold underline' : ''}`} {...dragsInstrument(cell.instrument)}>
      {side('bid')} / {side('ask')}
    </td>
  );
});
