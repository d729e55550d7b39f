import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { namedThings } from '../../../client/saved-remote.ts';
import { thingsOf } from '../../../client/things.ts';
import { RULE_NAMES, RULE_WORDS, readRules, type RuleName, type RulesText } from '../../../core/risk/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { signed } from '../../../kit/Figure.tsx';
import { $clock, $risk, $session, problemWords, request, type ApiRisk, type ApiRules } from '../../../live/index.ts';
import { marketTime } from '../../act/market-time.ts';
import { KeptSets } from '../../act/KeptSets.tsx';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { $target } from '../../workspace/panes.ts';
import { Section } from '../settings/Section.tsx';
import { LastDays } from './LastDays.tsx';
import { LOCK_DAYS, lockUntil } from './lock.ts';
import { LockOver } from './LockOver.tsx';
import { RuleFields } from './RuleFields.tsx';
import { RuleUse } from './RuleUse.tsx';
import { sentencesOf } from './sentences.ts';
import { NO_RULES_TEXT, TEMPLATES, takenUp } from './templates.ts';
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

const templates = thingsOf<RulesText>('rule-templates', 'the rule template', { remote: namedThings('rule-templates'), first: () => NO_RULES_TEXT });

interface TemplatesProps {
  /** The rules as they are typed, where they can be read. */
  readonly now: RulesText | null;
  readonly set: RulesText;
  readonly locked: readonly RuleName[];
  readonly onTake: (rules: RulesText) => void;
}

/** Rules to begin from: those that come along, and the trader's own, for any account. */
function Templates({ now, set, locked, onTake }: TemplatesProps) {
  const [said, setSaid] = useState<string | null>(null);
  const take = (name: string, template: Partial<RulesText>): void => {
    const { rules, stayed } = takenUp(template, set, locked);
    onTake(rules);
    setSaid(
      `The fields are as in ${name}${stayed.length === 0 ? '' : `, but for what is locked and would be looser: ${stayed.map((one) => RULE_WORDS[one]).join(', ')}`}. Nothing counts until it is set.`,
    );
  };
  return (
    <Section title="Templates" about="Rules to begin from, in any account. What you keep here is yours; a lock is not undone by any of them.">
      <div className="mb-1 flex flex-col gap-1">
        {TEMPLATES.map(({ name, about, rules }) => (
          <button key={name} type="button" className="min-h-[24px] text-left" onClick={() => take(name, rules)}>
            {name} <span className="text-quiet">{about}</span>
          </button>
        ))}
      </div>
      <div className="max-w-[420px]">
        <KeptSets
          kind="rule-templates"
          what="template"
          things={templates}
          now={now !== null && RULE_NAMES.some((name) => now[name] !== null) ? now : null}
          onTake={take}
        />
      </div>
      {said !== null && (
        <p role="status" className="mt-2">
          {said}
        </p>
      )}
    </Section>
  );
}

/** Locks all rules as they are set now. Nothing loosens them until then, and there is no way back. */
function LockRules({ account, state, dirty }: { account: string; state: ApiRisk; dirty: boolean }) {
  const now = useStore($clock)?.time;
  const [days, setDays] = useState<number>(5);
  const [sure, setSure] = useState(false);
  const [said, setSaid] = useState<string | null>(null);
  const until = now ? lockUntil(now, days) : null;
  const lock = async (): Promise<void> => {
    if (until === null) return;
    const done = await request('POST /api/risk/{account}/lock', { path: { account }, body: { until } });
    setSure(false);
    setSaid(done.ok ? null : problemWords(done.problem));
    await Promise.all([askAgain('GET /api/risk/{account}'), askAgain('GET /api/risk/{account}/changes')]);
  };
  return (
    <Section
      title="Lock"
      about="While they are locked nobody can loosen the rules or shorten the lock, by any way in; the broker holds them too. Tightening stays possible."
    >
      <p className="mb-2">{state.lockedUntil === null ? 'No rule is locked.' : `Locked until ${marketTime(state.lockedUntil)}.`}</p>
      <div className="flex flex-wrap items-center gap-2">
        <Choice
          label="Lock for"
          value={String(days)}
          options={LOCK_DAYS.map((one) => ({ value: String(one), words: one === 1 ? 'a day' : `${one} days` }))}
          onPick={(picked) => setDays(Number(picked))}
        />
        {sure ? (
          <>
            <Button tone="sell" onClick={() => void lock()}>
              lock until {until?.slice(0, 10)}: no way back
            </Button>
            <Button onClick={() => setSure(false)}>leave it</Button>
          </>
        ) : (
          <Button disabled={dirty || until === null} title={dirty ? 'Set the rules first.' : undefined} onClick={() => setSure(true)}>
            lock all rules …
          </Button>
        )}
      </div>
      {said !== null && <p className="plate heather mt-2 whitespace-normal">{said}</p>}
    </Section>
  );
}

type Window = NonNullable<RulesText['noTradeWindows']>[number];

/** A rule's value in words: a figure, what it does, hours of the day, quantities by kind. */
function valueText(value: unknown): string {
  if (value === null) return 'none';
  if (Array.isArray(value)) return (value as Window[]).map(({ from, to, days }) => `${from}–${to}${days ? ` ${days.join(' ')}` : ''}`).join(', ');
  if (typeof value === 'object') return Object.entries(value as Record<string, unknown>).map(([kind, cap]) => `${kind} ${String(cap)}`).join(', '); // prettier-ignore
  return typeof value === 'number' ? String(value) : (value as string);
}

/** Every change of the rules, with its old and its new value. */
function Changes({ account }: { account: string }) {
  const { data } = useAsked('GET /api/risk/{account}/changes', { path: { account }, query: { limit: 200 } });
  const items = [...(data?.items ?? [])].reverse();
  return (
    <Section title="Changes" about="The record can’t be edited: each line carries the hash of those before it.">
      {items.length === 0 && <p className="text-quiet">The rules were never changed.</p>}
      <table className="list w-full">
        <tbody>
          {items.map((change) => (
            <tr key={change.seq}>
              <td className="figure text-left">{marketTime(change.time)}</td>
              <td>{change.by}</td>
              <td>{change.kind}</td>
              <td>{RULE_WORDS[change.rule]}</td>
              <td className="figure text-left">
                {valueText(change.old)} → {valueText(change.new)}
              </td>
              <td className="figure text-quiet" title={change.hash}>
                {change.hash.slice(0, 8)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
