import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { typedMoment } from '../../../client/typed-moment.ts';
import { VENUES } from '../../../core/instrument/index.ts';
import { RULE_NAMES, RULE_WORDS } from '../../../core/risk/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Several } from '../../../kit/Several.tsx';
import { $clock, problemWords, request, type ApiRisk } from '../../../live/index.ts';
import { marketTime } from '../../act/market-time.ts';
import { askAgain } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';
import { LOCK_DAYS, lockUntil } from './lock.ts';

const MOMENT = 'until';
const SPANS = [
  ...LOCK_DAYS.map((one) => ({ value: String(one), words: one === 1 ? 'for a day' : `for ${one} days` })),
  { value: MOMENT, words: 'until a moment' },
];

/** What is locked until when: all that is locked until the same moment in one line. */
function locksInWords(locks: ApiRisk['locks']): string[] {
  const ends = [...new Set(locks.map(({ until }) => until))].sort();
  return ends.map((until) => {
    const those = locks.filter((one) => one.until === until);
    const names = those.length === RULE_NAMES.length ? 'All rules' : those.map(({ rule }) => RULE_WORDS[rule]).join(', ');
    return `${names} until ${marketTime(until)}`;
  });
}

interface Props {
  readonly account: string;
  readonly state: ApiRisk;
  /** Something is typed that is not set yet. */
  readonly dirty: boolean;
}

/** Locks rules as they are set now, all or chosen ones. Nothing loosens them until then, and there is no way back. */
export function LockRules({ account, state, dirty }: Props) {
  const now = useStore($clock)?.time;
  const [span, setSpan] = useState('5');
  const [typed, setTyped] = useState('');
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const [sure, setSure] = useState(false);
  const [said, setSaid] = useState<string | null>(null);
  const until = span === MOMENT ? typedMoment(VENUES.HALM.zone, typed) : now ? lockUntil(now, Number(span)) : null;
  const rules = RULE_NAMES.filter((name) => chosen.includes(RULE_WORDS[name]));
  const what = chosen.length === 0 ? 'all rules' : chosen.join(', ');
  const lock = async (): Promise<void> => {
    if (until === null) return;
    const body = { until, ...(rules.length === 0 ? {} : { rules: rules }) };
    const done = await request('POST /api/risk/{account}/lock', { path: { account }, body });
    setSure(false);
    setSaid(done.ok ? null : problemWords(done.problem));
    await Promise.all([askAgain('GET /api/risk/{account}'), askAgain('GET /api/risk/{account}/changes')]);
  };
  return (
    <Section
      title="Lock"
      about="While they are locked nobody can loosen the rules or shorten the lock, by any way in; the broker holds them too. Tightening stays possible."
    >
      {state.locks.length === 0 && <p className="mb-2">No rule is locked.</p>}
      {locksInWords(state.locks).map((line) => (
        <p key={line} className="mb-1">
          Locked: {line}.
        </p>
      ))}
      <div className="flex flex-wrap items-center gap-2">
        <Several label="Rules to lock" all="all rules" options={RULE_NAMES.map((name) => RULE_WORDS[name])} chosen={chosen} onChange={setChosen} />
        <Choice label="Lock" className="field" value={span} options={SPANS} onPick={setSpan} />
        {span === MOMENT && (
          <input
            type="datetime-local"
            className="field figure"
            aria-label="Locked until, exchange time"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
          />
        )}
        {sure && until !== null ? (
          <>
            <Button tone="sell" onClick={() => void lock()}>
              lock {what} until {marketTime(until)}: no way back
            </Button>
            <Button onClick={() => setSure(false)}>leave it</Button>
          </>
        ) : (
          <Button disabled={dirty || until === null} title={dirty ? 'Set the rules first.' : undefined} onClick={() => setSure(true)}>
            lock {what} …
          </Button>
        )}
      </div>
      {said !== null && <p className="plate heather mt-2 whitespace-normal">{said}</p>}
    </Section>
  );
}
