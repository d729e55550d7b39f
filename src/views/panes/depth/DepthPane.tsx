import { useStore } from '@nanostores/react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { formatPrice, formatQuantity, type Instrument, type Price } from '../../../core/instrument/index.ts';
import { consolidate, type ConsolidatedLevel } from '../../../core/market/index.ts';
import { grouped, shortened, signed } from '../../../kit/Figure.tsx';
import { Grid, useGrid, type GridColumn } from '../../../kit/Grid.tsx';
import { paintNoMore, paintSoon } from '../../../kit/pace.ts';
import { writeText, writeTitle, writeWash } from '../../../kit/write.ts';
import { followDepth, followQuote, instrumentOf, quoteOf, type LiveDepth, type LiveQuote } from '../../../live/index.ts';
import { OrderCells, orderCell } from '../../act/OrderCells.tsx';
import { $letters, $panes, setPaneSetting, targetOf } from '../../workspace/panes.ts';
import { DEPTH } from './settings.ts';
import { COMMON, readSettings } from '../../workspace/settings.ts';
import { usePaneCommands } from '../../act/keys.ts';

const SETTINGS = { ...DEPTH, ...COMMON } as const;
/** Below this width the number of orders gives way. */
const NARROW_PX = 350;
const ROW_PX = { tight: 22, easy: 28 } as const;

/** The displayed book of one instrument: per level price, quantity, orders and running totals. */
export default function DepthPane({ id }: { id: string }) {
  useStore($panes);
  useStore($letters);
  const target = targetOf(id);
  const instrument = target ? instrumentOf(target.instrument) : undefined;
  if (!target || !instrument) return <p className="p-2 text-quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  return <Depth key={instrument.id} id={id} account={target.account} instrument={instrument} />;
}

function Depth({ id, account, instrument }: { id: string; account: string; instrument: Instrument }) {
  const pane = useStore($panes)[id];
  const { columns, decimals, statistics, ...own } = readSettings(pane, SETTINGS);
  const group = Number(own.group);
  const rowPx = ROW_PX[own.density];
  const box = useRef<HTMLDivElement>(null);
  const [rows, setRows] = useState(10);
  const [narrow, setNarrow] = useState(false);
  const [known, setKnown] = useState(false);
  const market = useRef<{ depth: LiveDepth | null }>({ depth: null });
  const over = useRef(false);
  const held = useRef<{ bid: Price[]; ask: Price[] }>({ bid: [], ask: [] });

  // Other rows were asked for: what stood under the pointer stands no longer.
  useEffect(() => {
    held.current = { bid: [], ask: [] };
  }, [group, rows]);

  const paint = useCallback(() => {
    const { depth } = market.current;
    const element = box.current;
    if (!element || !depth) return;
    for (const side of ['bid', 'ask'] as const) {
      const levels = consolidate(instrument, side, (side === 'bid' ? depth.bids : depth.asks).values(), group);
      // Under the pointer the rows keep their prices; only what stands there changes.
      const prices = over.current && held.current[side].length > 0 ? held.current[side] : levels.slice(0, rows).map(({ price }) => price);
      held.current[side] = prices;
      const byPrice = new Map(levels.map((level) => [level.price, level]));
      const most = levels.slice(0, rows).reduce((sum, level) => Math.max(sum, level.quantity), 1);
      element.querySelectorAll<HTMLElement>('tr[data-key]').forEach((row, i) => writeLevel(row, side, instrument, prices[i], byPrice, most, decimals));
    }
  }, [instrument, group, rows, decimals]);

  useEffect(() => {
    const schedule = (): void => paintSoon(market, paint);
    const stops = [
      followDepth(instrument.id, (depth) => {
        market.current.depth = depth;
        setKnown(true);
        schedule();
      }),
      followQuote(instrument.id, () => undefined),
    ];
    schedule();
    return () => {
      for (const stop of stops) stop();
      paintNoMore(market);
    };
  }, [instrument.id, paint]);

  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      setRows(Math.max(2, Math.floor((element.clientHeight - 22) / rowPx)));
      setNarrow(element.clientWidth < NARROW_PX);
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [rowPx]);

  const grid = useGrid<number>({
    rows: useMemo(() => Array.from({ length: rows }, (_, i) => i), [rows]),
    columns: useMemo(() => [...columnsOf('bid', columns, narrow).reverse(), ...columnsOf('ask', columns, narrow)], [columns, narrow]),
    keyOf: String,
  });
  usePaneCommands(id, [
    { keys: ['+'], words: 'fewer ticks in a row', repeats: true, run: () => step(id, String(group), -1) },
    { keys: ['-'], words: 'more ticks in a row', repeats: true, run: () => step(id, String(group), 1) },
  ]);
  return (
    <div className="flex h-full flex-col" data-instrument={instrument.id}>
      {statistics && <Statistics instrument={instrument} />}
      <OrderCells
        pane={id}
        accountOf={() => account}
        className="min-h-0 flex-1"
        onHover={(is) => {
          over.current = is;
          if (!is) paint();
        }}
      >
        <div ref={box} className="h-full">
          {!known && <div className="skeleton absolute inset-0" role="status" aria-label="Loading depth" />}
          <Grid
            grid={grid}
            name={`Depth of ${instrument.id}, rows of ${group} ticks`}
            empty={null}
            menu={false}
            className="depth"
            rowProps={() => ({ style: { height: rowPx } })}
          />
        </div>
      </OrderCells>
    </div>
  );
}

