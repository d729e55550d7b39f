import { useStore } from '@nanostores/react';
import { type ReactNode, useMemo, useState } from 'react';
import { ChevronDown } from 'lucide-react';
import { asQuantity, formatQuantity, type Instrument, type Quantity } from '../../../core/instrument/index.ts';
import { act, wholeExit } from '../../../client/gestures/index.ts';
import { inR, moneyPlaces, negated, openPercent, openTicks } from '../../../client/position-figures.ts';
import { $directSend } from '../../../client/session.ts';
import { Button } from '../../../kit/Button.tsx';
import { grouped, resultClass, shortened, signed, signedShort } from '../../../kit/Figure.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { later, usePart } from '../../../kit/later.ts';
import { Menu, MenuItem, MenuLabel, MenuLine } from '../../../kit/Menu.tsx';
import { $positions, instrumentOf, positionKey, type LivePosition } from '../../../live/index.ts';
import { EmptyBook } from '../../act/EmptyBook.tsx';
import { usePaneCommands } from '../../act/keys.ts';
import { askAgain, useSavedPlans } from '../../act/queries.tsx';
import { MoneyTotal } from '../../act/MoneyTotal.tsx';
import { chosenColumns, usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $panes, setInstrument } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { GREEK_COLUMNS, GroupGreeks, underlyingOf } from './Greek.tsx';
import { POSITIONS } from './settings.ts';

/** Money to the cent; in the underlying of an inverse instrument a few places more, the rest in the cell's title. */
function ifStopped(position: LivePosition): ReactNode {
  if (position.quantity === '0') return '';
  if (position.openRisk === null) return <span className="plate heather">no stop</span>;
  const lost = signedShort(position.openRisk.startsWith('-') ? position.openRisk.slice(1) : `-${position.openRisk}`, moneyPlaces(position.currency));
  const multiple = inR(position.openRisk, position.firstRisk);
  return multiple === null ? lost : `${lost} · ${signed(String(-Number(multiple)))} R`;
}

function measured(position: LivePosition, figure: (position: LivePosition, instrument: Instrument) => string | null): string | null {
  const instrument = instrumentOf(position.instrument);
  return instrument ? figure(position, instrument) : null;
}

const keyOf = (position: LivePosition): string => positionKey(position.account, position.instrument);
/** A signed figure that runs one way or the other; a dash where it is not known. */
const result = (id: string, head: string, of: (position: LivePosition) => string | null, sums = false): GridColumn<LivePosition> => ({
  ...(sums
    ? { total: (rows: readonly LivePosition[]) => <MoneyTotal amounts={rows.map((one) => ({ currency: one.currency, amount: of(one) ?? '0' }))} /> }
    : {}),
  id,
  head,
  figure: true,
  cell: (position) => {
    const figure = of(position);
    return figure === null ? '–' : signedShort(figure, moneyPlaces(position.currency));
  },
  cellProps: (position) => ({ className: resultClass(of(position) ?? '0'), title: of(position) ?? undefined }),
  value: (position) => {
    const figure = of(position);
    return figure === null ? undefined : Number(figure);
  },
  csv: (position) => of(position) ?? '',
});

const COLUMNS: readonly GridColumn<LivePosition>[] = [
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
  result('open', 'open', (position) => position.unrealised, true),
  result('percent', 'open %', (position) => measured(position, openPercent)),
  result('ticks', 'open ticks', (position) => measured(position, openTicks)),
  result('r', 'open R', (position) => (position.quantity === '0' ? null : inR(position.unrealised, position.firstRisk))),
  result('net', 'net today', (position) => position.day.net, true),
  {
    id: 'stopped',
    head: 'if stopped',
    figure: true,
    cell: ifStopped,
    value: (position) => (position.openRisk === null ? undefined : Number(position.openRisk)),
    csv: (position) => position.openRisk ?? '',
    total: (rows) =>
      rows.some(({ openRisk }) => openRisk === null) ? (
        'no end'
      ) : (
        <MoneyTotal amounts={rows.map(({ currency, openRisk }) => ({ currency, amount: negated(openRisk ?? '0') }))} />
      ),
  },
  ...GREEK_COLUMNS,
];

const GROUPS = [
  { id: 'account', words: 'account', of: (position: LivePosition) => position.account },
  { id: 'venue', words: 'venue', of: (position: LivePosition) => instrumentOf(position.instrument)?.venue ?? '–' },
  { id: 'underlying', words: 'underlying', of: underlyingOf, beside: (name: string) => <GroupGreeks underlying={name} /> },
  { id: 'kind', words: 'kind', of: (position: LivePosition) => instrumentOf(position.instrument)?.kind ?? '–' },
];

