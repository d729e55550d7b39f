import { useStore } from '@nanostores/react';
import { X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { act } from '../../client/gestures/index.ts';
import { grouped } from '../../kit/Figure.tsx';
import { InstrumentName, Pennant } from '../../kit/Instrument.tsx';
import { $orders, isWorking, type ApiOrder } from '../../live/index.ts';
import { dragsInstrument } from '../workspace/drag.ts';
import { setting } from '../workspace/pane-settings.ts';
import { $panes, setInstrument } from '../workspace/panes.ts';
import { useListRows } from './rows.ts';
import { usePaneCommands } from '../act/keys.ts';

const FILTERS = ['working', 'done', 'rejected'] as const;
type Filter = (typeof FILTERS)[number];

const fits = (order: ApiOrder, filter: Filter): boolean =>
  filter === 'working' ? isWorking(order) : filter === 'rejected' ? order.state === 'rejected' : !isWorking(order) && order.state !== 'rejected';

const priceText = (order: ApiOrder): string => {
  if (order.type === 'stop-limit') return `${order.stopPrice} → ${order.limitPrice}`;
  return order.limitPrice ?? order.stopPrice ?? 'market';
};

/** What a working order waits for. */
function waits(order: ApiOrder): string {
  if (!isWorking(order)) return '';
  if (order.stopPrice !== null && order.triggeredAt === null) return `for the ${order.triggerOn === 'last' ? 'last trade' : order.triggerOn}`;
  return order.ahead === null ? '' : `${grouped(order.ahead)} ahead`;
}

/** Orders of all the user's accounts. A press rings a row; `Delete` cancels what is ringed, `F2` edits its price. */
export function OrdersPane({ id }: { id: string }) {
  const orders = useStore($orders);
  const [filter, setFilter] = useState<Filter>('working');
  const columns = setting<readonly string[]>(useStore($panes)[id], 'columns');
  const shows = (column: string): boolean => columns.includes(column);
  const all = useMemo(() => Object.values(orders).sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1)), [orders]);
  const rows = all.filter((order) => fits(order, filter)).slice(0, 200);
  const count = (of: Filter): number => all.filter((order) => fits(order, of)).length;
  const { ringed, ring, commands } = useListRows(
    rows.map((order) => order.id),
    (orderId) => {
      const order = orders[orderId];
      if (order) setInstrument(id, order.instrument, order.account);
    },
  );
  const [edited, setEdited] = useState<string | null>(null);
  const order = ringed === null ? undefined : orders[ringed];
  const notRinged = order ? null : 'nothing is ringed: press a row first';
  usePaneCommands(id, [
    ...commands,
    {
      keys: ['Delete'],
      words: 'cancel the ringed order',
      cannot: () => notRinged ?? (order && !isWorking(order) ? `it is ${order.state} and can’t be cancelled` : null),
      run: () => void (order && act(id, 'tables', { kind: 'cancel', order })),
    },
    { keys: ['F2'], words: 'another price for the ringed order', cannot: () => notRinged, run: () => setEdited(ringed) },
  ]);
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[22px] shrink-0 items-center gap-3 px-2" role="group" aria-label="Which orders">
        {FILTERS.map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={filter === one}
            className={filter === one ? 'underline underline-offset-4' : 'quiet'}
            onClick={() => setFilter(one)}
          >
            {one} {count(one)}
          </button>
        ))}
      </div>
      <div className="scroll min-h-0 flex-1" tabIndex={0} role="group" aria-label="Orders list">
        {rows.length === 0 ? (
          <p className="p-2 quiet">{filter === 'working' ? 'No working orders.' : filter === 'done' ? 'No orders are done yet.' : 'Nothing was rejected.'}</p>
        ) : (
          <table className="list">
            <caption className="sr-only">Orders, {filter}</caption>
            <thead>
              <tr>
                <th>side</th>
                <th className="right">qty</th>
                <th>instrument</th>
                {shows('type') && <th>type</th>}
                {shows('price') && <th className="right">price</th>}
                {shows('until') && <th>until</th>}
                {shows('state') && <th>state</th>}
                {shows('waits') && <th>waits</th>}
                {shows('filled') && <th className="right">filled</th>}
                {shows('account') && <th>account</th>}
                <th>
                  <span className="sr-only">cancel</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {rows.map((order) => (
                <tr
                  key={order.id}
                  className={ringed === order.id ? 'ringed' : ''}
                  aria-label={order.sentence}
                  title={order.sentence}
                  onPointerDown={(event) => event.button === 0 && ring(order.id)}
                  data-order={order.id}
                >
                  <td>
                    <Pennant side={order.side} />
                  </td>
                  <td className="figure">{grouped(order.quantity)}</td>
                  <td {...dragsInstrument(order.instrument)}>
                    <InstrumentName id={order.instrument} />
                  </td>
                  {shows('type') && <td>{order.type}</td>}
                  {shows('price') && (
                    <td className="figure" onDoubleClick={() => isWorking(order) && setEdited(order.id)}>
                      {edited === order.id ? <PriceCell order={order} pane={id} onDone={() => setEdited(null)} /> : priceText(order)}
                    </td>
                  )}
                  {shows('until') && <td>{order.timeInForce}</td>}
                  {shows('state') && (
                    <td>
                      <StateWord order={order} />
                      {!shows('until') && order.timeInForce !== 'day' && <span className="quiet"> · {order.timeInForce}</span>}
                    </td>
                  )}
                  {shows('waits') && <td className="quiet">{waits(order)}</td>}
                  {shows('filled') && (
                    <td className="figure" title={order.filledQuantity === '0' ? undefined : `at ${order.averagePrice} on average`}>
                      {order.filledQuantity === '0' ? '' : grouped(order.filledQuantity)}
                    </td>
                  )}
                  {shows('account') && <td>{order.account}</td>}
                  <td className="act right">
                    {isWorking(order) && (
                      <button
                        type="button"
                        className="grid h-[22px] w-[24px] place-items-center"
                        aria-label={`Cancel: ${order.sentence}`}
                        onClick={() => act(id, 'tables', { kind: 'cancel', order })}
                      >
                        <X size={13} />
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </div>
  );
}

function StateWord({ order }: { order: ApiOrder }) {
  const pending = order.state.startsWith('pending');
  const reason = order.reasonCode && order.reasonCode !== 'user' ? ` · ${order.reasonCode}` : '';
  if (pending) return <span className="plate pending">{order.state}</span>;
  return (
    <span className={order.state === 'rejected' ? 'plate heather' : ''} title={order.reason ?? undefined}>
      {order.state}
      {reason}
    </span>
  );
}

/** An edited price: Enter sends the change, Esc leaves it as it was. */
function PriceCell({ order, pane, onDone }: { order: ApiOrder; pane: string; onDone: () => void }) {
  const field = order.stopPrice !== null && order.triggeredAt === null ? 'stopPrice' : 'limitPrice';
  const [text, setText] = useState(order[field] ?? '');
  return (
    <input
      autoFocus
      className="field figure w-[72px] !h-[20px]"
      aria-label={`New price of ${order.sentence}`}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={onDone}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') onDone();
        if (event.key !== 'Enter' || event.repeat) return;
        act(pane, 'tables', { kind: 'change', order, change: { [field]: text.trim() } });
        onDone();
      }}
    />
  );
}
