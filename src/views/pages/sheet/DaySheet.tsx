import { useStore } from '@nanostores/react';
import { moneyPlaces, sumsByCurrency } from '../../../client/position-figures.ts';
import { VENUES } from '../../../core/instrument/index.ts';
import { formatDay, parseDay, previousTradingDay, sessionTimes, tradingDay } from '../../../core/market/index.ts';
import { clockText, dayInWords } from '../../../kit/clock.ts';
import { Button } from '../../../kit/Button.tsx';
import { Facts, type Fact } from '../../../kit/Facts.tsx';
import { grouped, lengthened, resultClass, signed, signedShort } from '../../../kit/Figure.tsx';
import {
  $accounts,
  $clock,
  $plans,
  $positions,
  $risk,
  $session,
  $working,
  instrumentOf,
  quoteOf,
  tickerOf,
  zoneOf,
  type ApiAccount,
  type ApiOrder,
  type ApiPosition,
  type ApiRisk,
  type ApiRules,
  type ApiRunningPlan,
} from '../../../live/index.ts';
import { useFrameCommands } from '../../act/keys.ts';
import { marketTime } from '../../act/market-time.ts';
import { useAsked } from '../../act/queries.tsx';
import { DayNote } from '../review/DayNote.tsx';
import { SpanTable } from '../review/Recap.tsx';
import { LockOver } from '../risk/LockOver.tsx';
import { NEAR, percentOf, shareOf, useRuleUses, usedWords } from '../risk/rule-uses.ts';
import { sentencesOf } from '../risk/sentences.ts';
import { showPage } from '../route.ts';
import { isLastOfWeek } from './due.ts';
import { Section } from '../settings/Section.tsx';

/** What a day begins with, and what it leaves: read once before the first order and once after the last. */
export default function DaySheet() {
  const now = useStore($clock)?.time;
  const accounts = useStore($session)?.accounts ?? [];
  useFrameCommands([{ keys: ['Enter'], words: 'to the workspace', run: () => showPage(null) }]);
  if (!now) return <div className="skeleton h-[200px]" role="status" aria-label="Loading the day sheet" />;
  const at = Date.parse(now);
  const day = tradingDay('HALM', at);
  const today = formatDay(day);
  const { session } = VENUES.HALM;
  const over = session !== null && at >= sessionTimes('HALM', day).close;
  return (
    <div className="flex flex-col gap-4">
      <p className="flex flex-wrap items-center gap-3 text-[14px]">
        <b>{dayInWords(day)}</b>
        <span>{over ? 'HALM has closed.' : `HALM trades from ${session?.open} to ${session?.close}${minutesLeft(at, day)}.`}</span>
        <Button onClick={() => showPage(null)}>
          To the workspace <kbd className="text-quiet">Enter</kbd>
        </Button>
      </p>
      {accounts.map((account) => (
        <LockOver key={account} account={account} />
      ))}
      <div className="grid gap-4" style={{ gridTemplateColumns: `repeat(${Math.max(1, accounts.length)}, minmax(0, 1fr))` }}>
        {accounts.map((account) => (
          <AccountCard key={account} account={account} before={formatDay(previousTradingDay('HALM', day))} />
        ))}
      </div>
      <Expiring day={today} />
      <Offered today={today} />
      {over ? <After today={today} week={isLastOfWeek(day)} /> : <Before day={formatDay(previousTradingDay('HALM', day))} monday={isFirstOfWeek(day)} />}
    </div>
  );
}

/** New issues that can be applied for, or are allotted or listed today. */
function Offered({ today }: { today: string }) {
  const issues = useAsked('GET /api/new-issues', {}, { freshMs: 60_000 }).data?.items ?? [];
  const lines = issues.flatMap(({ id, name, low, high, state, closesAt, listsOn, price }) => {
    if (state === 'open') return [`${id} (${name}) is offered at ${low} to ${high}; applications until ${marketTime(closesAt)}.`];
    if (listsOn === today) return [`${id} (${name}) is traded from today; it was issued at ${price ?? '–'}.`];
    return state === 'allotted' ? [`${id} (${name}) is allotted at ${price ?? '–'} and traded from ${listsOn} on.`] : [];
  });
  if (lines.length === 0) return null;
  return (
    <Section title="New issues">
      {lines.map((line) => (
        <p key={line}>{line}</p>
      ))}
      <Button className="mt-2" onClick={() => showPage('accounts')}>
        Apply in Accounts
      </Button>
    </Section>
  );
}