/** A share of a position in whole steps, and what it is said as. */
function shareText(instrument: string, held: Quantity, percent: number): string {
  const spec = instrumentOf(instrument);
  return spec ? formatQuantity(spec, asQuantity(Math.floor((Math.abs(held) * percent) / 100))) : '–';
}

const SETUP = later(() => import('../../act/SetupDialog.tsx'));

/** All other ways out of a position, each saying what it sends. */
function MoreExits({ pane, account, instrument, held }: { pane: string; account: string; instrument: string; held: Quantity }) {
  const { data } = useSavedPlans();
  const of = { account, instrument } as const;
  const spec = instrumentOf(instrument);
  const [tagging, setTagging] = useState(false);
  const setup = usePart(SETUP, tagging);
  return (
    <>
      <Menu
        align="end"
        onOpen={(open) => open && void askAgain('GET /api/exit-plans')}
        trigger={
          <button
            type="button"
            className="grid h-[20px] w-[20px] place-items-center rounded-[2px] border border-line"
            aria-label={`More exits of ${instrument} in ${account}`}
          >
            <ChevronDown size={11} />
          </button>
        }
      >
        {[25, 50, 75].map((percent) => {
          const size = shareText(instrument, held, percent);
          return (
            <MenuItem
              key={percent}
              disabled={Number(size) === 0}
              about={Number(size) === 0 ? 'less than one step' : ''}
              onPick={() => act(pane, 'tables', { kind: 'close', ...of, percent: String(percent) })}
            >
              close {percent} % · {size}
            </MenuItem>
          );
        })}
        <MenuItem
          disabled={instrumentOf(instrument)?.kind === 'spot'}
          about={`${held > 0 ? 'sells' : 'buys'} ${grouped(String(2 * Math.abs(held)))}`}
          onPick={() => act(pane, 'tables', { kind: 'reverse', ...of })}
        >
          reverse
        </MenuItem>
        <MenuItem onPick={() => act(pane, 'tables', { kind: 'flatten', ...of })} about="its orders and plans go first">
          flatten {instrument}
        </MenuItem>
        <MenuLine />
        <MenuLabel>Put an exit plan on it</MenuLabel>
        {PROTECT.map(({ words, about, step }) => (
          <MenuItem key={words} about={about} onPick={() => spec && act(pane, 'tables', { kind: 'put-plan', ...of, plan: wholeExit(spec, step) })}>
            {words}
          </MenuItem>
        ))}
        {(data?.items ?? []).map((plan) => (
          <MenuItem
            key={plan.name}
            about={plan.heldBy === 'here' ? 'held here' : 'at the venue'}
            onPick={() => act(pane, 'tables', { kind: 'put-plan', ...of, plan: plan.name })}
          >
            {plan.name}
          </MenuItem>
        ))}
        <MenuLine />
        <MenuItem onPick={() => setTagging(true)} about="what its round trip counts as">
          setup …
        </MenuItem>
      </Menu>
      {tagging && setup && <setup.SetupDialog pane={pane} {...of} onClose={() => setTagging(false)} />}
    </>
  );
}

const STOP = { by: 'percent', value: '1', order: 'market' } as const;
const TARGET = { by: 'percent', value: '2', order: 'limit' } as const;
const PROTECT = [
  { words: 'stop', about: '1 % from the average', step: { stop: STOP } },
  { words: 'target', about: '2 % from the average', step: { target: TARGET } },
  { words: 'stop and target', about: '1 % and 2 %', step: { stop: STOP, target: TARGET } },
] as const;

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
  const shown = useMemo((): GridColumn<LivePosition>[] => {
    const close: GridColumn<LivePosition> = {
      id: 'close',
      head: 'close',
      sticks: true,
      cell: ({ account, instrument, quantity, units }) =>
        units.quantity !== 0 && (
          <span className="flex gap-1">
            <Button size="small" broken={direct === 'off'} onClick={() => act(id, 'tables', { kind: 'close', account, instrument })}>
              close {grouped(quantity.replace('-', ''))}
            </Button>
            <MoreExits pane={id} account={account} instrument={instrument} held={units.quantity} />
          </span>
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
      empty={<EmptyBook says="No positions." />}
      ringed={ringed}
      onRing={ring}
      rowProps={(position) => ({ 'data-position': keyOf(position) })}
    />
  );
}
