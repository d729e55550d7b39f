import { useStore } from '@nanostores/react';
import { useMemo, type ReactElement, type ReactNode } from 'react';
import { act } from '../../client/gestures/index.ts';
import { $directSend } from '../../client/session.ts';
import { grouped, resultClass, shortened, signed } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { $positions, instrumentOf, positionKey, type ApiPosition } from '../../live/index.ts';
import { dragsInstrument } from '../workspace/drag.ts';
import { setting } from '../workspace/pane-settings.ts';
import { $panes, setInstrument } from '../workspace/panes.ts';
import { useListRows } from './rows.ts';
import { usePaneCommands } from '../act/keys.ts';

/** The columns there can be, each with its head and its cell. */
const COLUMNS: Readonly<Record<string, { readonly head: string; readonly cell: (position: ApiPosition) => ReactElement }>> = {
  account: { head: 'account', cell: (position) => <td key="account">{position.account}</td> },
  average: {
    head: 'average',
    cell: (position) => (
      <td key="average" className="figure" title={position.averagePrice ?? undefined}>
        {position.averagePrice === null ? '–' : shortened(position.averagePrice, (instrumentOf(position.instrument)?.priceDecimals ?? 2) + 1)}
      </td>
    ),
  },
  mark: {
    head: 'mark',
    cell: (position) => (
      <td key="mark" className="figure">
        {position.mark ?? '–'}
      </td>
    ),
  },
  open: {
    head: 'open',
    cell: (position) => (
      <td key="open" className={`figure ${resultClass(position.unrealised)}`}>
        {signed(position.unrealised)}
      </td>
    ),
  },
  net: {
    head: 'net today',
    cell: (position) => (
      <td key="net" className={`figure ${resultClass(position.day.net)}`}>
        {signed(position.day.net)}
      </td>
    ),
  },
  stopped: {
    head: 'if stopped',
    cell: (position) => (
      <td key="stopped" className="figure">
        {ifStopped(position)}
      </td>
    ),
  },
};

function ifStopped(position: ApiPosition): ReactNode {
  if (position.quantity === '0') return '';
  return position.openRisk === null ? <span className="plate heather">no stop</span> : `−${position.openRisk.replace('-', '')}`;
}

const keyOf = (position: ApiPosition): string => positionKey(position.account, position.instrument);

/** Open positions of all the user's accounts, and those closed today. */
export function PositionsPane({ id }: { id: string }) {
  const positions = useStore($positions);
  const direct = useStore($directSend);
  const columns = setting<readonly string[]>(useStore($panes)[id], 'columns');
  const rows = useMemo(
    () => Object.values(positions).sort((a, b) => Number(b.quantity !== '0') - Number(a.quantity !== '0') || (keyOf(a) < keyOf(b) ? -1 : 1)),
    [positions],
  );
  const { ringed, ring, commands } = useListRows(rows.map(keyOf), (key) => {
    const position = positions[key];
    if (position) setInstrument(id, position.instrument, position.account);
  });
  usePaneCommands(id, commands);
  const close = (position: ApiPosition): void => void act(id, 'tables', { kind: 'close', account: position.account, instrument: position.instrument });
  if (rows.length === 0) return <p className="p-2 quiet">No positions. A fill in any account shows here.</p>;
  return (
    <div className="scroll h-full" tabIndex={0} role="group" aria-label="Positions list">
      <table className="list">
        <caption className="sr-only">Positions</caption>
        <thead>
          <tr>
            <th>instrument</th>
            <th className="right">qty</th>
            {columns.map((column) => (
              <th key={column} className={column === 'account' ? '' : 'right'}>
                {COLUMNS[column]?.head}
              </th>
            ))}
            <th>
              <span className="sr-only">close</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((position) => (
            <tr
              key={keyOf(position)}
              className={ringed === keyOf(position) ? 'ringed' : ''}
              onPointerDown={(event) => event.button === 0 && ring(keyOf(position))}
              data-position={keyOf(position)}
            >
              <td {...dragsInstrument(position.instrument)}>
                <InstrumentName id={position.instrument} />
              </td>
              <td className="figure">{grouped(position.quantity.replace('-', '−'))}</td>
              {columns.map((column) => COLUMNS[column]?.cell(position))}
              <td className="act right">
                {position.quantity !== '0' && (
                  <button
                    type="button"
                    className={`control !min-h-[20px] !px-2 ${direct.tables === 'off' ? 'opens-slip' : ''}`}
                    onClick={() => close(position)}
                  >
                    close {grouped(position.quantity.replace('-', ''))}
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