const isFirstOfWeek = (day: number): boolean => previousTradingDay('HALM', day) < day - 1;

function minutesLeft(now: number, day: number): string {
  const { open } = sessionTimes('HALM', day);
  return now >= open ? '' : `, in ${Math.ceil((open - now) / 60_000)} min`;
}

const belongsTo =
  (account: string) =>
  (one: { readonly account: string }): boolean =>
    one.account === account;

/** What an account has, holds, has working, and may lose. */
function AccountCard({ account, before }: { account: string; before: string }) {
  const state = useStore($accounts)[account];
  const positions = Object.values(useStore($positions)).filter((one) => one.account === account && one.quantity !== '0');
  const working = Object.values(useStore($working)).flat().filter(belongsTo(account));
  const plans = Object.values(useStore($plans)).filter((one) => one.account === account && one.state !== 'done' && one.state !== 'stopped');
  const risk = useStore($risk)[account];
  const { data: rules } = useAsked('GET /api/risk/{account}', { path: { account } }, { freshMs: 5000 });
  const { data: last } = useAsked('GET /api/review/figures', { query: { from: before, to: before, account, by: 'day' } }, { freshMs: 60_000 });
  if (!state) return null;
  const lines = [...moneyLines(state), ...bookLines(positions, working, plans), ...riskLines(risk)];
  const net = last?.all.count === 0 || !last ? null : last.all.net;
  return (
    <Section title={account}>
      <Facts
        lines={[
          ...lines.map(([words, text, loud]): Fact => [
            words,
            loud ? <span className="plate heather whitespace-normal">{text}</span> : <span className="figure whitespace-normal">{text}</span>,
          ]),
          ['last session', <span className={`figure ${net === null ? '' : resultClass(net)}`}>{net === null ? 'no round trip' : `${signed(net)} EUR`}</span>],
        ]}
      />
      {rules && risk && (
        <ul className="mt-2 list-disc pl-4 text-quiet">
          {sentencesOf(rules as Parameters<typeof sentencesOf>[0], risk.day)
            .slice(0, -1)
            .map((sentence) => (
              <li key={sentence}>{sentence}</li>
            ))}
        </ul>
      )}
      {rules && risk && <Used account={account} rules={rules} state={risk} />}
    </Section>
  );
}

/** How much of each rule the day has used. */
function Used({ account, rules, state }: { account: string; rules: ApiRules; state: ApiRisk }) {
  const uses = useRuleUses(account, rules, state);
  if (uses.length === 0) return null;
  return (
    <div className="mt-2">
      <Facts
        lines={uses.map((use): Fact => {
          const text = `${usedWords(use)} · ${percentOf(use)}`;
          return [use.words, shareOf(use) >= NEAR ? <span className="plate heather">{text}</span> : <span className="figure">{text}</span>];
        })}
      />
    </div>
  );
}

type Line = readonly [words: string, text: string, loud?: boolean];

function moneyLines({ equity, cash, buyingPower, currency, wallets, marginCall }: ApiAccount): Line[] {
  if (wallets.length > 0) return wallets.map(({ asset, purpose, total }) => [`${asset}, ${purpose}`, grouped(total)]);
  return [
    ['equity', `${grouped(equity)} ${currency}${marginCall ? ': margin call, no opening order is taken' : ''}`, marginCall],
    ['cash', `${grouped(cash)} ${currency}`],
    ['can buy', grouped(buyingPower)],
  ];
}

const MOST_NAMED = 6;

/** What is held: how many positions, and the first of them by name. */
function heldWords(positions: readonly ApiPosition[]): string {
  if (positions.length === 0) return 'flat';
  const named = positions.slice(0, MOST_NAMED).map(({ instrument, quantity }) => `${signed(quantity)} ${tickerOf(instrument)}`);
  const more = positions.length > MOST_NAMED ? [`${positions.length - MOST_NAMED} more`] : [];
  return `${positions.length} ${positions.length === 1 ? 'position' : 'positions'}: ${[...named, ...more].join(', ')}`;
}

