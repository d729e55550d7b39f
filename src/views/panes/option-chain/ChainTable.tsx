import { placeOfSpot } from '../../../client/chain.ts';
import type { AnswerOf } from '../../../live/index.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { CHAIN } from './settings.ts';

type Chain = AnswerOf<'GET /api/options/{underlying}'>;
type Row = Chain['rows'][number];
type Cell = NonNullable<Row['call']>;
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

/** Strikes down the middle, calls to the left and puts to the right with the same columns the other way round, and where the spot stands between them. */
export function ChainTable(props: { chain: Chain; rows: readonly Row[]; spot: number | null; columns: readonly Column[]; shown: string | null; press: Press }) {
  const { chain, rows, spot, columns, shown, press } = props;
  const words = (column: Column): string => CHAIN.columns.options.find(([value]) => value === column)?.[1] ?? column;
  const outward = [...columns].reverse();
  const place = placeOfSpot(rows, spot);
  const head = (text: string) => (
    <th key={text} scope="col" className="text-right">
      {text}
    </th>
  );
  const figures = (cell: Cell | null, of: readonly Column[]) =>
    of.map((column) => (
      <td key={column} className="figure">
        {cell === null ? '' : SAID[column](cell[column])}
      </td>
    ));
  return (
    <div className="min-h-0 flex-1 scroll" tabIndex={0} role="region" aria-label={`Options of ${chain.underlying}`}>
      <table className="list w-full">
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
          {rows.map(({ strike, call, put }, i) => (
            <tr
              key={strike}
              className={i === place ? 'border-t-2 border-lamp' : ''}
              title={i === place ? `the spot stands at ${chain.spot ?? '–'}` : undefined}
            >
              {figures(call, outward)}
              <Quote cell={call} shown={shown} press={press} />
              <td className="figure text-center font-semibold">{strike}</td>
              <Quote cell={put} shown={shown} press={press} />
              {figures(put, columns)}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/**
 * What an option is bid and asked: a press on the bid rests a buy there and on the ask a sell, in the slip; with Shift
 * it gathers a leg, which is bought at the ask and sold at the bid.
 */
function Quote({ cell, shown, press }: { cell: Cell | null; shown: string | null; press: Press }) {
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
}
