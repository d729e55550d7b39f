import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { $settings, changeSettings } from '../../../client/settings.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { signed } from '../../../kit/Figure.tsx';
import { $clock, $risk, problemWords, request } from '../../../live/index.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';
import { lockUntil, LOCK_DAYS } from './lock.ts';

const DAY_LENGTH = 10;

/** At the end of a lock: what its time was like, and whether to lock again. It stays until it is answered. */
export function LockOver({ account }: { account: string }) {
  const over = useStore($risk)[account]?.lockOver ?? null;
  const { locksSeen } = useStore($settings);
  if (over === null || locksSeen[account] === over.until) return null;
  return <Question account={account} from={over.from} until={over.until} />;
}

function Question({ account, from, until }: { account: string; from: string; until: string }) {
  const now = useStore($clock)?.time;
  const [days, setDays] = useState('5');
  const [said, setSaid] = useState<string | null>(null);
  const span = { from: from.slice(0, DAY_LENGTH), to: until.slice(0, DAY_LENGTH) };
  const { data } = useAsked('GET /api/review/figures', { query: { account, ...span, points: 4 } });
  const { data: past } = useAsked('GET /api/risk/{account}/days', { path: { account }, query: { limit: 250 } });
  const within = (past?.items ?? []).filter(({ day }) => day >= span.from && day <= span.to);
  const seen = (): void => void changeSettings({ locksSeen: { ...$settings.get().locksSeen, [account]: until } });
  const again = async (): Promise<void> => {
    if (!now) return;
    const done = await request('POST /api/risk/{account}/lock', { path: { account }, body: { until: lockUntil(now, Number(days)) } });
    setSaid(done.ok ? null : problemWords(done.problem));
    if (!done.ok) return;
    seen();
    await Promise.all([askAgain('GET /api/risk/{account}'), askAgain('GET /api/risk/{account}/changes')]);
  };
  const reached = within.filter((one) => one.reached).length;
  const refused = within.reduce((sum, { rules }) => sum + rules.reduce((all, one) => all + one.refused, 0), 0);
  return (
    <Section title={`The lock of ${account} is over`} about={`It held from ${span.from} to ${span.to}. Look at it before you go on.`}>
      {data && (
        <p>
          {data.all.count} round {data.all.count === 1 ? 'trip' : 'trips'}, net <b className="figure">{signed(data.all.net)}</b> EUR
          {data.all.winRate === null ? '' : `, ${data.all.winRate} % won`}
          {data.all.expectancyR === null ? '' : `, ${signed(Number(data.all.expectancyR).toFixed(2))} R each`}. The day’s limit was reached on {reached} of{' '}
          {within.length} days; {refused} opening {refused === 1 ? 'order was' : 'orders were'} refused.
        </p>
      )}
      <div className="mt-2 flex items-center gap-2">
        <Choice
          className="field"
          label="Lock again for"
          value={days}
          options={LOCK_DAYS.map((one) => ({ value: String(one), words: one === 1 ? 'a day' : `${one} days` }))}
          onPick={setDays}
        />
        <Button onClick={() => void again()}>lock again, no way back</Button>
        <Button onClick={seen}>leave it open</Button>
      </div>
      {said !== null && <p className="plate heather mt-2 whitespace-normal">{said}</p>}
    </Section>
  );
}
