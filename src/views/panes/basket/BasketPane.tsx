import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { answer } from '../../../client/answers.ts';
import {
  atMarket,
  besideBasket,
  closingRows,
  draftOf,
  evenRows,
  inHundreds,
  isBlank,
  newRow,
  reversed,
  scaled,
  sheetOf,
  sortedBy,
  type BasketRowRequest,
  type DraftRow,
} from '../../../client/baskets.ts';
import { act } from '../../../client/gestures/index.ts';
import { PACES } from '../../../core/basket/index.ts';
import { isDecimal } from '../../../core/number/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Filters } from '../../../kit/Filters.tsx';
import { Menu, MenuChoice, MenuItem, MenuLabel, MenuLine } from '../../../kit/Menu.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { saveFile } from '../../../kit/save-file.ts';
import { $positions, $session, instrumentOf, problemWords, request, type ApiBasketRun } from '../../../live/index.ts';
import { isUnderWay, useBasketRuns } from '../../act/basket-runs.ts';
import { useAsked } from '../../act/queries.tsx';
import { $panes, setInstrument } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { InTitle } from '../../workspace/TitleSlot.tsx';
import { accountFor } from '../../../client/session.ts';
import { Balance } from './Balance.tsx';
import { PasteDialog } from './Paste.tsx';
import { Refusals, Rows, runWords } from './Rows.tsx';
import { RunStrip } from './RunStrip.tsx';
import { BASKET } from './settings.ts';
import { basketShown, useBasket } from './use-basket.ts';

const PACE_WORDS = { 'at-once': 'at once', 'one-by-one': 'one by one' } as const;
const decimalsOf = (instrument: string): number => instrumentOf(instrument)?.quantityDecimals ?? 0;

/** Many orders as one: written, checked as a whole, sent whole or in parts, followed to their end. */
export default function BasketPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  const { columns } = useSettings(pane, BASKET);
  const account = pane?.account ?? $session.get()?.accounts[0] ?? 'MAIN';
  const name = basketShown(id);
  const basket = useBasket(id, name, account);
  const [pasting, setPasting] = useState(false);
  const [percent, setPercent] = useState('100');
  const [pace, setPace] = useState<(typeof PACES)[number]>('at-once');
  const [picked, setPicked] = useState<string | null>(null);
  const [beside, setBeside] = useState<Beside>(NONE_BESIDE);
  const { runs, run } = useRuns(name, picked);
  const { rows, change, check } = basket;
  const otherRun = runs.find(({ id: other }) => beside.kind === 'run' && other === beside.id) ?? null;
  const otherRows = beside.kind === 'basket' ? basket.rowsOf(beside.name) : null;
  const compared = otherRows && beside.kind === 'basket' ? { head: `in ${beside.name}`, ...besideBasket(rows, otherRows) } : null;
  const asked = rows.filter((row) => !isBlank(row)).length;
  const share = isDecimal(percent) && Number(percent) > 0 && Number(percent) <= 100;
  const isSending = run !== null && isUnderWay(run);
  const judged = { problems: basket.problems, check, run: isSending || picked !== null ? run : null };
  const send = (): void => {
    setPicked(null);
    act(id, 'review', { kind: 'send-basket', basket: name, percent, pace });
  };
  return (
    <div className="flex h-full flex-col">
      <InTitle id={id}>
        <Names names={basket.names} shown={name} onOpen={(next) => basket.open(next)} />
      </InTitle>
      <div className="flex shrink-0 flex-wrap items-center gap-2 px-2 py-1">
        <Rework
          rows={rows}
          change={change}
          name={name}
          onPaste={() => setPasting(true)}
          onDrop={() => void basket.drop()}
          others={basket.names.filter((other) => other !== name)}
          beside={otherRows && beside.kind === 'basket' ? beside.name : ''}
          onBeside={(other) => setBeside(other === '' ? NONE_BESIDE : { kind: 'basket', name: other })}
          onCopy={() => basket.open('', fresh(rows))}
        />
        <Sources pane={id} account={account} runs={runs} onTake={(taken) => basket.open('', taken)} />
        <Button size="small" onClick={() => change([...rows, newRow(account)])}>
          add a row
        </Button>
        <span className="text-quiet">{basket.words}</span>
        <span className="ml-auto flex items-center gap-1">
          <input
            className="field figure w-[52px]"
            aria-label="Percent of each row"
            aria-invalid={!share}
            value={percent}
            onChange={(event) => setPercent(event.target.value)}
          />
          <span className="text-quiet">%</span>
          <Choice label="Pace" className="w-[104px]" value={pace} options={PACES.map((value) => ({ value, words: PACE_WORDS[value] }))} onPick={setPace} />
          <Button disabled={!basket.ready || !share || isSending} onClick={send}>
            send {asked} {asked === 1 ? 'order' : 'orders'}
            {percent === '100' ? '' : `, ${percent} %`}
          </Button>
        </span>
      </div>
      {check && !isSending && <Balance rows={rows} check={check} />}
      {run && <RunStrip pane={id} runs={runs} run={run} onPick={setPicked} beside={otherRun} onBeside={(other) => setBeside({ kind: 'run', id: other })} />}
      <div className="min-h-0 flex-1">
        {basket.failed ? (
          <p className="plate heather m-2 whitespace-normal">
            {name} could not be read: {problemWords(basket.failed)}. It is asked for again.
          </p>
        ) : basket.loading ? (
          <div className="skeleton h-full" role="status" aria-label={`Loading ${name}`} />
        ) : (
          <Rows
            rows={rows}
            onChange={change}
            columns={columns}
            {...judged}
            beside={compared ?? (otherRun && { head: 'beside', words: new Map(otherRun.rows.map((row) => [row.id, runWords(row)])) })}
            onRing={(row) => setInstrument(id, row.instrument, row.account)}
          />
        )}
      </div>
      <Refusals rows={rows} {...judged} />
      {compared && compared.rest.length > 0 && (
        <p className="shrink-0 border-t border-hair px-2 py-1">
          <span className="text-quiet">only {compared.head}:</span> {compared.rest.map(rowWords).join('; ')}
        </p>
      )}
      {pasting && (
        <PasteDialog account={account} onClose={() => setPasting(false)} onTake={(taken) => change([...rows.filter((row) => !isBlank(row)), ...taken])} />
      )}
    </div>
  );
}

