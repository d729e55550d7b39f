import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { monthsOf } from '../../../client/statement-months.ts';
import { LOT_METHODS, type LotMethod } from '../../../core/backoffice/index.ts';
import { VENUES, type VenueId } from '../../../core/instrument/index.ts';
import { formatDay, tradingDay } from '../../../core/market/index.ts';
import { clockText } from '../../../kit/clock.ts';
import { TakeAway } from '../../../kit/TakeAway.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Facts, type Fact } from '../../../kit/Facts.tsx';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, figured, resulting, worded } from '../../../kit/Table.tsx';
import { grouped, resultClass, shortened, signed } from '../../../kit/Figure.tsx';
import { $accounts, $clock, $session, type AnswerOf, type ApiAccount } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { KIND_WORDS } from '../../act/kind-words.ts';
import { $target } from '../../workspace/panes.ts';
import { Section } from '../settings/Section.tsx';
import { SecondStep } from '../settings/Access.tsx';
import { CashRequests } from './CashRequests.tsx';
import { CommissionSchedule } from './Commission.tsx';
import { ContractNotes } from './ContractNotes.tsx';
import { NewIssues } from './NewIssues.tsx';

const DAY_LENGTH = 10;
const YEAR_LENGTH = 4;

/** The back office: money, holdings, what closing made, statements. */
export default function AccountsPage() {
  const session = useStore($session);
  const target = useStore($target);
  const now = useStore($clock)?.time;
  const accounts = session?.accounts ?? [];
  const [account, setAccount] = useState(target?.account ?? accounts[0] ?? 'MAIN');
  const state = useStore($accounts)[account];
  if (!now || !state) return <div className="skeleton h-[200px]" role="status" aria-label="Loading the account" />;
  const today = formatDay(tradingDay('HALM', Date.parse(now)));
  const places: readonly (readonly [string, string])[] = [
    ['cash', `${grouped(state.cash)} ${state.currency}`],
    ...(Number(state.applied) === 0 ? [] : [['in applications', grouped(state.applied)] as const]),
    ['equity', `${grouped(state.equity)} ${state.currency}`],
    ['margin used', grouped(shortened(state.marginUsed, 2))],
    ['maintenance', grouped(shortened(state.maintenance, 2))],
    ['buying power', grouped(state.buyingPower)],
    ...state.wallets.map(({ asset, purpose, total, available }) => [`${asset}, ${purpose}`, `${grouped(total)}, of it free ${grouped(available)}`] as const),
  ];
  return (
    <div className="flex flex-col gap-4">
      <Beside accounts={accounts} />
      <Choice label="Account" value={account} options={accounts.map((one) => ({ value: one, words: one }))} onPick={setAccount} className="self-start" />
      <p data-testid="account-details">
        {account} trades {state.kinds.map((kind) => (KIND_WORDS[kind as keyof typeof KIND_WORDS] ?? kind).toLowerCase()).join(', ')} on{' '}
        {state.venues.join(' and ')}, {state.products.join(' and ')}, and is kept in {state.currency}. It is {session?.user.name}’s.
      </p>
      <div className="grid grid-cols-2 gap-4">
        <Section title="Money">
          <Facts lines={places.map(([words, text]): Fact => [words, <span className="figure">{text}</span>])} />
        </Section>
        <CashRequests key={account} account={account} cash={state.wallets.length === 0} />
      </div>
      <NewIssues key={`issues ${account}`} account={account} holds={state.wallets.length === 0 && state.commission.some(({ kind }) => kind === 'share')} />
      <Holdings account={account} />
      <Unsettled holdings={state.holdings} />
      <CommissionSchedule key={`commission ${account}`} account={account} lines={state.commission} today={today} />
      <Realised account={account} today={today} />
      <ContractNotes key={`notes ${account}`} account={account} today={today} />
      <Statement key={account} account={account} today={today} zone={VENUES[(state.venues[0] ?? 'HALM') as VenueId].zone} />
      <SecondStep />
    </div>
  );
}

const BESIDE = ['equity', 'cash', 'marginUsed', 'maintenance', 'buyingPower'] as const;
const BESIDE_WORDS: Readonly<Record<(typeof BESIDE)[number], string>> = {
  equity: 'equity',
  cash: 'cash',
  marginUsed: 'margin used',
  maintenance: 'maintenance',
  buyingPower: 'can buy',
};

