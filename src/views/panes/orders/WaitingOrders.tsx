import { useStore } from '@nanostores/react';
import { act } from '../../../client/gestures/index.ts';
import { distanceWords } from '../../../client/waiting.ts';
import { Button } from '../../../kit/Button.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import type { ApiWaiting } from '../../../live/index.ts';
import { HeldHere } from '../../act/HeldHere.tsx';
import { usePaneCommands } from '../../act/keys.ts';
import { useAsked } from '../../act/queries.tsx';
import { usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $panes, setInstrument } from '../../workspace/panes.ts';

const AGAIN_MS = 2000;
/** While only how many there are is shown. */
const COUNTED_MS = 5000;

/** Orders that wait for a condition, of all the user's accounts; `shown` where they are the list. */
export const useWaiting = (shown: boolean): readonly ApiWaiting[] =>
  useAsked('GET /api/conditional-orders', {}, { everyMs: shown ? AGAIN_MS : COUNTED_MS }).data?.items ?? [];

export const stillWaits = ({ state }: ApiWaiting): boolean => state === 'waiting' || state === 'suspended';

/** What will be asked for: a phrase as it was written, an order in a few words. */
function orderText({ order }: ApiWaiting): string {
  if (typeof order === 'string') return order;
  const { side, quantity, type, limitPrice, stopPrice } = order as Readonly<Record<string, string | undefined>>;
  return [side, quantity, type, limitPrice ?? stopPrice].filter(Boolean).join(' ');
}

const columnsFor = (pane: string): readonly GridColumn<ApiWaiting>[] => [
  {
    id: 'instrument',
    head: 'instrument',
    cell: (one) => <InstrumentName id={one.instrument} />,
    cellProps: (one) => dragsInstrument(one.instrument),
    value: (one) => one.instrument,
  },
  {
    id: 'when',
    head: 'when',
    cell: (one) => one.when,
    cellProps: (one) => ({ className: 'max-w-[220px] truncate', title: one.when }),
    value: (one) => one.when,
  },
  { id: 'now', head: 'now', cell: (one) => <Distance waiting={one} />, cellProps: () => ({ className: 'w-full max-w-0 truncate' }) },
  { id: 'order', head: 'then', cell: orderText, value: orderText },
  { id: 'held', head: 'held', cell: (one) => <HeldHere held="here" suspended={one.state === 'suspended'} />, value: (one) => one.state },
  { id: 'account', head: 'account', cell: (one) => one.account, value: (one) => one.account },
  {
    id: 'end',
    head: 'end',
    sticks: true,
    cell: (one) => (
      <Button size="small" onClick={() => act(pane, 'tables', { kind: 'end-wait', waiting: one })}>
        end it
      </Button>
    ),
  },
];

/** How far it is from being true, in words. */
function Distance({ waiting: { when, instrument } }: { waiting: ApiWaiting }) {
  const { data } = useAsked('POST /api/phrases/condition', { body: { phrase: when, instrument } }, { everyMs: AGAIN_MS });
  if (!data?.ok) return '–';
  const words = distanceWords(when, data.value, data.parts);
  return <span title={words}>{words}</span>;
}

/** Orders that are held here until a condition is true: with what it looks at now. */
export function WaitingOrders({ pane: id, waiting }: { pane: string; waiting: readonly ApiWaiting[] }) {
  const pane = useStore($panes)[id];
  const rows = waiting.filter(stillWaits);
  const grid = usePaneGrid({ pane, rows, of: 'waiting', columns: columnsFor(id), keyOf: (one) => one.id });
  const { ringed, ring, commands } = useRinged(grid.keys, (key) => {
    const one = rows.find((row) => row.id === key);
    if (one) setInstrument(id, one.instrument, one.account);
  });
  const one = rows.find((row) => row.id === ringed);
  usePaneCommands(id, [
    ...commands,
    {
      keys: ['Delete'],
      words: 'end the ringed wait',
      order: true,
      cannot: () => (one ? null : 'nothing is ringed: press a row first'),
      run: () => void (one && act(id, 'tables', { kind: 'end-wait', waiting: one })),
    },
  ]);
  return (
    <Grid
      className="min-h-0 flex-1"
      grid={grid}
      name="Orders, waiting"
      empty="No order waits for a condition. A ticket with a “when” makes one."
      ringed={ringed}
      onRing={ring}
    />
  );
}