/** So many baskets are words in the title line; the others are found in a list. */
const MOST_WORDS = 5;

/** The baskets as words: one is shown, another is a press away. */
function Names({ names, shown, onOpen }: { names: readonly string[]; shown: string; onOpen: (name: string) => void }) {
  const all = shown === '' || names.includes(shown) ? names : [...names, shown];
  const at = all.indexOf(shown);
  const first = all.slice(0, MOST_WORDS);
  const words = at < MOST_WORDS ? first : [...first.slice(0, -1), shown];
  const more = all.filter((one) => !words.includes(one));
  return (
    <>
      <Filters
        label="Basket"
        options={[...words.map((value) => ({ value, words: value })), { value: '', words: 'a new basket' }]}
        chosen={shown}
        onChoose={onOpen}
      />
      {more.length > 0 && (
        <Choice label="More baskets" className="text-quiet" value={null} options={more.map((value) => ({ value, words: value }))} onPick={onOpen}>
          {`${more.length} more`}
        </Choice>
      )}
    </>
  );
}

/** What stands beside the rows: another run of the basket, or another basket. */
type Beside = { readonly kind: 'run'; readonly id: string } | { readonly kind: 'basket'; readonly name: string };
const NONE_BESIDE: Beside = { kind: 'run', id: '' };

const rowWords = ({ side, quantity, instrument, price, type }: DraftRow): string => `${side} ${quantity} ${instrument} ${price === '' ? type : `at ${price}`}`;

/** The same rows as those of another basket. */
const fresh = (rows: readonly DraftRow[]): DraftRow[] => rows.filter((row) => !isBlank(row)).map((row) => newRow(row.account, row));

/** The runs of a basket, newest first, and the one to look at: what was picked, else the newest. */
function useRuns(name: string, picked: string | null): { runs: readonly ApiBasketRun[]; run: ApiBasketRun | null } {
  const all = useBasketRuns(name);
  const runs = name === '' ? [] : [...all].reverse();
  return { runs, run: runs.find(({ id }) => id === picked) ?? runs[0] ?? null };
}

interface ReworkProps {
  readonly rows: readonly DraftRow[];
  readonly change: (rows: readonly DraftRow[]) => void;
  readonly name: string;
  readonly onPaste: () => void;
  readonly onCopy: () => void;
  readonly onDrop: () => void;
  /** Other baskets, and the one that stands beside; empty for none. */
  readonly others: readonly string[];
  readonly beside: string;
  readonly onBeside: (name: string) => void;
}

