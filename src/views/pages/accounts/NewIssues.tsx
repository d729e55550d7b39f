import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { formatMoney, money, moneyOf } from '../../../core/number/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { grouped } from '../../../kit/Figure.tsx';
import { Table, figured, worded } from '../../../kit/Table.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { problemWords, request, type AnswerOf } from '../../../live/index.ts';
import { Wrong, checkedAs, wrongIn } from '../../act/checked.tsx';
import { marketTime } from '../../act/market-time.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

type Issue = AnswerOf<'GET /api/new-issues'>['items'][number];
type Application = AnswerOf<'GET /api/applications'>['items'][number];

const ABOUT =
  'Shares that are offered for the first time. What is applied for is tied up until the issue price is told; where too much is asked for, lots are drawn.';

/** What is offered, and what this account has applied for. `holds` says whether it can hold shares. */
export function NewIssues({ account, holds }: { account: string; holds: boolean }) {
  const issues = useAsked('GET /api/new-issues', {}, { everyMs: 5000 }).data?.items ?? [];
  const mine = useAsked('GET /api/applications', { query: { account } }, { everyMs: 5000 }).data?.items ?? [];
  const [said, setSaid] = useState<string | null>(null);
  const of = (issue: Issue): Application | undefined => mine.filter((one) => one.issue === issue.id).pop();
  const shown = issues.filter((issue) => issue.state !== 'listed' || of(issue));
  const heard = async (problem: Parameters<typeof problemWords>[0] | null): Promise<void> => {
    // What is wrong is told by the word that stands beside its field.
    setSaid(problem && (problem.errors?.map(({ path, message }) => `${path.slice(1)} ${message}`).join('; ') ?? problemWords(problem)));
    await askAgain('GET /api/applications');
  };
  const columns = [
    worded<Issue>('company', ({ name }) => name, {
      cell: ({ id, name }) => (
        <>
          <InstrumentName id={id} /> <span className="text-quiet">{name}</span>
        </>
      ),
    }),
    figured<Issue>(
      'price range',
      ({ low }) => low,
      (low) => low,
      { cell: ({ low, high }) => `${low} to ${high}` },
    ),
    figured<Issue>('lot', ({ lot }) => String(lot)),
    worded<Issue>('applications until', ({ closesAt }) => closesAt, { cell: ({ closesAt }) => <span className="figure">{marketTime(closesAt)}</span> }),
    worded<Issue>('listed on', ({ listsOn }) => listsOn),
    figured<Issue>(
      'issue price',
      ({ price }) => price,
      (price) => price,
    ),
    {
      id: 'mine',
      head: account,
      figure: true,
      cell: (issue: Issue) => <Mine key={of(issue)?.state} account={account} holds={holds} issue={issue} application={of(issue)} onAnswer={heard} />,
    },
  ];
  return (
    <Section title="New issues" about={ABOUT}>
      <Table name="New issues" rows={shown} columns={columns} keyOf={({ id }) => id} empty="Nothing is offered." />
      {said !== null && <p className="plate heather mt-1 whitespace-normal">{said}</p>}
    </Section>
  );
}

type Answered = (problem: Parameters<typeof problemWords>[0] | null) => Promise<void>;

/** What an account has to do with an issue: its application, or the way to one. */
function Mine(of: { account: string; holds: boolean; issue: Issue; application: Application | undefined; onAnswer: Answered }) {
  const { account, holds, issue, application, onAnswer } = of;
  const [changing, setChanging] = useState(false);
  const stands = application?.state === 'requested';
  if (stands && !changing) {
    const { id, lots, price, amount } = application;
    return (
      <span className="flex items-center justify-end gap-2">
        <span className="figure">
          {lots} × {issue.lot} at {price} · {grouped(amount)} tied up
        </span>
        {issue.state === 'open' && (
          <>
            <Button size="small" onClick={() => setChanging(true)} aria-label={`change the application for ${issue.id}`}>
              change
            </Button>
            <Button
              size="small"
              aria-label={`take back the application for ${issue.id}`}
              onClick={() => void request('DELETE /api/applications/{id}', { path: { id } }).then((done) => onAnswer(done.ok ? null : done.problem))}
            >
              take back
            </Button>
          </>
        )}
      </span>
    );
  }
  if (application?.state === 'allotted' || application?.state === 'unsuccessful')
    return (
      <span className="figure">
        {application.allottedLots} of {application.lots} lots allotted
      </span>
    );
  if (issue.state !== 'open') return <span className="text-quiet">closed</span>;
  if (!holds) return <span className="text-quiet">{account} can’t hold it</span>;
  const send = async (lots: number, price: string, clientRequestId: string): Promise<boolean> => {
    const done = stands
      ? await request('PATCH /api/applications/{id}', { path: { id: application.id }, body: { lots, price } })
      : await request('POST /api/applications', { body: { account, issue: issue.id, lots, price, clientRequestId } });
    setChanging(!done.ok && stands);
    await onAnswer(done.ok ? null : done.problem);
    return done.ok || done.problem.status !== 0;
  };
  return (
    <ApplicationForm
      account={account}
      issue={issue}
      lots={stands ? application.lots : 1}
      price={stands ? application.price : issue.high}
      changes={stands}
      send={send}
    />
  );
}

interface Values {
  lots: string;
  price: string;
}

interface FormProps {
  readonly account: string;
  readonly issue: Issue;
  readonly lots: number;
  readonly price: string;
  readonly changes: boolean;
  /** True once it is answered: unanswered, the same is asked again under the same name. */
  readonly send: (lots: number, price: string, named: string) => Promise<boolean>;
}

function ApplicationForm({ account, issue, changes, send, ...at }: FormProps) {
  const [named, setNamed] = useState(() => crypto.randomUUID());
  const bodyOf = ({ lots, price }: Values) => ({ account, issue: issue.id, lots: /^\d+$/.test(lots.trim()) ? Number(lots) : lots.trim(), price: price.trim() });
  const form = useForm<Values>({ defaultValues: { lots: String(at.lots), price: at.price }, mode: 'onChange', resolver: checkedAs('application', bodyOf) });
  const { lots, price } = form.watch();
  const wrong = wrongIn(form.formState.errors);
  const whole = /^[1-9]\d{0,3}$/.test(lots) && /^\d+(\.\d+)?$/.test(price);
  const ties = whole ? formatMoney(moneyOf(money(price) * BigInt(Number(lots) * issue.lot)), 'EUR') : null;
  return (
    <form
      className="flex items-center justify-end gap-2"
      onSubmit={(event) =>
        void form.handleSubmit(async (typed) => {
          if (await send(Number(typed.lots), typed.price.trim(), named)) setNamed(crypto.randomUUID());
        })(event)
      }
    >
      <input
        className="field figure w-[44px]"
        inputMode="numeric"
        aria-label={`lots of ${issue.id}`}
        aria-invalid={'lots' in form.formState.errors}
        {...form.register('lots')}
      />
      <span className="text-quiet">lots at</span>
      <input
        className="field figure w-[64px]"
        inputMode="decimal"
        aria-label={`price for ${issue.id}`}
        aria-invalid={'price' in form.formState.errors}
        {...form.register('price')}
      />
      <Button size="small" type="submit" disabled={wrong !== null}>
        {changes ? 'change' : 'apply'}
      </Button>
      {wrong === null ? <span className="text-quiet figure">{ties === null ? '' : `ties up ${grouped(ties)}`}</span> : <Wrong>{wrong}</Wrong>}
    </form>
  );
}
