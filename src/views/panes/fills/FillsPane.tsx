import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import { clockText } from '../../../kit/clock.ts';
import { grouped, resultClass, signed } from '../../../kit/Figure.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName, Pennant } from '../../../kit/Instrument.tsx';
import { MenuItem } from '../../../kit/Menu.tsx';
import { saveAddress } from '../../../kit/save-file.ts';
import { $fills, zoneOf, type ApiFill } from '../../../live/index.ts';
import { EmptyBook } from '../../act/EmptyBook.tsx';
import { usePaneCommands } from '../../act/keys.ts';
import { MoneyTotal } from '../../act/MoneyTotal.tsx';
import { chosenColumns, usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $panes, setInstrument } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { FILLS } from './settings.ts';

const realisedText = (fill: ApiFill): string => (fill.role === 'entry' && Number(fill.realised) === 0 ? '' : signed(fill.realised));

const COLUMNS: readonly GridColumn<ApiFill>[] = [
  {
    id: 'time',
    head: 'time',
    cell: (fill) => <span className="figure">{clockText(zoneOf(fill.instrument), fill.time)}</span>,
    value: (fill) => fill.seq,
    csv: (fill) => fill.time,
  },
  { id: 'side', head: 'side', cell: (fill) => <Pennant side={fill.side} />, value: (fill) => fill.side },
  {
    id: 'quantity',
    head: 'qty',
    figure: true,
    cell: (fill) => grouped(fill.quantity),
    value: (fill) => Number(fill.quantity),
    csv: (fill) => fill.quantity,
  },
  {
    id: 'instrument',
    head: 'instrument',
    cell: (fill) => <InstrumentName id={fill.instrument} />,
    cellProps: (fill) => dragsInstrument(fill.instrument),
    value: (fill) => fill.instrument,
  },
  { id: 'price', head: 'price', figure: true, cell: (fill) => fill.price, value: (fill) => Number(fill.price), csv: (fill) => fill.price },
  {
    id: 'fee',
    head: 'fee',
    figure: true,
    cell: (fill) => fill.fee,
    value: (fill) => Number(fill.fee),
    csv: (fill) => fill.fee,
    total: (fills) => <MoneyTotal plain amounts={fills.map(({ feeCurrency, fee }) => ({ currency: feeCurrency, amount: fee }))} />,
  },
  {
    id: 'realised',
    head: 'realised',
    figure: true,
    cell: realisedText,
    cellProps: (fill) => ({ className: resultClass(fill.realised) }),
    value: (fill) => Number(fill.realised),
    csv: (fill) => fill.realised,
    total: (fills) => <MoneyTotal amounts={fills.map(({ currency, realised }) => ({ currency, amount: realised }))} />,
  },
  { id: 'account', head: 'account', cell: (fill) => fill.account, value: (fill) => fill.account },
];

const GROUPS = [
  { id: 'instrument', words: 'instrument', of: (fill: ApiFill) => fill.instrument },
  { id: 'account', words: 'account', of: (fill: ApiFill) => fill.account },
  { id: 'side', words: 'side', of: (fill: ApiFill) => fill.side },
];

/** Fills of all the user's accounts, newest first, in the time of their exchange. */
export default function FillsPane({ id }: { id: string }) {
  const fills = useStore($fills);
  const pane = useStore($panes)[id];
  const { columns, by } = useSettings(pane, FILLS);
  const rows = useMemo(() => [...fills].reverse(), [fills]);
  const shown = useMemo(() => chosenColumns(COLUMNS, FILLS.columns.options, columns), [columns]);
  const grid = usePaneGrid({ pane, rows, columns: shown, keyOf: (fill) => fill.id, groups: GROUPS, groupBy: by });
  const { ringed, ring, commands } = useRinged(grid.keys, (key) => {
    const fill = fills.find((one) => one.id === key);
    if (fill) setInstrument(id, fill.instrument, fill.account);
  });
  usePaneCommands(id, commands);
  return (
    <Grid
      grid={grid}
      name="Fills"
      empty={<EmptyBook says="No fills yet." />}
      ringed={ringed}
      onRing={ring}
      menuItems={
        <MenuItem onPick={() => saveAddress('fills.fix', '/api/fills?format=fix&limit=1000')} about="the newest 1,000">
          Save as FIX execution reports
        </MenuItem>
      }
    />
  );
}