const BESIDE_COLUMNS: readonly GridColumn<ApiAccount>[] = [
  worded('account', ({ id }) => id, {
    cell: ({ id, marginCall }) => (
      <>
        <b>{id}</b> {marginCall && <span className="plate heather">margin call: no opening</span>}
      </>
    ),
  }),
  ...BESIDE.map((field) =>
    figured<ApiAccount>(
      BESIDE_WORDS[field],
      (of) => of[field],
      (text) => grouped(shortened(text, 2)),
    ),
  ),
];

/** All accounts beside one another, in EUR. */
function Beside({ accounts }: { accounts: readonly string[] }) {
  const all = useStore($accounts);
  return <Table name="All accounts" rows={accounts.flatMap((id) => all[id] ?? [])} columns={BESIDE_COLUMNS} keyOf={({ id }) => id} />;
}

/** What was bought or sold and changes hands later. */
function Unsettled({ holdings }: { holdings: ApiAccount['holdings'] }) {
  const later = holdings.flatMap(({ instrument, unsettled }) => unsettled.map((lot) => ({ instrument, ...lot })));
  if (later.length === 0) return null;
  return (
    <Section title="Not settled yet" about="Shares and funds settle at the second trading day after the fill's.">
      <ul>
        {later.map(({ instrument, quantity, settlesOn }) => (
          <li key={`${instrument} ${settlesOn}`}>
            <b className="figure">{signed(quantity)}</b> {instrument} on {settlesOn}
          </li>
        ))}
      </ul>
    </Section>
  );
}

type Share = AnswerOf<'GET /api/holdings/{account}/shares'>['bySector'][number];

function Holdings({ account }: { account: string }) {
  const { data } = useAsked('GET /api/holdings/{account}/shares', { path: { account } }, { everyMs: 5000 });
  const none = data?.byInstrument.length === 0;
  return (
    <Section title="Holdings" about="Settled units at their marks, and what share of the whole they are.">
      {none && <p className="text-quiet">Nothing settled is held.</p>}
      {data && !none && (
        <div className="grid grid-cols-2 gap-4">
          <Shares head="sector" rows={data.bySector} />
          <Shares head="instrument" rows={data.byInstrument} />
        </div>
      )}
    </Section>
  );
}

const Shares = ({ head, rows }: { head: string; rows: readonly Share[] }) => {
  const columns: readonly GridColumn<Share>[] = [
    worded(head, ({ key }) => key),
    {
      id: 'bar',
      head: 'as a bar',
      unseen: true,
      cell: ({ percent }) => (
        <span className="block h-[8px] w-[110px] bg-well" aria-hidden="true">
          <span className="block h-full bg-ink opacity-60" style={{ width: `${percent}%` }} />
        </span>
      ),
    },
    figured('value', ({ value }) => value),
    figured(
      'share',
      ({ percent }) => percent,
      (percent) => `${percent} %`,
    ),
  ];
  return <Table name={`Holdings by ${head}`} rows={rows} columns={columns} keyOf={({ key }) => key} />;
};

const METHOD_WORDS: Readonly<Record<LotMethod, string>> = { fifo: 'the oldest first', average: 'the average cost' };

/** So many years are offered, the present one first. */
const YEARS = 7;

type Lot = AnswerOf<'GET /api/reports/realised/{account}'>['items'][number];

const LOTS: readonly GridColumn<Lot>[] = [
  worded('instrument', ({ instrument }) => instrument),
  worded('opened', ({ openedAt }) => openedAt.slice(0, DAY_LENGTH)),
  worded('closed', ({ closedAt }) => closedAt.slice(0, DAY_LENGTH)),
  figured('quantity', ({ quantity }) => quantity),
  figured('cost', ({ cost }) => cost),
  figured('proceeds', ({ proceeds }) => proceeds),
  figured('fees', ({ fees }) => fees),
  resulting('result', ({ result }) => result),
];

