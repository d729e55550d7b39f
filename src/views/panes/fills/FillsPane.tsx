import { useStore } from '@nanostores/react';
import { clockText } from '../../kit/clock.ts';
import { grouped, resultClass, signed } from '../../kit/Figure.tsx';
import { InstrumentName, Pennant } from '../../kit/Instrument.tsx';
import { $fills, zoneOf } from '../../live/index.ts';
import { dragsInstrument } from '../workspace/drag.ts';
import { setting } from '../workspace/pane-settings.ts';
import { $panes, setInstrument } from '../workspace/panes.ts';
import { useListRows } from './rows.ts';
import { usePaneCommands } from '../act/keys.ts';

const SHOWN = 200;

/** Fills of all the user's accounts, newest first, in the time of their exchange. */
export function FillsPane({ id }: { id: string }) {
  const fills = useStore($fills);
  const columns = setting<readonly string[]>(useStore($panes)[id], 'columns');
  const shows = (column: string): boolean => columns.includes(column);
  const rows = [...fills].reverse().slice(0, SHOWN);
  const { ringed, ring, commands } = useListRows(
    rows.map((fill) => fill.id),
    (fillId) => {
      const fill = fills.find((one) => one.id === fillId);
      if (fill) setInstrument(id, fill.instrument, fill.account);
    },
  );
  usePaneCommands(id, commands);
  if (rows.length === 0) return <p className="p-2 quiet">No fills yet.</p>;
  return (
    <div className="scroll h-full" tabIndex={0} role="group" aria-label="Fills list">
      <table className="list">
        <caption className="sr-only">Fills</caption>
        <thead>
          <tr>
            <th>time</th>
            <th>side</th>
            <th className="right">qty</th>
            <th>instrument</th>
            {shows('price') && <th className="right">price</th>}
            {shows('fee') && <th className="right">fee</th>}
            {shows('realised') && <th className="right">realised</th>}
            {shows('account') && <th>account</th>}
          </tr>
        </thead>
        <tbody>
          {rows.map((fill) => (
            <tr key={fill.id} className={ringed === fill.id ? 'ringed' : ''} onPointerDown={(event) => event.button === 0 && ring(fill.id)}>
              <td className="figure !text-left">{clockText(zoneOf(fill.instrument), fill.time)}</td>
              <td>
                <Pennant side={fill.side} />
              </td>
              <td className="figure">{grouped(fill.quantity)}</td>
              <td {...dragsInstrument(fill.instrument)}>
                <InstrumentName id={fill.instrument} />
              </td>
              {shows('price') && <td className="figure">{fill.price}</td>}
              {shows('fee') && <td className="figure">{fill.fee}</td>}
              {shows('realised') && (
                <td className={`figure ${resultClass(fill.realised)}`}>{fill.role === 'entry' && Number(fill.realised) === 0 ? '' : signed(fill.realised)}</td>
              )}
              {shows('account') && <td>{fill.account}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