/** What can be done to all rows at once. */
function Rework({ rows, change, name, onPaste, onCopy, onDrop, others, beside, onBeside }: ReworkProps) {
  const [percent, setPercent] = useState('50');
  return (
    <>
      <Menu trigger={<Button size="small">all rows</Button>}>
        <MenuItem onPick={() => change(reversed(rows))} about="buys become sells">
          reverse
        </MenuItem>
        <MenuItem onPick={() => change(atMarket(rows))} about="their prices go">
          limits to market
        </MenuItem>
        <MenuItem onPick={() => change(inHundreds(rows))} about="at least one">
          round to lots of 100
        </MenuItem>
        <MenuLine />
        {(['instrument', 'side', 'account'] as const).map((by) => (
          <MenuItem key={by} onPick={() => change(sortedBy(rows, by))}>
            sort by {by}
          </MenuItem>
        ))}
        <MenuLine />
        <MenuItem onPick={onPaste} about="or from a CSV file">
          paste rows
        </MenuItem>
        <MenuItem onPick={() => saveFile(`${name || 'basket'}.csv`, 'text/csv', sheetOf(rows.filter((row) => !isBlank(row))))}>save as CSV</MenuItem>
        <MenuItem onPick={onCopy}>copy as a new basket</MenuItem>
        <MenuItem onPick={onDrop} disabled={name === ''}>
          delete {name}
        </MenuItem>
        {others.length > 0 && (
          <>
            <MenuLine />
            <MenuChoice
              label="Beside it"
              value={beside}
              options={[{ value: '', words: 'nothing' }, ...others.map((value) => ({ value, words: value }))]}
              onPick={onBeside}
            />
          </>
        )}
      </Menu>
      <Popover label="Scale all rows" trigger={<Button size="small">scale</Button>}>
        <form
          className="flex items-center gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            change(scaled(rows, percent, decimalsOf));
          }}
        >
          to
          <input className="field figure w-[60px]" aria-label="Percent of each quantity" value={percent} onChange={(event) => setPercent(event.target.value)} />
          %
          <Button type="submit" size="small">
            scale
          </Button>
        </form>
      </Popover>
    </>
  );
}

/** A basket from what is there already. */
function Sources({
  pane,
  account,
  runs,
  onTake,
}: {
  pane: string;
  account: string;
  runs: readonly ApiBasketRun[];
  onTake: (rows: readonly DraftRow[]) => void;
}) {
  const lists = useAsked('GET /api/watchlists', {}, { freshMs: 5000 });
  const scans = useAsked('GET /api/scans', {}, { freshMs: 5000 });
  const offer = (rows: readonly DraftRow[], nothing: string): void => (rows.length === 0 ? answer(pane, 'refused', nothing) : onTake(rows));
  const held = () => Object.values($positions.get()).filter((position) => position.account === account && position.quantity !== '0');
  const of = (instruments: readonly string[]): DraftRow[] =>
    instruments.map((instrument) => newRow(accountFor(instrument, account), { instrument, type: 'market' }));
  const fromList = async (list: string): Promise<void> => {
    const found = await request('GET /api/watchlists/{name}', { path: { name: list } });
    if (!found.ok) return answer(pane, 'refused', problemWords(found.problem));
    offer(of(found.value.rows.flatMap((row) => ('instrument' in row ? [row.instrument] : []))), `${list} is empty`);
  };
  const fromScan = async (scan: string): Promise<void> => {
    const found = await request('GET /api/scans/{name}/results', { path: { name: scan } });
    if (!found.ok) return answer(pane, 'refused', problemWords(found.problem));
    offer(of(found.value.items.at(-1)?.items.map(({ instrument }) => instrument) ?? []), `${scan} has found nothing yet`);
  };
  const fromRun = async ({ basket, id }: ApiBasketRun): Promise<void> => {
    const found = await request('GET /api/baskets/{name}', { path: { name: basket } });
    if (!found.ok) return answer(pane, 'refused', problemWords(found.problem));
    const ran = new Map(runs.find((run) => run.id === id)?.rows.map((row) => [row.id, row.asked]));
    offer(
      (found.value.rows as BasketRowRequest[]).map(draftOf).map((row) => newRow(row.account, { ...row, quantity: ran.get(row.id) ?? row.quantity })),
      'that run had no rows',
    );
  };
  return (
    <Menu trigger={<Button size="small">new from</Button>} className="max-h-[420px] scroll">
      <MenuLabel>positions of {account}</MenuLabel>
      <MenuItem onPick={() => offer(closingRows(held()), `${account} is flat`)} about="at market">
        close them all
      </MenuItem>
      <MenuItem onPick={() => offer(evenRows(held(), decimalsOf), `${account} has nothing to even out`)} about="of what they are worth together">
        bring them to equal shares
      </MenuItem>
      <MenuLabel>watchlists</MenuLabel>
      {(lists.data?.items ?? []).map(({ name }) => (
        <MenuItem key={name} onPick={() => void fromList(name)}>
          {name}
        </MenuItem>
      ))}
      {(scans.data?.items.length ?? 0) > 0 && <MenuLabel>what scans found</MenuLabel>}
      {(scans.data?.items ?? []).map(({ name }) => (
        <MenuItem key={name} onPick={() => void fromScan(name)}>
          {name}
        </MenuItem>
      ))}
      {runs.length > 0 && <MenuLabel>runs</MenuLabel>}
      {runs.map((run) => (
        <MenuItem key={run.id} onPick={() => void fromRun(run)}>
          {run.basket}, {run.percent} %
        </MenuItem>
      ))}
    </Menu>
  );
}