function Realised({ account, today }: { account: string; today: string }) {
  const [method, setMethod] = useState<LotMethod>('fifo');
  const present = today.slice(0, YEAR_LENGTH);
  const [year, setYear] = useState(present);
  const years = Array.from({ length: YEARS }, (_, back) => String(Number(present) - back));
  const { data } = useAsked('GET /api/reports/realised/{account}', { path: { account }, query: { year, method } });
  return (
    <Section title={`Realised in ${year}`} about="Lot by lot, after the fees of both sides.">
      <p className="mb-2 flex items-center gap-3">
        <Choice label="Year" value={year} options={years.map((value) => ({ value, words: value }))} onPick={setYear} />
        <Choice label="Lots" value={method} options={LOT_METHODS.map((value) => ({ value, words: METHOD_WORDS[value] }))} onPick={setMethod} />
        {data && (
          <span>
            total <b className={`figure ${resultClass(data.total)}`}>{signed(data.total)}</b> EUR
          </span>
        )}
        <TakeAway address={`/api/reports/realised/${account}?year=${year}&method=${method}&format=csv`} file={`realised-${account}-${year}.csv`} prints />
      </p>
      {data && (
        <Table
          name={`Closed lots of ${account} in ${year}`}
          rows={data.items}
          columns={LOTS}
          keyOf={(lot) => String(data.items.indexOf(lot))}
          empty="Nothing was closed."
          className="max-h-[240px]"
        />
      )}
    </Section>
  );
}

type Days = AnswerOf<'GET /api/statements/{account}'>['days'];

/** A line of a statement: what a day begins with, what moved, what it ends with. */
interface Moved {
  readonly key: string;
  readonly when: string;
  readonly words: string;
  readonly amount: string;
  readonly strong: boolean;
}

const dayLines = (days: Days, zone: string): Moved[] =>
  days.flatMap(({ day, opening, movements, closing }) => [
    { key: `${day} begins`, when: day, words: 'begins with', amount: opening, strong: true },
    ...movements.map(({ time, text, amount }, i) => ({ key: `${day} ${i}`, when: clockText(zone, time), words: text, amount, strong: false })),
    { key: `${day} ends`, when: '', words: 'ends with', amount: closing, strong: true },
  ]);

const MOVED: readonly GridColumn<Moved>[] = [
  worded('when', ({ when }) => when),
  worded('what', ({ words }) => words),
  {
    id: 'amount',
    head: 'amount',
    figure: true,
    cell: ({ amount, strong }) => (strong ? grouped(amount) : signed(amount)),
    cellProps: ({ amount, strong }) => ({ className: strong ? '' : resultClass(amount) }),
  },
];

function Statement({ account, today, zone }: { account: string; today: string; zone: string }) {
  const [from, setFrom] = useState(`${today.slice(0, 8)}01`);
  const [to, setTo] = useState(today);
  const [by, setBy] = useState<'day' | 'month'>('day');
  const right = from !== '' && to !== '' && from <= to;
  const { data } = useAsked('GET /api/statements/{account}', { path: { account }, query: { from, to } }, { when: right });
  return (
    <Section title="Statement" about="Every movement of money, day by day: each day begins with what the day before ended with.">
      <p className="mb-2 flex items-center gap-3">
        <label>
          from <input type="date" className="field" value={from} max={to} onChange={(event) => setFrom(event.target.value)} />
        </label>
        <label>
          to <input type="date" className="field" value={to} max={today} onChange={(event) => setTo(event.target.value)} />
        </label>
        <Choice label="Statement" value={by} options={(['day', 'month'] as const).map((value) => ({ value, words: `by ${value}` }))} onPick={setBy} />
        <TakeAway address={`/api/statements/${account}?from=${from}&to=${to}&format=csv`} file={`statement-${account}.csv`} />
      </p>
      {!right && <p className="plate heather">The first day must not be later than the last.</p>}
      {right && data && by === 'month' && <Months account={account} days={data.days} />}
      {right && data && by === 'day' && (
        <Table
          name={`Statement of ${account}`}
          plain
          rows={dayLines(data.days, zone)}
          columns={MOVED}
          keyOf={({ key }) => key}
          rowProps={({ strong }) => (strong ? { className: 'font-semibold' } : {})}
          className="max-h-[320px]"
        />
      )}
    </Section>
  );
}

const MONTHS: readonly GridColumn<ReturnType<typeof monthsOf>[number]>[] = [
  worded('month', ({ month }) => month),
  figured('begins with', ({ opening }) => opening),
  figured('came', ({ came }) => came),
  figured('went', ({ went }) => went),
  figured('ends with', ({ closing }) => closing),
];

/** Month by month: what each began with, what came, what went, and what it ended with, which the next begins with. */
function Months({ account, days }: { account: string; days: Days }) {
  return <Table name={`Statement of ${account} by month`} rows={monthsOf(days)} columns={MONTHS} keyOf={({ month }) => month} />;
}
