import { useEffect, useId, useRef, useState } from 'react';
import { drawnMoney, inCents } from '../../core/number/index.ts';
import type { DayResult } from '../../core/portfolio/index.ts';
import { signed } from '../../kit/Figure.tsx';
import { tickerOf } from '../../live/index.ts';

const ZERO_AT = 0.7;
const tone = (value: number): string => (value < 0 ? 'var(--copper)' : 'var(--weed)');
const bareWords = (ids: readonly string[]): string =>
  ids.length > 2 ? `${tickerOf(ids[0] as string)} and ${ids.length - 1} more` : ids.map(tickerOf).join(', ');

/**
 * The day in a well: zero at 70 %, each lane starting where the one above ended: realised, open, and towards the wall
 * what the stops would lose. `scale` is what the stretch from the wall to zero stands for, in EUR.
 */
export function Gauge({
  account,
  day,
  scale,
  limit,
  reached,
  would,
}: {
  account: string;
  day: DayResult | null;
  scale: number;
  limit: number | null;
  reached: boolean;
  /** What the stops would lose as aimed or dragged, null without an end to it; undefined where nothing is. */
  would: number | null | undefined;
}) {
  const box = useRef<SVGSVGElement>(null);
  const hatch = useId();
  const [width, setWidth] = useState(380);
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const zero = width * ZERO_AT;
  const at = (value: number): number => Math.max(3, Math.min(width, zero + (value / scale) * zero));
  const [realised, open, net, risk] = day === null ? [0, 0, 0, 0] : [day.realised, day.open, day.net, day.openRisk].map(drawnMoney) as [number, number, number, number]; // prettier-ignore
  const bare = day?.withoutStop ?? [];
  const stopped = net - risk;
  const first = at(realised);
  const second = at(net);
  // Without a stop there is no end to what could be lost but the wall.
  const third = bare.length > 0 ? 3 : at(stopped);
  const risks = bare.length > 0 || risk !== 0;
  const past = bare.length === 0 && stopped < -scale ? (-scale - stopped).toFixed(2) : null;
  const plate = bare.length > 0 ? `no stop: ${bareWords(bare)}` : past === null ? null : `stops reach ${past} past the ${limit === null ? 'scale' : 'limit'}`;
  const used = limit === null ? 0 : -net / limit;
  const edge = reached ? 'var(--crimson)' : used >= 0.75 ? 'var(--heather)' : 'var(--hair)';
  const text = day === null ? 'net not known' : `net ${signed(inCents(day.net))}${limit === null ? ', no limit set' : ` of −${limit.toFixed(2)}`}`;
  const ifStopped = bare.length > 0 ? `no stop on ${bare.join(', ')}` : `if every stop fills ${signed(stopped.toFixed(2))}`;
  return (
    <div className="relative min-w-[112px] max-w-[900px] flex-1">
      <svg
        ref={box}
        className="block h-[26px] w-full"
        role="meter"
        aria-label="Gauge of the day"
        aria-valuenow={Math.round(net * 100) / 100}
        aria-valuetext={`${account}: ${text}${risks ? `; ${ifStopped}` : ''}`}
        aria-valuemin={-Math.round(scale)}
        aria-valuemax={Math.round(scale)}
      >
        <defs>
          <pattern id={hatch} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line x1="0" y1="0" x2="0" y2="4" stroke="var(--ink)" strokeWidth="1.4" />
          </pattern>
        </defs>
        <rect x="0.5" y="2.5" width={Math.max(0, width - 1)} height="22" fill="var(--well)" stroke={edge} />
        {reached && <rect x="1" y="3" width={zero} height="21" fill="var(--crimson)" opacity="0.9" />}
        {limit !== null && <line x1={zero * 0.25} x2={zero * 0.25} y1="2" y2="25" stroke="var(--line)" />}
        {[0.25, 0.5, 0.75].slice(limit === null ? 0 : 1).map((part) => (
          <line key={part} x1={zero * part} x2={zero * part} y1="2" y2="7" stroke="var(--line)" />
        ))}
        <line x1="1.5" x2="1.5" y1="0" y2="26" stroke="var(--ink)" strokeWidth="3" strokeDasharray={limit === null ? '4 3' : undefined} />
        <line x1={zero} x2={zero} y1="0" y2="26" stroke="var(--ink)" />
        <rect x={Math.min(zero, first)} y="3" width={Math.abs(first - zero)} height="6" fill={tone(realised)} />
        {realised !== 0 && <line x1={first} x2={first} y1="9" y2="11" stroke="var(--ink)" />}
        <rect
          x={Math.min(first, second) + 0.75}
          y="11.75"
          width={Math.max(0, Math.abs(second - first) - 1.5)}
          height="4.5"
          fill="none"
          stroke={tone(open)}
          strokeWidth="1.5"
        />
        {risks && (
          <>
            <line x1={second} x2={second} y1="17" y2="19" stroke="var(--ink)" />
            <rect x={Math.min(second, third)} y="18.5" width={Math.abs(second - third)} height="6" fill={`url(#${hatch})`} data-testid="open-risk" />
            {bare.length > 0 ? (
              <path d="M3 18.5l3 2l-3 2l3 2" fill="none" stroke="var(--ink)" strokeWidth="1.2" />
            ) : (
              <line x1={third} x2={third} y1="14" y2="26" stroke="var(--ink)" strokeWidth="2" data-testid="stem" />
            )}
          </>
        )}
        {would !== undefined && (
          <g data-testid="would-stem">
            <rect x={(would === null ? 3 : at(net - would)) - 2} y="13" width="4" height="12" fill="var(--well)" stroke="var(--ink)" />
            <text
              x={(would === null ? 3 : at(net - would)) + 5}
              y="24"
              fill="var(--ink)"
              fontSize="10"
              paintOrder="stroke"
              stroke="var(--well)"
              strokeWidth="3"
            >
              {would === null ? 'no stop' : signed((net - would).toFixed(2))}
            </text>
          </g>
        )}
      </svg>
      {day !== null && at(net) >= width && (
        <span className="figure absolute right-[3px] top-[4px] bg-well px-1 text-[12px] leading-[18px]">{signed(inCents(day.net))} »</span>
      )}
      {plate !== null && would === undefined && (
        <span
          className={`plate heather absolute top-[4px] max-w-[90%] truncate text-[12px] leading-[18px] ${net > 0 ? 'left-[8px]' : 'right-1'}`}
          title={plate}
          data-testid="gauge-plate"
        >
          {plate}
        </span>
      )}
    </div>
  );
}
