import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { CASH_REQUEST_KINDS, type CashRequestKind } from '../../../core/portfolio/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { statistic } from '../../../kit/Figure.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Table, figured, worded } from '../../../kit/Table.tsx';
import { problemWords, request, type AnswerOf } from '../../../live/index.ts';
import { marketTime } from '../../act/market-time.ts';
import { Wrong, checkedAs, wrongIn } from '../../act/checked.tsx';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

type Asked = AnswerOf<'GET /api/cash-requests'>['items'][number];

interface Values {
  kind: CashRequestKind;
  amount: string;
}

/** Money asked for and brought: a withdrawal leaves cash at once and is paid at the next day's turn, a deposit comes then. */
export function CashRequests({ account, cash }: { account: string; cash: boolean }) {
  const { data } = useAsked('GET /api/cash-requests', { query: { account } }, { everyMs: 5000 });
  const bodyOf = ({ kind, amount }: Values): object => ({ account, kind, amount: amount.trim(), clientRequestId: named });
  const [named, setNamed] = useState(() => crypto.randomUUID());
  const [said, setSaid] = useState<string | null>(null);
  const form = useForm<Values>({ defaultValues: { kind: 'withdrawal', amount: '' }, resolver: checkedAs('cashRequest', bodyOf) });
  const { kind, amount } = form.watch();
  const ask = form.handleSubmit(async (typed) => {
    const done = await request('POST /api/cash-requests', { body: bodyOf(typed) });
    // Unanswered it keeps its name: asked again it is the same request.
    if (done.ok || done.problem.status !== 0) setNamed(crypto.randomUUID());
    setSaid(done.ok ? null : problemWords(done.problem));
    if (done.ok) form.setValue('amount', '');
    await askAgain('GET /api/cash-requests');
  });
  const takeBack = async (id: string): Promise<void> => {
    const done = await request('DELETE /api/cash-requests/{id}', { path: { id } });
    setSaid(done.ok ? null : problemWords(done.problem));
    await askAgain('GET /api/cash-requests');
  };
  const columns = [
    worded<Asked>('time', ({ requestedAt }) => requestedAt, { cell: ({ requestedAt }) => <span className="figure">{marketTime(requestedAt)}</span> }),
    worded<Asked>('what', (one) => one.kind),
    figured<Asked>(
      'amount',
      (one) => one.amount,
      (text) => statistic(text),
    ),
    worded<Asked>('state', ({ state }) => state),
    {
      id: 'back',
      head: 'take back',
      sticks: true as const,
      cell: (one: Asked) =>
        one.state === 'requested' && (
          <Button size="small" onClick={() => void takeBack(one.id)} aria-label={`take back the ${one.kind} of ${one.amount}`}>
            take back
          </Button>
        ),
    },
  ];
  return (
    <Section title="Withdrawals and deposits" about="Paid at the next day’s turn; until then they can be taken back.">
      {cash ? (
        <form className="flex items-center gap-2" onSubmit={(event) => void ask(event)}>
          <Choice
            label="Kind"
            value={kind}
            options={CASH_REQUEST_KINDS.map((value) => ({ value, words: value }))}
            onPick={(picked) => form.setValue('kind', picked)}
          />
          <input
            className="field figure w-[110px]"
            inputMode="decimal"
            aria-label="Amount in EUR"
            aria-invalid={'amount' in form.formState.errors}
            {...form.register('amount')}
          />
          <Button type="submit" disabled={amount.trim() === ''}>
            ask for it
          </Button>
        </form>
      ) : (
        <p className="text-quiet">Only accounts with EUR cash have them.</p>
      )}
      <Wrong>{wrongIn(form.formState.errors) ?? said}</Wrong>
      <Table
        name={`Withdrawals and deposits of ${account}`}
        rows={[...(data?.items ?? [])].reverse()}
        columns={columns}
        keyOf={({ id }) => id}
        empty="None was asked for."
        className="mt-2"
      />
    </Section>
  );
}
