import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import { eventWords, nextEvent } from '../../client/next-event.ts';
import { $wouldRisk } from '../../client/would-risk.ts';
import { VENUES, type VenueId } from '../../core/instrument/index.ts';
import { drawnMoney, inCents, sumOf } from '../../core/number/index.ts';
import { dayResult } from '../../core/portfolio/index.ts';
import { clockText } from '../../kit/clock.ts';
import { grouped, resultClass, signed } from '../../kit/Figure.tsx';
import { $accounts, $clock, $positions, $risk, $session, $working, instrumentOf } from '../../live/index.ts';
import { isUnderWay, useBasketRuns } from '../act/basket-runs.ts';
import { useDayScale } from '../act/risk-days.ts';
import { $target } from '../workspace/panes.ts';
import { FlattenButton } from './FlattenButton.tsx';
import { Gauge } from './Gauge.tsx';
import { Plate } from './Plate.tsx';
import { BlockPlate, Left, LockMark, MarginCallPlate, ReachedPlate, RiskVoice, THREE_QUARTERS } from './RiskPlates.tsx';

/** Always there, one line: what keys act on, the day's result, what is left, and the way out. */
export function Rail() {
  const target = useStore($target);
  const accounts = useStore($accounts);
  const session = useStore($session);
  const account = target?.account ?? session?.accounts[0] ?? 'MAIN';
  const positions = useStore($positions);
  const day = useMemo(() => dayResult(Object.values(positions), account), [positions, account]);
  const net = day === null ? null : inCents(day.net);
  const risk = useStore($risk)[account];
  const limit = risk?.dayLossLimit == null ? null : Number(risk.dayLossLimit);
  const made = day === null ? null : drawnMoney(day.net);
  const used = limit === null || made === null ? null : Math.max(0, -made / limit);
  const left = limit === null || made === null ? null : Math.max(0, limit + made);
  const reached = risk?.blocked.some(({ rule }) => rule === 'dayLossLimit') ?? false;
  const aimed = useStore($wouldRisk);
  const would = aimed?.account !== account ? undefined : aimed.after === null ? null : Number(aimed.after);
  const block = risk?.blocked[0];
  const called = accounts[account]?.marginCall === true ? accounts[account] : undefined;
  const others = (session?.accounts ?? []).filter((one) => one !== account);
  const scale = useDayScale(account, limit);
  return (
    <section className="flex h-[32px] shrink-0 items-center gap-2 px-2" aria-label="Risk rail">
      <Plate />
      <Labelled name="net today" width={84}>
        <span className={`figure font-bold ${resultClass(net ?? '0')}`} data-testid="net">
          {net === null ? '–' : signed(net)}
        </span>
      </Labelled>
      <Gauge account={account} day={day} scale={scale} limit={limit} reached={reached} would={would} />
      {reached ? (
        <ReachedPlate risk={risk} net={net} />
      ) : (
        <>
          <Left left={left} used={used} />
          {block ? (
            <BlockPlate block={block} />
          ) : called ? (
            <MarginCallPlate account={called} />
          ) : (
            <>
              <Labelled name="quantity" width={76}>
                <span className="figure font-bold">{risk ? grouped(sumOf(Object.values(risk.quantityUsed).map(String))) : '–'}</span>
              </Labelled>
              <NextOrBasket account={account} />
            </>
          )}
        </>
      )}
      <LockMark risk={risk} />
      <RiskVoice account={account} used={used} risk={risk} called={called !== undefined} />
      {others.map((one) => (
        <Stub key={one} account={one} />
      ))}
      <span className="w-2" />
      <FlattenButton account={account} />
    </section>
  );
}

function Labelled({ name, width, children }: { name: string; width: number; children: React.ReactNode }) {
  return (
    <div className="flex shrink-0 flex-col justify-center" style={{ width }}>
      <span className="text-quiet text-[11px] leading-[13px]">{name}</span>
      <span className="leading-[16px]">{children}</span>
    </div>
  );
}

/** While a basket is being sent, how far it is; else what comes next. */
function NextOrBasket({ account }: { account: string }) {
  const run = useBasketRuns(null).find(isUnderWay);
  if (!run)
    return (
      <Labelled name="next" width={100}>
        <NextUp account={account} />
      </Labelled>
    );
  const { done, all } = run.progress.orders;
  const words = `${run.basket}: ${run.state}, ${done} of ${all} orders done`;
  return (
    <Labelled name={run.state === 'paused' ? 'basket, paused' : 'basket'} width={100}>
      <span className="block truncate text-[12px]" title={words} data-testid="basket-on-rail">
        {done}/{all} {run.basket}
      </span>
    </Labelled>
  );
}

/** What comes next for the account: told to the second when it is near. */
function NextUp({ account }: { account: string }) {
  const time = useStore($clock)?.time;
  const target = useStore($target);
  const positions = useStore($positions);
  const all = useStore($working);
  const risk = useStore($risk)[account];
  if (!time) return <span className="text-[12px]">–</span>;
  const held = Object.values(positions).filter((one) => one.account === account && one.quantity !== '0');
  const working = Object.values(all)
    .flat()
    .filter((one) => one.account === account);
  const aimed = target?.account === account ? [target] : [];
  const venueOf = ({ instrument }: { instrument: string }): VenueId[] => {
    const venue = instrumentOf(instrument)?.venue;
    return venue === undefined ? [] : [venue];
  };
  const venues = [...held, ...working, ...aimed].flatMap(venueOf);
  const now = Date.parse(time);
  const next = nextEvent(now, {
    venues: venues.length > 0 ? venues : ['HALM'],
    intraday: held.filter(({ product }) => product === 'intraday').flatMap(venueOf),
    blocked: risk?.blocked ?? [],
    nextWindow: risk?.nextWindow ?? null,
    expiries: working.flatMap(({ expiresAt }) => expiresAt ?? []),
  });
  const words = next === null ? '–' : eventWords(next, now, (at) => clockText(VENUES.HALM.zone, at, 'HH:mm'));
  return (
    <span className="block truncate text-[12px]" title={words}>
      {words}
    </span>
  );
}

/** Another account: its letter, and how much of its scale the day has used. */
function Stub({ account }: { account: string }) {
  const positions = useStore($positions);
  const day = useMemo(() => dayResult(Object.values(positions), account), [positions, account]);
  const net = day === null ? null : drawnMoney(day.net);
  const told = useStore($risk)[account]?.dayLossLimit;
  const limit = told == null ? null : Number(told);
  const scale = useDayScale(account, limit);
  const share = net === null ? null : Math.max(0, -net / scale);
  const used = share === null ? '–' : `${Math.round(share * 100)}%`;
  const words = `${account}: net ${day === null ? 'not known' : signed(inCents(day.net))}`;
  return (
    <span
      className={`flex h-[22px] w-[40px] shrink-0 items-center justify-between border px-1 text-[11px] ${share !== null && share >= THREE_QUARTERS && limit !== null ? 'border-heather' : 'border-hair'}`}
      role="img"
      aria-label={words}
      title={words}
    >
      <b>{account.slice(0, 1)}</b>
      <span className="figure text-[11px]">{used}</span>
    </span>
  );
}
