import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef, type CSSProperties } from 'react';
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
/** As wide as the figures of a column, a bid beside an ask, and a strike need. */
const [FIGURE_PX, STRIKE_PX, DIGIT_PX, GAPS_PX] = [45, 51, 7.5, 32];

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
  return (
    <div ref={scroll} className="chain min-h-0 flex-1 scroll" tabIndex={0} role="region" aria-label={`Options of ${chain.underlying}`}>
      <div role="table" aria-label={`Calls and puts of ${chain.underlying}`} aria-rowcount={rows.length + 2} style={gridOf(columns.length, widestQuote(chain))}>
        <Heads columns={columns} outward={outward} />
        <div role="rowgroup">
          {from > 0 && <div aria-hidden="true" style={{ height: from * ROW_PX }} />}
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
          {to < rows.length && <div aria-hidden="true" style={{ height: (rows.length - to) * ROW_PX }} />}
        </div>
      </div>
    </div>
  );
}

/** Every row has the same columns by itself, so that where a figure changes its row alone is laid out again. */
function gridOf(columns: number, digits: number): CSSProperties {
  const figures = `repeat(${columns}, minmax(${FIGURE_PX}px, 1fr))`;
  const quote = Math.ceil(digits * DIGIT_PX) + GAPS_PX;
  const width = 2 * (columns * FIGURE_PX + quote) + STRIKE_PX;
  return { '--chain': `${figures} ${quote}px ${STRIKE_PX}px ${quote}px ${figures}`, minWidth: width } as CSSProperties;
}

/** Digits of the widest bid beside its ask. */
const widestQuote = ({ rows }: Chain): number =>
  rows.reduce((most, { call, put }) => Math.max(most, ...[call, put].map((cell) => (cell?.bid?.length ?? 1) + (cell?.ask?.length ?? 1))), 0);

/** Heads no wider than what stands under them. */
const SHORT: Readonly<Partial<Record<Column, string>>> = { position: 'held', impliedVolatility: 'vol.' };

const wordsOf = (column: Column): string => CHAIN.columns.options.find(([value]) => value === column)?.[1] ?? column;

const Heads = memo(function Heads({ columns, outward }: Pick<StrikeProps, 'columns' | 'outward'>) {
  const head = (text: string, key: string, whole = text) => (
    <span key={key} role="columnheader" className="truncate text-right" title={whole}>
      {text}
    </span>
  );
  const named = (column: Column, half: string) => head(SHORT[column] ?? wordsOf(column), `${half} ${column}`, wordsOf(column));
  const half = columns.length + 1;
  return (
    <div role="rowgroup" className="heads">
      <div role="row" className="strike" aria-rowindex={1}>
        <span role="columnheader" aria-colspan={half} style={{ gridColumn: `span ${half}` }}>
          calls
        </span>
        <span role="cell" />
        <span role="columnheader" aria-colspan={half} style={{ gridColumn: `span ${half}` }}>
          puts
        </span>
      </div>
      <div role="row" className="strike" aria-rowindex={2}>
        {outward.map((column) => named(column, 'call'))}
        {head('bid / ask', 'call')}
        <span role="columnheader" className="text-center">
          strike
        </span>
        {head('bid / ask', 'put')}
        {columns.map((column) => named(column, 'put'))}
      </div>
    </div>
  );
});

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
    <div
      role="row"
      aria-rowindex={place}
      className={spot === null ? 'strike' : 'strike border-t-2 border-t-lamp'}
      title={spot === null ? undefined : `the spot stands at ${spot}`}
    >
      <Figures cell={call} columns={outward} />
      <Quote cell={call} shown={shown} press={press} />
      <span role="rowheader" className="figure text-center font-semibold">
        {strike}
      </span>
      <Quote cell={put} shown={shown} press={press} />
      <Figures cell={put} columns={columns} />
    </div>
  );
});

const Figures = memo(function Figures({ cell, columns }: { cell: ChainCell | null; columns: readonly Column[] }) {
  return columns.map((column) => (
    <span key={column} role="cell" className="figure text-right">
      {cell === null ? '' : SAID[column](cell[column])}
    </span>
  ));
});

/**
 * What an option is bid and asked: a press on the bid rests a buy there and on the ask a sell, in the slip; with Shift
 * it gathers a leg, which is bought at the ask and sold at the bid.
 */
const Quote = memo(function Quote({ cell, shown, press }: { cell: ChainCell | null; shown: string | null; press: Press }) {
  if (cell === null) return <span role="cell" />;
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
    <span
      role="cell"
      className={`figure text-right whitespace-nowrap ${cell.instrument === shown ? 'font-bold underline' : ''}`}
      {...dragsInstrument(cell.instrument)}
    >
      {side('bid')} / {side('ask')}
    </span>
  );
});
