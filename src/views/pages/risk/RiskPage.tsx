import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { readRules, type RuleName, type RulesText } from '../../../core/risk/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { signed } from '../../../kit/Figure.tsx';
import { $risk, $session, problemWords, request, type ApiRisk, type ApiRules } from '../../../live/index.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { $target } from '../../workspace/panes.ts';
import { Section } from '../settings/Section.tsx';
import { Changes } from './Changes.tsx';
import { LastDays } from './LastDays.tsx';
import { LockOver } from './LockOver.tsx';
import { LockRules } from './LockRules.tsx';
import { RuleFields } from './RuleFields.tsx';
import { RuleUse } from './RuleUse.tsx';
import { sentencesOf } from './sentences.ts';
import { Templates } from './Templates.tsx';
import { TodayCurve } from './TodayCurve.tsx';

/** The rules of an account: made while calm, so that they hold while not. */
export default function RiskPage() {
  const session = useStore($session);
  const target = useStore($target);
  const accounts = session?.accounts ?? [];
  const [account, setAccount] = useState(target?.account ?? accounts[0] ?? 'MAIN');
  const { data: rules, error } = useAsked('GET /api/risk/{account}', { path: { account } });
  const state = useStore($risk)[account];
  return (
    <div className="flex flex-col gap-4">
      <div className="sticky -top-4 z-10 -mt-4 -mb-2 flex items-center gap-3 bg-pane py-3">
        <Choice label="Account" value={account} options={accounts.map((one) => ({ value: one, words: one }))} onPick={setAccount} />
        {state && <Today state={state} />}
      </div>
      {error && <p className="plate heather whitespace-normal">{problemWords(error.problem)}</p>}
      <LockOver key={`lock ${account}`} account={account} />
      <div className="grid auto-cols-fr grid-flow-col gap-4">
        <TodayCurve key={`today ${account}`} account={account} limit={rules?.dayLossLimit == null ? null : Number(rules.dayLossLimit)} net={state?.netToday} />
        {rules && state && <RuleUse account={account} rules={rules} state={state} />}
      </div>
      {rules && state && <Rules key={`${account} ${rules.version}`} account={account} rules={rules} state={state} />}
      <LastDays key={account} account={account} />
      <Changes account={account} />
    </div>
  );
}

function Today({ state }: { state: ApiRisk }) {
  return (
    <p className="flex flex-wrap items-center gap-x-4">
      <span>
        today net <b className="figure">{signed(state.netToday)}</b>
      </span>
      <span>
        if every stop fills, less <b className="figure">{state.openRisk}</b>
      </span>
      <span>
        left <b className="figure">{state.left ?? 'no limit'}</b>
      </span>
      {state.positionsWithoutStop.length > 0 && <span className="plate heather">no stop: {state.positionsWithoutStop.join(', ')}</span>}
      {state.blocked.map((block) => (
        <span key={`${block.rule} ${block.instrument ?? ''}`} className="rounded-[2px] border border-ink px-1">
          {block.reason}
        </span>
      ))}
      {state.broken && <span className="plate heather">The record of rules or activity is not what was written: only closing orders are taken.</span>}
    </p>
  );
}

function Rules({ account, rules, state }: { account: string; rules: ApiRules; state: ApiRisk }) {
  const { version, ...first } = rules;
  const [text, setText] = useState<RulesText>(first as RulesText);
  const [refused, setRefused] = useState<string | null>(null);
  const read = readRules(text);
  const changed = JSON.stringify(text) !== JSON.stringify(first);
  const locked = new Map<RuleName, string>(state.locks.map(({ rule, until }) => [rule, until]));
  const save = async (): Promise<void> => {
    const done = await request('PUT /api/risk/{account}', { path: { account }, body: { ...text, version } });
    setRefused(done.ok ? null : problemWords(done.problem));
    if (!done.ok) return;
    await Promise.all([askAgain('GET /api/risk/{account}'), askAgain('GET /api/risk/{account}/changes')]);
  };
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_360px] gap-4">
      <div className="flex flex-col gap-4">
        <Section title="Rules" about="Checked in the server before every order and at every price, net of fees. Closing is always possible.">
          <RuleFields rules={text} locked={locked} problems={read.ok ? [] : read.refusal} onChange={(to) => setText((before) => ({ ...before, ...to }))} />
          {refused !== null && <p className="plate heather mt-2 whitespace-normal">{refused}</p>}
          <div className="mt-3 flex gap-2">
            <Button disabled={!changed || !read.ok} onClick={() => void save()}>
              set these rules
            </Button>
            <Button disabled={!changed} onClick={() => setText(first as RulesText)}>
              as they were
            </Button>
          </div>
        </Section>
        <Templates now={read.ok ? text : null} set={first as RulesText} locked={[...locked.keys()]} onTake={setText} />
      </div>
      <div className="flex flex-col gap-4">
        <Section title="In words">
          {read.ok ? (
            <ul className="flex list-disc flex-col gap-1 pl-4">
              {sentencesOf(text, state.day).map((sentence) => (
                <li key={sentence}>{sentence}</li>
              ))}
            </ul>
          ) : (
            <p className="text-quiet">What is typed is no set of rules yet.</p>
          )}
        </Section>
        <LockRules account={account} state={state} dirty={changed} />
      </div>
    </div>
  );
}
