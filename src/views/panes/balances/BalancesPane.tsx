import { useStore } from '@nanostores/react';
import { useEffect, useMemo } from 'react';
import { grouped } from '../../../kit/Figure.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { $accounts, $working, refreshAccounts, type ApiAccount } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { usePaneGrid, useRinged } from '../../act/table.ts';
import { $panes } from '../../workspace/panes.ts';

interface Balance {
  readonly key: string;
  readonly account: string;
  readonly what: string;
  readonly total: string;
  readonly tiedUp: string;
  readonly available: string;
  /** How many working orders tie something up. */
  readonly orders: number;
}

const AGAIN_MS = 2000;
const figure = (id: 'total' | 'tiedUp' | 'available', head: string): GridColumn<Balance> => ({
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
  {
    id: 'orders',
    head: 'by',
    cell: ({ orders }) => (orders === 0 ? '' : `${orders} order${orders === 1 ? '' : 's'}`),
    value: ({ orders }) => orders,
  },
];

/** What an account has: its cash and buying power, and each of its wallets. */
function balancesOf({ id, currency, cash, marginUsed, buyingPower, equity, wallets, marginCall }: ApiAccount, orders: number): Balance[] {
  if (wallets.length === 0)
    return [
      { key: `${id} cash`, account: id, what: `${currency}, cash`, total: cash, tiedUp: marginUsed, available: buyingPower, orders },
      {
        key: `${id} equity`,
        account: id,
        what: marginCall ? `${currency}, equity: MARGIN CALL` : `${currency}, equity`,
        total: equity,
        tiedUp: marginUsed,
        available: buyingPower,
        orders,
      },
    ];
  return wallets.map(({ asset, purpose, total, tiedUp, available }) => ({
    key: `${id} ${purpose} ${asset}`,
    account: id,
    what: `${asset}, ${purpose}`,
    total,
    tiedUp,
    available,
    orders: Number(tiedUp) === 0 ? 0 : orders,
  }));
}

/** Cash and wallets of all the user's accounts. */
export default function BalancesPane({ id }: { id: string }) {
  const accounts = useStore($accounts);
  const working = useStore($working);
  const pane = useStore($panes)[id];
  useEffect(() => {
    const timer = setInterval(() => void refreshAccounts(), AGAIN_MS);
    return () => clearInterval(timer);
  }, []);
  const rows = useMemo(() => {
    const opening = (account: string): number =>
      Object.values(working)
        .flat()
        .filter((order) => order.account === account && order.opening).length;
    return Object.values(accounts).flatMap((account) => balancesOf(account, opening(account.id)));
  }, [accounts, working]);
  const grid = usePaneGrid({ pane, rows, columns: COLUMNS, keyOf: ({ key }) => key });
  const { ringed, ring, commands } = useRinged(grid.keys, () => undefined);
  usePaneCommands(id, commands);
  return <Grid grid={grid} name="Balances" empty={<p className="text-quiet">No account is known yet.</p>} ringed={ringed} onRing={ring} />;
}
