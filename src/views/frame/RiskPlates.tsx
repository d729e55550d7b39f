import { Lock } from 'lucide-react';
import { useStore } from '@nanostores/react';
import { useEffect, useRef, useState } from 'react';
import { $settings } from '../../client/settings.ts';
import { VENUES } from '../../core/instrument/index.ts';
import { RULE_WORDS } from '../../core/risk/index.ts';
import { clockText } from '../../kit/clock.ts';
import { grouped, signed } from '../../kit/Figure.tsx';
import { tickerOf, type ApiAccount, type ApiRisk } from '../../live/index.ts';
import { marketTime } from '../act/market-time.ts';
import { showPage } from '../pages/route.ts';

/** From so much of the limit on the rail asks for a look. */
export const THREE_QUARTERS = 0.75;

const open = (): void => showPage('risk');
const time = (text: string): string => clockText(VENUES.HALM.zone, text, 'HH:mm');

/** What is left of the day's limit; three quarters used it says how much. */
export function Left({ left, used }: { left: number | null; used: number | null }) {
  const near = used !== null && used >= THREE_QUARTERS;
  if (near && left !== null)
    return (
      <button type="button" className="plate heather figure h-[24px] w-[136px] shrink-0 whitespace-nowrap text-center" onClick={open}>
        {grouped(left.toFixed(2))} left · {Math.round(used * 100)} % used
      </button>
    );
  return (
    <button type="button" className="flex w-[84px] shrink-0 flex-col justify-center text-left" onClick={open} title="Opens Risk">
      <span className="text-[11px] leading-[13px] text-quiet">left</span>
      <span className={`figure self-start leading-[16px] ${left === null ? 'text-quiet' : 'font-bold'}`}>
        {left === null ? 'no limit' : grouped(left.toFixed(2))}
      </span>
    </button>
  );
}

/** The day's limit is reached: when, at what, what is being closed, and until when nothing opens. */
export function ReachedPlate({ risk, net }: { risk: ApiRisk | undefined; net: string | null }) {
  const block = risk?.blocked.find(({ rule }) => rule === 'dayLossLimit');
  if (!risk || !block) return null;
  const closing = risk.closeOut === 'running' ? 'closing all positions · ' : risk.closeOut === 'done' ? 'all closed · ' : '';
  return (
    <button
      type="button"
      className="flex h-[28px] w-[276px] shrink-0 flex-col justify-center rounded-[2px] bg-crimson px-2 text-left text-[11px] font-semibold leading-[13px] text-white outline-1 outline-ink"
      onClick={open}
      data-testid="limit-reached"
    >
      <span className="figure truncate text-left text-white">
        DAY LIMIT {time(block.since)} · {net === null ? '–' : signed(net)} of −{risk.dayLossLimit ?? '–'}
      </span>
      <span className="truncate text-white">
        {closing}no opening until {time(block.until)} · closing works
      </span>
    </button>
  );
}

/** What blocks opening, in two lines: the cause, and what works all the same. */
function BlockedPlate({ cause, title, look, onClick, testId }: { cause: string; title: string; look: string; onClick: () => void; testId?: string }) {
  return (
    <button
      type="button"
      className={`flex h-[28px] w-[184px] shrink-0 flex-col justify-center px-2 text-left text-[11px] font-semibold leading-[13px] ${look}`}
      title={title}
      onClick={onClick}
      data-testid={testId}
    >
      <span className="truncate">{cause}</span> <span className="truncate">no opening · closing works</span>
    </button>
  );
}

/** Another block: what, of what, until when. */
export function BlockPlate({ block }: { block: ApiRisk['blocked'][number] }) {
  const of = block.instrument === null ? '' : ` ${tickerOf(block.instrument)}`;
  const cause = `${RULE_WORDS[block.rule].toUpperCase()}${of} until ${time(block.until)}`;
  return <BlockedPlate cause={cause} title={`${cause}. ${block.reason}`} look="rounded-[2px] border border-ink" onClick={open} />;
}

/** Equity is below maintenance: what that blocks, and how far below it is. */
export function MarginCallPlate({ account: { equity, maintenance, currency } }: { account: ApiAccount }) {
  const why = `Equity ${grouped(equity)} ${currency} is below the maintenance margin of ${grouped(maintenance)} ${currency}`;
  return (
    <BlockedPlate
      cause="MARGIN CALL"
      title={`${why}: opening orders are refused until it is above. Opens Accounts`}
      look="plate heather"
      onClick={() => showPage('accounts')}
      testId="margin-call"
    />
  );
}

/** Whether rules are locked, and until when. */
export function LockMark({ risk }: { risk: ApiRisk | undefined }) {
  const until = risk?.lockedUntil ?? null;
  const { locksSeen } = useStore($settings);
  const over = risk?.lockOver ?? null;
  if (risk && over !== null && locksSeen[risk.account] !== over.until)
    return (
      <button type="button" className="plate heather h-[24px] shrink-0 whitespace-nowrap" title="Its time is to be looked at: opens Risk" onClick={open}>
        lock over
      </button>
    );
  const words = until === null ? 'No rule is locked: opens Risk' : `Rules locked until ${marketTime(until)}: opens Risk`;
  return (
    <button type="button" className="grid h-[24px] w-[24px] shrink-0 place-items-center" aria-label={words} title={words} onClick={open}>
      <Lock size={14} className={until === null ? 'text-quiet opacity-60' : ''} strokeWidth={until === null ? 1.5 : 2.5} />
    </button>
  );
}

const STEPS = [0.5, THREE_QUARTERS, 1] as const;

/** Speaks once at a half, at three quarters and at the limit, and when a block or a margin call begins or ends. */
export function RiskVoice({ account, used, risk, called }: { account: string; used: number | null; risk: ApiRisk | undefined; called: boolean }) {
  const [words, setWords] = useState('');
  const step = used === null ? 0 : STEPS.filter((one) => used >= one).length;
  const blocks = (risk?.blocked ?? []).map(({ rule, instrument }) => `${rule} ${instrument ?? ''}`).join(',');
  const seen = useRef({ account, step, blocks, called });
  useEffect(() => {
    const before = seen.current;
    seen.current = { account, step, blocks, called };
    if (before.account !== account) return;
    if (blocks !== before.blocks) setWords(blocks === '' ? `${account}: opening orders are possible again.` : (risk?.blocked[0]?.reason ?? ''));
    else if (called !== before.called)
      setWords(called ? `${account}: margin call. No opening order is taken; closing works.` : `${account}: the margin call is over.`);
    else if (step > before.step) setWords(`${account}: ${Math.round((STEPS[step - 1] ?? 0) * 100)} percent of the day’s limit are used.`);
  }, [account, step, blocks, called, risk]);
  return (
    <span role="status" aria-live="assertive" className="sr-only">
      {words}
    </span>
  );
}
