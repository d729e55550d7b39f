import { useStore } from '@nanostores/react';
import { useMemo, type ReactNode } from 'react';
import { act } from '../../../client/gestures/index.ts';
import { $directSend } from '../../../client/session.ts';
import { Button } from '../../../kit/Button.tsx';
import { grouped, resultClass, shortened, signed } from '../../../kit/Figure.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { $positions, instrumentOf, positionKey, type ApiPosition } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { chosenColumns, usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $panes, setInstrument } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { POSITIONS } from './settings.ts';

function ifStopped(position: ApiPosition): ReactNode {
  if (position.quantity === '0') return '';
  return position.openRisk === null ? <span className="plate heather">no stop</span> : `−${position.openRisk.replace('-', '')}`;
}

const keyOf = (position: ApiPosition): string => positionKey(position.account, position.instrument);
const result = (id: string, head: string, of: (position: ApiPosition) => string): GridColumn<ApiPosition> => ({
  id,
  head,
  figure: true,
  cell: (position) => signed(of(position)),
  cellProps: (position) => ({ className: resultClass(of(position)) }),
  value: (position) => Number(of(position)),
  csv: of,
});

const COLUMNS: readonly GridColumn<ApiPosition>[] = [
  {
    id: 'instrument',
    head: 'instrument',
    cell: (position) => <InstrumentName id={position.instrument} />,
    cellProps: (position) => dragsInstrument(position.instrument),
    value: (position) => position.instrument,
  },
  {
    id: 'quantity',
    head: 'qty',
    figure: true,
    cell: (position) => grouped(position.quantity.replace('-', '−')),
    value: (position) => Number(position.quantity),
    csv: (position) => position.quantity,
  },
  { id: 'account', head: 'account', cell: (position) => position.account, value: (position) => position.account },
  {
    id: 'average',
    head: 'average',
    figure: true,
    cell: (position) => (position.averagePrice === null ? '–' : shortened(position.averagePrice, (instrumentOf(position.instrument)?.priceDecimals ?? 2) + 1)),
    cellProps: (position) => ({ title: position.averagePrice ?? undefined }),
    value: (position) => Number(position.averagePrice ?? 0),
    csv: (position) => position.averagePrice ?? '',
  },
  {
    id: 'mark',
    head: 'mark',
    figure: true,
    cell: (position) => position.mark ?? '–',
    value: (position) => Number(position.mark ?? 0),
    csv: (position) => position.mark ?? '',
  },
  result('open', 'open', (position) => position.unrealised),
  result('net', 'net today', (position) => position.day.net),
  {
    id: 'stopped',
    head: 'if stopped',
    figure: true,
    cell: ifStopped,
    value: (position) => (position.openRisk === null ? undefined : Number(position.openRisk)),
    csv: (position) => position.openRisk ?? '',
  },
];

const GROUPS = [
  { id: 'account', words: 'account', of: (position: ApiPosition) => position.account },
  { id: 'venue', words: 'venue', of: (position: ApiPosition) => instrumentOf(position.instrument)?.venue ?? '–' },
  { id: 'kind', words: 'kind', of: (position: ApiPosition) => instrumentOf(position.instrument)?.kind ?? '–' },
];

/** Open positions of all the user's accounts, and those closed today. */
export default function PositionsPane({ id }: { id: string }) {
  const positions = useStore($positions);
  const direct = useStore($directSend).tables;
  const pane = useStore($panes)[id];
  const { columns, by } = useSettings(pane, POSITIONS);
  const rows = useMemo(
    () => Object.values(positions).sort((a, b) => Number(b.quantity !== '0') - Number(a.quantity !== '0') || (keyOf(a) < keyOf(b) ? -1 : 1)),
    [positions],
  );
  const shown = useMemo((): GridColumn<ApiPosition>[] => {
    const close: GridColumn<ApiPosition> = {
      id: 'close',
      head: 'close',
      sticks: true,
      cell: ({ account, instrument, quantity }) =>
        quantity !== '0' && (
          <Button size="small" broken={direct === 'off'} onClick={() => act(id, 'tables', { kind: 'close', account, instrument })}>
            close {grouped(quantity.replace('-', ''))}
          </Button>
        ),
    };
    return [...chosenColumns(COLUMNS, POSITIONS.columns.options, columns), close];
  }, [columns, direct, id]);
  const grid = usePaneGrid({ pane, rows, columns: shown, keyOf, groups: GROUPS, groupBy: by });
  const { ringed, ring, commands } = useRinged(grid.keys, (key) => {
    const position = positions[key];
    if (position) setInstrument(id, position.instrument, position.account);
  });
  usePaneCommands(id, commands);
  return (
    <Grid
      grid={grid}
      name="Positions"
      empty={<p className="text-quiet">No positions. A fill in any account shows here.</p>}
      ringed={ringed}
      onRing={ring}
      rowProps={(position) => ({ 'data-position': keyOf(position) })}
    />
  );
}
