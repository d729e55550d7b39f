import { useStore } from '@nanostores/react';
import { Link2, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { act } from '../../../client/gestures/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Empty } from '../../../kit/Empty.tsx';
import { grouped } from '../../../kit/Figure.tsx';
import { Filters } from '../../../kit/Filters.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName, Pennant } from '../../../kit/Instrument.tsx';
import { $orders, isWorking, type LiveOrder } from '../../../live/index.ts';
import { EmptyBook } from '../../act/EmptyBook.tsx';
import { HeldHere } from '../../act/HeldHere.tsx';
import { usePaneCommands } from '../../act/keys.ts';
import { chosenColumns, usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $panes, setInstrument } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { ORDERS } from './settings.ts';
import { WaitingOrders, stillWaits, useWaiting } from './WaitingOrders.tsx';

const FILTERS = ['working', 'waiting', 'done', 'rejected'] as const;
type Filter = (typeof FILTERS)[number];

const fits = (order: LiveOrder, filter: Filter): boolean =>
  // What waits for a condition is no order yet.
  filter === 'waiting'
    ? false
    : filter === 'working'
      ? isWorking(order)
      : filter === 'rejected'
        ? order.state === 'rejected'
        : !isWorking(order) && order.state !== 'rejected';

const EMPTY: Readonly<Record<Filter, string>> = {
  working: 'No working orders.',
  waiting: 'No order waits.',
  done: 'No orders are done yet.',
  rejected: 'Nothing was rejected.',
};

const priceText = (order: LiveOrder): string => {
  if (order.type === 'stop-limit') return `${order.stopPrice} → ${order.limitPrice}`;
  return order.limitPrice ?? order.stopPrice ?? 'market';
};

/** What a working order waits for. */
function waits(order: LiveOrder): string {
  if (!isWorking(order)) return '';
  if (order.stopPrice !== null && order.triggeredAt === null) return `for the ${order.triggerOn === 'last' ? 'last trade' : order.triggerOn}`;
  return order.ahead === null ? '' : `${grouped(order.ahead)} ahead`;
}

const text = (id: string, of: (order: LiveOrder) => string): GridColumn<LiveOrder> => ({ id, head: id, cell: of, value: of });

/** The columns; `edited` is the order whose price is being edited, `showsUntil` whether the time in force has its own. */
const columnsFor = (pane: string, edited: string | null, setEdited: (id: string | null) => void, showsUntil: boolean): readonly GridColumn<LiveOrder>[] => [
  { id: 'side', head: 'side', cell: (order) => <Pennant side={order.side} />, value: (order) => order.side },
  {
    id: 'quantity',
    head: 'qty',
    figure: true,
    cell: (order) => grouped(order.quantity),
    value: (order) => Number(order.quantity),
    csv: (order) => order.quantity,
  },
  {
    id: 'instrument',
    head: 'instrument',
    cell: (order) => <InstrumentName id={order.instrument} />,
    cellProps: (order) => dragsInstrument(order.instrument),
    value: (order) => order.instrument,
  },
  text('type', (order) => order.type),
  {
    id: 'price',
    head: 'price',
    figure: true,
    cell: (order) => (edited === order.id ? <PriceCell order={order} pane={pane} onDone={() => setEdited(null)} /> : priceText(order)),
    cellProps: (order) => ({ onDoubleClick: () => isWorking(order) && setEdited(order.id) }),
    value: (order) => Number(order.limitPrice ?? order.stopPrice ?? 0),
    csv: priceText,
  },
  text('until', (order) => order.timeInForce),
  {
    id: 'state',
    head: 'state',
    cell: (order) => (
      <>
        <StateWord order={order} />
        {!showsUntil && order.timeInForce !== 'day' && <span className="text-quiet"> · {order.timeInForce}</span>}
      </>
    ),
    value: (order) => order.state,
  },
  { ...text('waits', waits), cellProps: () => ({ className: 'text-quiet' }) },
  {
    id: 'held',
    head: 'held',
    cell: (order) => (
      <span className="flex items-center gap-1">
        <HeldHere held={order.heldBy} suspended={order.state === 'suspended'} />
        {order.group !== null && isWorking(order) && (
          <span className="text-quiet" title="One of a group: a fill of one lowers or cancels the others.">
            <Link2 size={12} aria-label="one of a group" />
          </span>
        )}
      </span>
    ),
    value: (order) => `${order.heldBy} ${order.group ?? ''}`,
    csv: (order) => order.heldBy,
  },
  text('role', (order) => (order.plan === null || order.role === 'entry' ? order.role : `${order.role} of a plan`)),
  {
    id: 'filled',
    head: 'filled',
    figure: true,
    cell: (order) => (order.filledQuantity === '0' ? '' : grouped(order.filledQuantity)),
    cellProps: (order) => ({ title: order.filledQuantity === '0' ? undefined : `at ${order.averagePrice} on average` }),
    value: (order) => Number(order.filledQuantity),
    csv: (order) => order.filledQuantity,
  },
  text('account', (order) => order.account),
  {
    id: 'cancel',
    head: 'cancel',
    sticks: true,
    cell: (order) =>
      isWorking(order) && (
        <button
          type="button"
          className="grid h-[24px] w-[24px] place-items-center"
          aria-label={`Cancel: ${order.sentence}`}
          onClick={() => act(pane, 'tables', { kind: 'cancel', order })}
        >
          <X size={13} />
        </button>
      ),
  },
];

const GROUPS = [
  { id: 'instrument', words: 'instrument', of: (order: LiveOrder) => order.instrument },
  { id: 'account', words: 'account', of: (order: LiveOrder) => order.account },
  { id: 'side', words: 'side', of: (order: LiveOrder) => order.side },
  { id: 'group', words: 'group', of: (order: LiveOrder) => order.group ?? 'in no group' },
];

/** Orders of all the user's accounts. A press rings a row; `Delete` cancels what is ringed, `F2` edits its price. */
export default function OrdersPane({ id }: { id: string }) {
  const book = useStore($orders);
  const pane = useStore($panes)[id];
  const [filter, setFilter] = useState<Filter>('working');
  const [edited, setEdited] = useState<string | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string>>(NONE);
  const { columns, by } = useSettings(pane, ORDERS);
  const all = useMemo(() => [...book.all.values()].reverse(), [book]);
  const rows = useMemo(() => all.filter((order) => fits(order, filter)), [all, filter]);
  const count = (of: Filter): number => all.filter((order) => fits(order, of)).length;
  const shown = useMemo(
    () => chosenColumns(columnsFor(id, edited, setEdited, columns.includes('until')), ORDERS.columns.options, columns),
    [columns, edited, id],
  );
  const grid = usePaneGrid({ pane, rows, of: filter, columns: shown, keyOf: (order) => order.id, groups: GROUPS, groupBy: by });
  const { ringed, ring, commands } = useRinged(grid.keys, (key) => {
    const order = book.all.get(key);
    if (order) setInstrument(id, order.instrument, order.account);
  });
  const waiting = useWaiting(filter === 'waiting');
  const order = ringed === null ? undefined : book.all.get(ringed);
  const chosen = rows.filter((one) => picked.has(one.id) && isWorking(one));
  const pick = (one: LiveOrder | undefined): void => {
    if (!one || !isWorking(one)) return;
    const next = new Set(chosen.map((other) => other.id));
    if (!next.delete(one.id)) next.add(one.id);
    setPicked(next);
  };
  const notRinged = order ? null : 'nothing is ringed: press a row first';
  usePaneCommands(id, [
    ...commands,
    {
      keys: ['Delete'],
      words: 'cancel the ringed order',
      order: true,
      cannot: () => notRinged ?? (order && !isWorking(order) ? `it is ${order.state} and can’t be cancelled` : null),
      run: () => void (order && act(id, 'tables', { kind: 'cancel', order })),
    },
    { keys: ['+', 'Shift++'], words: 'add the ringed order to the selection, or take it out', cannot: () => notRinged, run: () => pick(order) },
    { keys: ['F2'], words: 'another price for the ringed order', cannot: () => notRinged, run: () => setEdited(ringed) },
  ]);
  return (
    <div className="flex h-full flex-col">
      <Filters
        label="Which orders"
        options={FILTERS.map((value) => ({ value, words: `${value} ${value === 'waiting' ? waiting.filter(stillWaits).length : count(value)}` }))}
        chosen={filter}
        onChoose={setFilter}
      />
      {filter === 'waiting' ? (
        <WaitingOrders pane={id} waiting={waiting} />
      ) : (
        <Grid
          className="min-h-0 flex-1"
          grid={grid}
          name={`Orders, ${filter}`}
          empty={
            filter === 'working' ? (
              <EmptyBook says={EMPTY.working} />
            ) : (
              <Empty says={EMPTY[filter]} offers="show what works" onOffer={() => setFilter('working')} />
            )
          }
          ringed={ringed}
          onRing={ring}
          rowProps={(one) => ({
            'aria-selected': picked.has(one.id),
            onPointerDown: (event: React.PointerEvent) => event.ctrlKey && pick(one),
            className: picked.has(one.id) ? 'bg-raised' : '',
            'data-order': one.id,
            'aria-label': one.sentence,
            title: one.sentence,
          })}
        />
      )}
      {chosen.length > 0 && <Selection pane={id} orders={chosen} onDone={() => setPicked(NONE)} />}
    </div>
  );
}

const NONE: ReadonlySet<string> = new Set();

/** What can be done with several orders at once. Never a mode: the line goes with the selection. */
function Selection({ pane, orders, onDone }: { pane: string; orders: readonly LiveOrder[]; onDone: () => void }) {
  const cannot = whyNotLinked(orders);
  return (
    <div className="flex min-h-[28px] shrink-0 flex-wrap items-center gap-2 border-t border-hair px-2" role="group" aria-label="Selected orders">
      <span>{orders.length} selected</span>
      <Button
        size="small"
        disabled={cannot !== null}
        title={cannot ?? 'A fill of one lowers the others by as much, or cancels them.'}
        onClick={() => {
          act(pane, 'tables', { kind: 'link', orders });
          onDone();
        }}
      >
        link as a group
      </Button>
      <Button
        size="small"
        onClick={() => {
          for (const order of orders) act(pane, 'tables', { kind: 'cancel', order });
          onDone();
        }}
      >
        cancel {orders.length}
      </Button>
      <Button size="small" onClick={onDone}>
        select none
      </Button>
      {cannot !== null && orders.length > 1 && <span className="text-quiet">{cannot}</span>}
    </div>
  );
}

/** Why orders can't be one group, or null. */
function whyNotLinked(orders: readonly LiveOrder[]): string | null {
  const [first] = orders;
  if (!first || orders.length < 2) return 'a group takes two orders or more';
  if (orders.some((one) => one.account !== first.account || one.instrument !== first.instrument)) return 'a group is of one account and one instrument';
  if (orders.some((one) => one.units.remaining !== first.units.remaining)) return 'the orders of a group have one remaining quantity';
  if (orders.some((one) => one.group !== null)) return 'one of them is in a group already';
  const waitsHere = (one: LiveOrder): boolean => one.heldBy === 'here' && one.triggeredAt === null;
  return orders.some((one) => waitsHere(one) !== waitsHere(first)) ? 'a group is held in one place, here or at the venue' : null;
}

function StateWord({ order }: { order: LiveOrder }) {
  const pending = order.state.startsWith('pending');
  const reason = order.reasonCode && order.reasonCode !== 'user' ? ` · ${order.reasonCode}` : '';
  if (pending) return <span className="plate pending">{order.state}</span>;
  return (
    <span className={order.state === 'rejected' || order.state === 'suspended' ? 'plate heather' : ''} title={order.reason ?? undefined}>
      {order.state}
      {reason}
    </span>
  );
}

/** An edited price: Enter sends the change, Esc leaves it as it was. */
function PriceCell({ order, pane, onDone }: { order: LiveOrder; pane: string; onDone: () => void }) {
  const field = order.stopPrice !== null && order.triggeredAt === null ? 'stopPrice' : 'limitPrice';
  const [typed, setTyped] = useState(order[field] ?? '');
  return (
    <input
      autoFocus
      className="field figure w-[72px] h-[20px]"
      aria-label={`New price of ${order.sentence}`}
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={onDone}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') onDone();
        if (event.key !== 'Enter' || event.repeat) return;
        act(pane, 'tables', { kind: 'change', order, change: { [field]: typed.trim() } });
        onDone();
      }}
    />
  );
}
