import { useStore } from '@nanostores/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { $answers, readAnswer } from '../../client/answers.ts';
import { $directSend, $sizes, sizeOf, canTrade } from '../../client/session.ts';
import { act } from '../../client/gestures/index.ts';
import { VENUES } from '../../core/instrument/index.ts';
import { localDay, localTime, sessionTimes } from '../../core/market/index.ts';
import { drawnMoney, inCents, sumOf } from '../../core/number/index.ts';
import { dayResult, type DayResult } from '../../core/portfolio/index.ts';
import { Button } from '../../kit/Button.tsx';
import { grouped, resultClass, signed } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { $accounts, $clock, $fills, $orders, $positions, $session, isWorking } from '../../live/index.ts';
import { $page } from '../pages/route.ts';
import { $activePane, $panes, $target, $targetChanged, setAccount, surfaceOf } from '../workspace/panes.ts';
import { Popover, PopoverClose } from '../../kit/Popover.tsx';
import { SizeChoice } from '../act/SizeChoice.tsx';

/** Always there, one line: what keys act on, the day's result, what is left, and the way out. */
export function Rail() {
  const target = useStore($target);
  const session = useStore($session);
  const account = target?.account ?? session?.accounts[0] ?? 'MAIN';
  const positions = useStore($positions);
  const day = useMemo(() => dayResult(Object.values(positions), account), [positions, account]);
  const net = day === null ? null : inCents(day.net);
  const clock = useStore($clock);
  const fills = useStore($fills);
  const quantity = useMemo(
    () => sumOf(fills.filter((fill) => fill.account === account && sameDay(fill.time, clock?.time)).map((fill) => fill.quantity)),
    [fills, account, clock?.time],
  );
  return (
    <section className="flex h-[32px] shrink-0 items-center gap-2 px-2" aria-label="Risk rail">
      <Plate />
      <Labelled name="net today" width={84}>
        <span className={`figure font-bold ${resultClass(net ?? '0')}`} data-testid="net">
          {net === null ? '–' : signed(net)}
        </span>
      </Labelled>
      <Gauge account={account} day={day} />
      <Labelled name="left" width={84}>
        <span className="figure quiet">no limit</span>
      </Labelled>
      <Labelled name="quantity" width={76}>
        <span className="figure font-bold">{grouped(quantity)}</span>
      </Labelled>
      <Labelled name="next" width={112}>
        <span className="text-[12px]">{nextWords(clock?.time)}</span>
      </Labelled>
      <span className="w-4" />
      <FlattenButton account={account} />
    </section>
  );
}

function Labelled({ name, width, children }: { name: string; width: number; children: React.ReactNode }) {
  return (
    <div className="flex shrink-0 flex-col justify-center" style={{ width }}>
      <span className="quiet text-[11px] leading-[13px]">{name}</span>
      <span className="leading-[16px]">{children}</span>
    </div>
  );
}

const sameDay = (a: string, b: string | undefined): boolean => a.slice(0, 10) === b?.slice(0, 10);

function nextWords(time: string | undefined): string {
  if (!time) return '–';
  const now = Date.parse(time);
  const { zone } = VENUES.HALM;
  const day = localDay(zone, now);
  const { open, close } = sessionTimes('HALM', day);
  const intraday = localTime(zone, day, 17 * 60 + 20);
  if (now < open) return 'opens 09:00';
  if (now < intraday) return 'intraday ends 17:20';
  return now < close ? 'session ends 17:30' : 'session over';
}

/** The words that keys and gestures act on. A press on one changes it there. */
export function Plate() {
  const target = useStore($target);
  const active = useStore($activePane);
  const panes = useStore($panes);
  const direct = useStore($directSend);
  useStore($sizes);
  const page = useStore($page);
  const changed = useStore($targetChanged);
  const session = useStore($session);
  const [focused, setFocused] = useState(true);
  const plate = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const update = (): void => setFocused(document.hasFocus());
    update();
    window.addEventListener('focus', update);
    window.addEventListener('blur', update);
    return () => {
      window.removeEventListener('focus', update);
      window.removeEventListener('blur', update);
    };
  }, []);
  useEffect(() => {
    if (matchMedia('(prefers-reduced-motion: reduce)').matches) return;
    plate.current?.animate([{ opacity: 0.4 }, { opacity: 1 }], 300);
  }, [changed]);
  const kind = active === null ? undefined : panes[active]?.kind;
  const surface = kind ? surfaceOf(kind) : null;
  const look = focused ? 'bg-lamp text-[var(--letters)]' : 'border border-lamp text-ink';
  return (
    <div
      ref={plate}
      className={`flex h-[26px] w-[320px] shrink-0 items-center gap-3 overflow-hidden rounded-[2px] px-2 ${look} [&_*]:!text-inherit`}
      role="group"
      aria-label="Key target"
    >
      {!focused ? (
        <span>keys are elsewhere</span>
      ) : target === null || page !== null ? (
        <span>no target: keys do nothing</span>
      ) : (
        <>
          <button type="button" className="shrink-0" onClick={() => window.dispatchEvent(new CustomEvent('kavix-find', { detail: '' }))}>
            <InstrumentName id={target.instrument} />
          </button>
          <Popover
            label="Account"
            trigger={
              <button type="button" className="shrink-0">
                {target.account}
              </button>
            }
          >
            {(session?.accounts ?? []).map((account) => (
              <PopoverClose key={account} asChild>
                <button type="button" className="menu-item" disabled={!canTrade(account, target.instrument)} onClick={() => setAccount(target.pane, account)}>
                  {account}
                </button>
              </PopoverClose>
            ))}
          </Popover>
          <SizeChoice
            account={target.account}
            instrument={target.instrument}
            trigger={(text) => (
              <button type="button" className="figure shrink-0 font-bold">
                {text}
              </button>
            )}
          />
          {surface && (
            <span
              className={`ml-auto shrink-0 rounded-[2px] border border-current px-1 text-[11px] leading-[16px] ${direct[surface] === 'all' ? '' : 'border-dashed'}`}
            >
              {direct[surface] === 'all' ? 'SENDS AT ONCE' : 'OPENS SLIP'}
            </span>
          )}
          <span className="sr-only">size {sizeOf(target.account, target.instrument)}</span>
        </>
      )}
    </div>
  );
}

