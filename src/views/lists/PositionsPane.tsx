import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import { grouped, resultClass, shortened, signed } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { $positions, instrumentOf, positionKey, type ApiPosition } from '../../live/index.ts';
import { closePosition } from '../act/send.ts';
import { openSlip } from '../slip/slip-store.ts';
import { $directSend, setInstrument } from '../workspace/panes.ts';
import { useListRows } from './rows.ts';

const keyOf = (position: ApiPosition): string => positionKey(position.account, position.instrument);

/** Open positions of all the user's accounts, and those closed today. */
export function PositionsPane({ id }: { id: string }) {
  const positions = useStore($positions);
  const direct = useStore($directSend);
  const rows = useMemo(
    () => Object.values(positions).sort((a, b) => Number(b.quantity !== '0') - Number(a.quantity !== '0') || (keyOf(a) < keyOf(b) ? -1 : 1)),
    [positions],
  );
  const { ringed, ring, onKeyDown } = useListRows(rows.map(keyOf), (key) => {
    const position = positions[key];
    if (position) setInstrument(id, position.instrument, position.account);
  });
  const close = (position: ApiPosition): void => {
    if (direct.tables !== 'off') void closePosition(id, position.account, position.instrument);
    else {
      const held = Number(position.quantity);
      openSlip(id, {
        account: position.account,
        instrument: position.instrument,
        side: held > 0 ? 'sell' : 'buy',
        type: 'market',
        quantity: position.quantity.replace('-', ''),
        reduceOnly: true,
      });
    }
  };
  if (rows.length === 0) return <p className="p-2 quiet">No positions. A fill in any account shows here.</p>;
  return (
    <div className="scroll h-full" tabIndex={0} role="group" aria-label="Positions list" onKeyDown={onKeyDown}>
      <table className="list">
        <caption className="sr-only">Positions</caption>
        <thead>
          <tr>
            <th>instrument</th>
            <th>account</th>
            <th className="right">qty</th>
            <th className="right">average</th>
            <th className="right">mark</th>
            <th className="right">open</th>
            <th className="right">net today</th>
            <th className="right">if stopped</th>
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
              <td>
                <InstrumentName id={position.instrument} />
              </td>
              <td>{position.account}</td>
              <td className="figure">{grouped(position.quantity.replace('-', '−'))}</td>
              <td className="figure" title={position.averagePrice ?? undefined}>
                {position.averagePrice === null ? '–' : shortened(position.averagePrice, (instrumentOf(position.instrument)?.priceDecimals ?? 2) + 1)}
              </td>
              <td className="figure">{position.mark ?? '–'}</td>
              <td className={`figure ${resultClass(position.unrealised)}`}>{signed(position.unrealised)}</td>
              <td className={`figure ${resultClass(position.day.net)}`}>{signed(position.day.net)}</td>
              <td className="figure">
                {position.quantity === '0' ? (
                  ''
                ) : position.openRisk === null ? (
                  <span className="plate heather">no stop</span>
                ) : (
                  `−${position.openRisk.replace('-', '')}`
                )}
              </td>
              <td className="right">
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
