import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import { balancesOf, type Balance } from '../../../client/balances.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { $accounts, $working, instrumentOf } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { usePaneGrid, useRinged } from '../../act/table.ts';
import { $panes } from '../../workspace/panes.ts';

const figure = (id: 'total' | 'tiedUp' | 'available' | 'inEur', head: string): GridColumn<Balance> => ({
  id,
  head,
  figure: true,
  cell: (balance) => grouped(balance[id]),
  value: (balance) => Number(balance[id]),
  csv: (balance) => balance[id],
});

const COLUMNS: readonly GridColumn<Balance>[] = [
  { id: 'account', head: 'account', cell: ({ account }) => account, value: ({ account }) => account },
  { id: 'what', head: 'what', cell: ({ what }) => what, value: ({ what }) => what },
  figure('total', 'total'),
  figure('tiedUp', 'tied up'),
  figure('available', 'available'),
  figure('inEur', 'total in EUR'),
  {
    id: 'orders',
    head: 'by',
    cell: ({ by }) => by.join(', '),
    cellProps: ({ by }) => ({ className: 'max-w-0 w-full truncate', title: by.join('\n') }),
    value: ({ by }) => by.length,
    csv: ({ by }) => by.join('; '),
  },
];

/** Cash and wallets of all the user's accounts. */
export default function BalancesPane({ id }: { id: string }) {
  const accounts = useStore($accounts);
  const working = useStore($working);
  const pane = useStore($panes)[id];
  const rows = useMemo(() => {
    const orders = Object.values(working).flat();
    return Object.values(accounts).flatMap((account) => balancesOf(account, orders, instrumentOf));
  }, [accounts, working]);
  const grid = usePaneGrid({ pane, rows, columns: COLUMNS, keyOf: ({ key }) => key });
  const { ringed, ring, commands } = useRinged(grid.keys, () => undefined);
  usePaneCommands(id, commands);
  return <Grid grid={grid} name="Balances" empty="No account is known yet." ringed={ringed} onRing={ring} />;
}