/** A side's columns from the spine outward. Its cells are written as the market moves; price and quantity take presses. */
function columnsOf(side: 'bid' | 'ask', chosen: readonly string[], narrow: boolean): GridColumn<number>[] {
  const column = (part: string, head: string, isOrderCell = false): GridColumn<number> => ({
    id: `${side} ${part}`,
    head,
    figure: side === 'bid',
    cellProps: () => ({ ...(side === 'ask' ? { className: 'figure left' } : {}), ...(isOrderCell ? orderCell(side === 'bid' ? 'buy' : 'sell') : {}) }),
  });
  return [
    column('price', side, true),
    column('quantity', `${side} qty`, true),
    ...(chosen.includes('total') ? [column('total', 'total')] : []),
    ...(chosen.includes('orders') && !narrow ? [column('orders', 'orders')] : []),
  ];
}

function step(id: string, group: string, by: 1 | -1): void {
  const steps = DEPTH.group.options.map(([value]): string => value);
  setPaneSetting(id, 'group', steps[Math.max(0, Math.min(steps.length - 1, steps.indexOf(group) + by))]);
}

function writeLevel(
  row: HTMLElement,
  side: 'bid' | 'ask',
  instrument: Instrument,
  price: Price | undefined,
  levels: ReadonlyMap<number, ConsolidatedLevel>,
  most: number,
  decimals: string,
): void {
  const level = price === undefined ? undefined : levels.get(price);
  const cell = (part: string): HTMLElement | null => row.querySelector(`[data-column="${side} ${part}"]`);
  const put = (part: string, text: string, title = ''): HTMLElement | null => {
    const at = cell(part);
    if (!at) return null;
    writeText(at, text);
    writeTitle(at, title);
    const exact = price === undefined ? '' : formatPrice(instrument, price);
    if (at.dataset['orderSide'] && at.dataset['price'] !== exact) at.dataset['price'] = exact;
    return at;
  };
  const short = (text: string): string => grouped(decimals === 'own' ? text : shortened(text, Number(decimals)));
  put('price', price === undefined ? '' : formatPrice(instrument, price));
  const quantity = level ? formatQuantity(instrument, level.quantity) : '';
  const at = put('quantity', quantity === '' ? (price === undefined ? '' : '–') : short(quantity), quantity);
  put('orders', level?.orders === null || !level ? '' : String(level.orders));
  const total = level ? formatQuantity(instrument, level.total) : '';
  put('total', total === '' ? '' : short(total), total);
  if (!at) return;
  writeWash(at, side, (level?.quantity ?? 0) / most);
}

/** The day (round the clock: the last 24 hours) and the venue's price limits. */
function Statistics({ instrument }: { instrument: Instrument }) {
  const [quote, setQuote] = useState<LiveQuote | undefined>(() => quoteOf(instrument.id));
  useEffect(() => {
    let due: ReturnType<typeof setTimeout> | null = null;
    const stop = followQuote(instrument.id, (next) => {
      due ??= setTimeout(() => {
        due = null;
        setQuote(quoteOf(instrument.id) ?? next);
      }, 500);
    });
    return () => {
      stop();
      if (due) clearTimeout(due);
    };
  }, [instrument.id]);
  const text = quote?.text;
  const rolling = instrument.venue === 'VSPR';
  const cells: [string, string | null | undefined][] = [
    ['open', text?.open],
    ['high', text?.high],
    ['low', text?.low],
    ['vwap', text?.vwap ? shortened(text.vwap, instrument.priceDecimals + 1) : null],
    ['volume', text ? grouped(text.volume) : null],
    ['change', text?.change ? signed(text.change) : null],
    [
      'limits',
      text && (text.priceLimits.lower ?? text.priceLimits.upper) !== null ? `${text.priceLimits.lower ?? '–'} to ${text.priceLimits.upper ?? '–'}` : null,
    ],
  ];
  return (
    <dl
      className="flex max-h-[37px] shrink-0 flex-wrap gap-x-3 overflow-hidden border-b border-hair px-2 text-[12px]"
      aria-label={rolling ? 'The last 24 hours' : 'The day'}
    >
      {rolling && <dt className="text-quiet">24 h</dt>}
      {cells
        .filter(([, value]) => value !== null && value !== undefined)
        .map(([name, value]) => (
          <div key={name} className="flex gap-1">
            <dt className="text-quiet">{name}</dt>
            <dd className="figure">{value}</dd>
          </div>
        ))}
    </dl>
  );
}
