import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { monthsOf } from '../../../client/statement-months.ts';
import { LOT_METHODS, type LotMethod } from '../../../core/backoffice/index.ts';
import { formatDay, tradingDay } from '../../../core/market/index.ts';
import { Choice } from '../../../kit/Choice.tsx';
import { Heads } from '../../../kit/Heads.tsx';
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
          <table className="list w-full">
            <tbody>
              {places.map(([words, text]) => (
                <tr key={words}>
                  <td className="text-quiet">{words}</td>
                  <td className="figure">{text}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Section>
        <CashRequests key={account} account={account} cash={state.wallets.length === 0} />
      </div>
      <NewIssues key={`issues ${account}`} account={account} holds={state.wallets.length === 0 && state.commission.some(({ kind }) => kind === 'share')} />
      <Holdings account={account} />
      <Unsettled holdings={state.holdings} />
      <CommissionSchedule key={`commission ${account}`} account={account} lines={state.commission} today={today} />
      <Realised account={account} today={today} />
      <ContractNotes key={`notes ${account}`} account={account} today={today} />
      <Statement key={account} account={account} today={today} />
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

/** All accounts beside one another, in EUR. */
function Beside({ accounts }: { accounts: readonly string[] }) {
  const all = useStore($accounts);
  return (
    <table className="list w-full" aria-label="All accounts">
      <Heads names={['account', ...BESIDE.map((field) => BESIDE_WORDS[field])]} />
      <tbody>
        {accounts.flatMap((id) => {
          const of = all[id];
          return of
            ? [
                <tr key={id}>
                  <th scope="row" className="static text-left">
                    {id} {of.marginCall && <span className="plate heather">margin call: no opening</span>}
                  </th>
                  {BESIDE.map((field) => (
                    <td key={field} className="figure">
                      {grouped(shortened(of[field], 2))}
                    </td>
                  ))}
                </tr>,
              ]
            : [];
        })}
      </tbody>
    </table>
  );
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

const Shares = ({ head, rows }: { head: string; rows: readonly Share[] }) => (
  <table className="list w-full">
    <thead>
      <tr>
        <th scope="col" className="text-left">
          {head}
        </th>
        <th scope="col" className="w-[120px] text-left">
          <span className="sr-only">as a bar</span>
        </th>
        <th scope="col" className="text-right">
          value
        </th>
        <th scope="col" className="text-right">
          share
        </th>
      </tr>
    </thead>
    <tbody>
      {rows.map(({ key, value, percent }) => (
        <tr key={key}>
          <td>{key}</td>
          <td>
            <span className="block h-[8px] bg-well" aria-hidden="true">
              <span className="block h-full bg-ink opacity-60" style={{ width: `${percent}%` }} />
            </span>
          </td>
          <td className="figure">{grouped(value)}</td>
          <td className="figure">{percent} %</td>
        </tr>
      ))}
    </tbody>
  </table>
);

const METHOD_WORDS: Readonly<Record<LotMethod, string>> = { fifo: 'the oldest first', average: 'the average cost' };

/** So many years are offered, the present one first. */
const YEARS = 7;

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
        <a
          className="underline"
          href={`/api/reports/realised/${account}?year=${year}&method=${method}&format=csv`}
          download={`realised-${account}-${year}.csv`}
        >
          export as CSV
        </a>
        <button type="button" className="underline" onClick={() => window.print()}>
          print
        </button>
      </p>
      {data?.items.length === 0 && <p className="text-quiet">Nothing was closed.</p>}
      {data && data.items.length > 0 && (
        <div className="max-h-[240px] scroll" tabIndex={0} role="region" aria-label="Closed lots">
          <table className="list w-full">
            <thead>
              <tr>
                {['instrument', 'opened', 'closed', 'quantity', 'cost', 'proceeds', 'fees', 'result'].map((head, i) => (
                  <th key={head} scope="col" className={i > 2 ? 'text-right' : 'text-left'}>
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {data.items.map((lot, i) => (
                <tr key={i}>
                  <td>{lot.instrument}</td>
                  <td className="figure text-left">{lot.openedAt.slice(0, DAY_LENGTH)}</td>
                  <td className="figure text-left">{lot.closedAt.slice(0, DAY_LENGTH)}</td>
                  <td className="figure">{lot.quantity}</td>
                  <td className="figure">{lot.cost}</td>
                  <td className="figure">{lot.proceeds}</td>
                  <td className="figure">{lot.fees}</td>
                  <td className={`figure ${resultClass(lot.result)}`}>{signed(lot.result)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  );
}

function Statement({ account, today }: { account: string; today: string }) {
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
        <a className="underline" href={`/api/statements/${account}?from=${from}&to=${to}&format=csv`} download={`statement-${account}.csv`}>
          export as CSV
        </a>
      </p>
      {!right && <p className="plate heather">The first day must not be later than the last.</p>}
      {right && data && by === 'month' && <Months account={account} days={data.days} />}
      {right && data && by === 'day' && (
        <div className="max-h-[320px] scroll" tabIndex={0} role="region" aria-label={`Statement of ${account}`}>
          <table className="list w-full">
            <tbody>
              {data.days.flatMap((day) => [
                <tr key={day.day} className="font-semibold">
                  <td>{day.day}</td>
                  <td>begins with</td>
                  <td className="figure">{grouped(day.opening)}</td>
                </tr>,
                ...day.movements.map((one, i) => (
                  <tr key={`${day.day} ${i}`}>
                    <td className="figure text-left text-quiet">{one.time.slice(11, 19)}</td>
                    <td>{one.text}</td>
                    <td className={`figure ${resultClass(one.amount)}`}>{signed(one.amount)}</td>
                  </tr>
                )),
                <tr key={`${day.day} end`}>
                  <td />
                  <td>ends with</td>
                  <td className="figure">{grouped(day.closing)}</td>
                </tr>,
              ])}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  );
}

/** Month by month: what each began with, what came, what went, and what it ended with, which the next begins with. */
function Months({ account, days }: { account: string; days: AnswerOf<'GET /api/statements/{account}'>['days'] }) {
  return (
    <table className="list w-full" aria-label={`Statement of ${account} by month`}>
      <Heads names={['month', 'begins with', 'came', 'went', 'ends with']} />
      <tbody>
        {monthsOf(days).map(({ month, opening, came, went, closing }) => (
          <tr key={month}>
            <th scope="row" className="static text-left">
              {month}
            </th>
            {[opening, came, went, closing].map((text, i) => (
              <td key={i} className="figure">
                {grouped(text)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
