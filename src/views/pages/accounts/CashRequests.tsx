import { useState } from 'react';
import { CASH_REQUEST_KINDS, type CashRequestKind } from '../../../core/portfolio/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { statistic } from '../../../kit/Figure.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { problemWords, request } from '../../../live/index.ts';
import { marketTime } from '../../act/market-time.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

/** Money asked for and brought: a withdrawal leaves cash at once and is paid at the next day's turn, a deposit comes then. */
export function CashRequests({ account, cash }: { account: string; cash: boolean }) {
  const { data } = useAsked('GET /api/cash-requests', { query: { account } }, { everyMs: 5000 });
  const [kind, setKind] = useState<CashRequestKind>('withdrawal');
  const [amount, setAmount] = useState('');
  const [named, setNamed] = useState(() => crypto.randomUUID());
  const [said, setSaid] = useState<string | null>(null);
  const ask = async (): Promise<void> => {
    const done = await request('POST /api/cash-requests', { body: { account, kind, amount: amount.trim(), clientRequestId: named } });
    // Unanswered it keeps its name: asked again it is the same request.
    if (done.ok || done.problem.status !== 0) setNamed(crypto.randomUUID());
    setSaid(done.ok ? null : problemWords(done.problem));
    if (done.ok) setAmount('');
    await askAgain('GET /api/cash-requests');
  };
  const takeBack = async (id: string): Promise<void> => {
    const done = await request('DELETE /api/cash-requests/{id}', { path: { id } });
    setSaid(done.ok ? null : problemWords(done.problem));
    await askAgain('GET /api/cash-requests');
  };
  return (
    <Section title="Withdrawals and deposits" about="Paid at the next day’s turn; until then they can be taken back.">
      {cash ? (
        <form
          className="flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void ask();
          }}
        >
          <Choice label="Kind" value={kind} options={CASH_REQUEST_KINDS.map((value) => ({ value, words: value }))} onPick={setKind} />
          <input
            className="field figure w-[110px]"
            inputMode="decimal"
            aria-label="Amount in EUR"
            value={amount}
            onChange={(event) => setAmount(event.target.value)}
          />
          <Button type="submit" disabled={amount.trim() === ''}>
            ask for it
          </Button>
        </form>
      ) : (
        <p className="text-quiet">Only accounts with EUR cash have them.</p>
      )}
      {said !== null && <p className="plate heather mt-1 whitespace-normal">{said}</p>}
      <table className="list mt-2 w-full">
        <tbody>
          {[...(data?.items ?? [])].reverse().map((one) => (
            <tr key={one.id}>
              <td className="figure text-left">{marketTime(one.requestedAt)}</td>
              <td>{one.kind}</td>
              <td className="figure">{statistic(one.amount)}</td>
              <td>{one.state}</td>
              <td className="text-right">
                {one.state === 'requested' && (
                  <Button size="small" onClick={() => void takeBack(one.id)} aria-label={`take back the ${one.kind} of ${one.amount}`}>
                    take back
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