const ZERO_AT = 0.7;

/** The day in a well: zero at 70 %, each lane starting where the one above ended. */
function Gauge({ account, day }: { account: string; day: DayResult | null }) {
  const accounts = useStore($accounts);
  const box = useRef<SVGSVGElement>(null);
  const [width, setWidth] = useState(380);
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  // Without a limit the stretch from wall to zero stands for one percent of equity.
  const scale = Math.max(1, Number(accounts[account]?.equity ?? 100_000) * 0.01);
  const zero = width * ZERO_AT;
  const at = (value: number): number => Math.max(0, Math.min(width, zero + (value / scale) * zero));
  const [realised, open, net] = day === null ? [0, 0, 0] : [drawnMoney(day.realised), drawnMoney(day.open), drawnMoney(day.net)];
  const first = at(realised);
  const second = at(net);
  const tone = (value: number): string => (value < 0 ? 'var(--copper)' : 'var(--weed)');
  const text = `${account}: net ${day === null ? 'not known' : signed(inCents(day.net))}, no limit set`;
  return (
    <svg
      ref={box}
      className="h-[26px] min-w-[112px] max-w-[900px] flex-1"
      role="meter"
      aria-label="Gauge of the day"
      aria-valuenow={Math.round(net * 100) / 100}
      aria-valuetext={text}
      aria-valuemin={-Math.round(scale)}
      aria-valuemax={Math.round(scale)}
    >
      <rect x="0.5" y="2.5" width={Math.max(0, width - 1)} height="21" fill="var(--well)" stroke="var(--hair)" />
      {[0.25, 0.5].map((part) => (
        <line key={part} x1={zero * part} x2={zero * part} y1="2" y2="7" stroke="var(--line)" />
      ))}
      <line x1="1.5" x2="1.5" y1="0" y2="26" stroke="var(--ink)" strokeWidth="3" strokeDasharray="4 3" />
      <line x1={zero} x2={zero} y1="0" y2="26" stroke="var(--ink)" />
      <rect x={Math.min(zero, first)} y="3" width={Math.abs(first - zero)} height="6" fill={tone(realised)} />
      <line x1={first} x2={first} y1="9" y2="11" stroke="var(--ink)" />
      <rect
        x={Math.min(first, second) + 0.75}
        y="11.75"
        width={Math.max(0, Math.abs(second - first) - 1.5)}
        height="4.5"
        fill="none"
        stroke={tone(open)}
        strokeWidth="1.5"
      />
      {at(net) >= width && (
        <text x={width - 14} y="16" fill="var(--ink)" fontSize="12">
          »
        </text>
      )}
    </svg>
  );
}

const HOLD_MS = 400;

/** Press and hold flattens the account; leaving it or Esc stops. By key it asks once. */
function FlattenButton({ account }: { account: string }) {
  const positions = useStore($positions);
  const orders = useStore($orders);
  const answers = useStore($answers);
  const [held, setHeld] = useState(0);
  const [asking, setAsking] = useState(false);
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const open = Object.values(positions).filter((position) => position.account === account && Number(position.quantity) !== 0).length;
  const working = Object.values(orders).filter((order) => order.account === account && isWorking(order)).length;
  const nothing = open + working === 0;
  const full = `Flatten ${account} · ${open}, ${working}: ${open} positions, ${working} orders`;
  const stop = (): void => {
    if (timer.current) clearTimeout(timer.current);
    timer.current = null;
    setHeld(0);
  };
  const go = (): void => {
    stop();
    setAsking(false);
    act('rail', 'rail', { kind: 'flatten', account, instrument: null });
  };
  return (
    <div className="relative ml-auto">
      <Button
        className="relative h-[26px] w-[132px] overflow-hidden"
        aria-label={nothing ? `${account} is flat` : full}
        title={full}
        disabled={nothing}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          setHeld(1);
          timer.current = setTimeout(go, HOLD_MS);
        }}
        onPointerUp={stop}
        onPointerLeave={stop}
        onKeyDown={(event) => {
          if (event.key === 'Escape') {
            stop();
            setAsking(false);
          }
          if (event.key !== 'Enter' || event.repeat) return;
          event.preventDefault();
          if (asking) go();
          else setAsking(true);
        }}
        onBlur={() => setAsking(false)}
      >
        <span
          className="absolute inset-y-0 left-0 bg-lamp/25 transition-[width] ease-linear"
          style={{ width: held ? '100%' : 0, transitionDuration: held ? `${HOLD_MS}ms` : '0ms' }}
        />
        <span className="relative">{nothing ? `${account} is flat` : asking ? 'Enter: flatten' : `Flatten ${account} · ${open}, ${working}`}</span>
      </Button>
      {answers['rail'] && (
        <button
          type="button"
          title="Press to put it away"
          className={`absolute right-0 top-[30px] z-40 ${answers['rail'].kind === 'done' ? 'floats px-2' : 'plate heather'}`}
          onClick={() => readAnswer('rail')}
        >
          <span role="status">{answers['rail'].text}</span>
        </button>
      )}
    </div>
  );
}