function bookLines(positions: readonly ApiPosition[], working: readonly ApiOrder[], plans: readonly ApiRunningPlan[]): Line[] {
  const bare = positions.filter(({ unitsWithoutStop }) => Number(unitsWithoutStop) > 0);
  const here = plans.filter(({ heldBy }) => heldBy === 'here').length;
  const waits = (count: number, where: string): string => (count === 0 ? '' : `${count} ${where}`);
  return [
    ['held', heldWords(positions)],
    ...(bare.length > 0 ? [['without a stop', bare.map(({ instrument }) => instrument).join(', '), true] as const] : []),
    ['working orders', String(working.length)],
    ['exits', plans.length === 0 ? 'none' : [waits(plans.length - here, 'at the venue'), waits(here, 'held here')].filter(Boolean).join(', ')],
  ];
}

function riskLines(risk: ApiRisk | undefined): Line[] {
  if (!risk) return [];
  return [
    ['today so far', signed(risk.netToday)],
    ['left of the day', risk.left ?? 'no limit'],
    ...(risk.lockedUntil === null ? [] : [['locked until', clockText(zoneOf(null), risk.lockedUntil, 'yyyy-MM-dd HH:mm')] as const]),
    ...risk.blocked.map(({ reason }) => ['blocked', reason, true] as const),
  ];
}

/** Options that end today or on the next trading day, and whether they are in the money. */
function Expiring({ day }: { day: string }) {
  const positions = Object.values(useStore($positions)).filter(({ quantity }) => quantity !== '0');
  const soon = positions.flatMap((position) => {
    const instrument = instrumentOf(position.instrument);
    if (!instrument?.expiry || parseDay(instrument.expiry) - parseDay(day) > 3) return [];
    const spot = instrument.underlying === null ? null : (quoteOf(instrument.underlying)?.text.mark ?? null);
    const strike = instrument.strike === null ? null : instrument.strike / 10 ** instrument.priceDecimals;
    const inside = spot === null || strike === null ? null : instrument.right === 'call' ? Number(spot) > strike : Number(spot) < strike;
    return [{ position, expiry: instrument.expiry, inside }];
  });
  if (soon.length === 0) return null;
  return (
    <Section title="Ends soon" about="What is in the money is exercised by itself and settled in cash.">
      <ul>
        {soon.map(({ position, expiry, inside }) => (
          <li key={`${position.account} ${position.instrument}`}>
            {position.account}: {signed(position.quantity)} {position.instrument} ends on {expiry}
            {inside === null ? '' : inside ? ', in the money' : ', out of the money'}
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** Before the session: what the last one, and on a Monday the last week, asks. */
function Before({ day, monday }: { day: string; monday: boolean }) {
  const { data } = useAsked('GET /api/review/recap', { query: { day } });
  if (!data) return null;
  return (
    <div className="grid grid-cols-2 gap-4">
      <SpanTable title={monday ? 'Last week' : 'Last session'} span={monday ? data.week : data.day} />
      <DayNote key={day} day={day} />
    </div>
  );
}

/** After the session: what lacks a setup, what rules came to, what it cost, and a line to write; after the week's last one the week too. */
function After({ today, week }: { today: string; week: boolean }) {
  const { data: recap } = useAsked('GET /api/review/recap', { query: { day: today } });
  const { data: trips } = useAsked('GET /api/review/round-trips', { query: { from: today, to: today } });
  const bare = (trips?.items ?? []).filter(({ setup }) => setup === null);
  const slipped = sumsByCurrency((trips?.items ?? []).map(({ currency, slippage }) => ({ currency, amount: slippage ?? '0' }))).map(
    ([currency, sum]) => `${signedShort(lengthened(sum, 2), moneyPlaces(currency))} ${currency}`,
  );
  return (
    <>
      <Section title="To look at">
        <p>
          {bare.length === 0 ? 'Every round trip has its setup.' : `${bare.length} without a setup: ${bare.map(({ instrument }) => instrument).join(', ')}. `}
          {bare.length > 0 && (
            <button type="button" className="underline underline-offset-4" onClick={() => showPage('review')}>
              give them one
            </button>
          )}
        </p>
        <p>
          slipped <b className="figure">{slipped.length === 0 ? '–' : slipped.join(', ')}</b>, costs <b className="figure">{recap?.day.all.fees ?? '–'}</b>
        </p>
      </Section>
      <div className="grid grid-cols-2 gap-4">
        {recap && <SpanTable title="Today" span={recap.day} />}
        {recap && week && <SpanTable title="This week" span={recap.week} />}
        <DayNote key={today} day={today} />
      </div>
    </>
  );
}
