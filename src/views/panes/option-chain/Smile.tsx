import type { Chain } from '../../../client/live-chain.ts';

const [WIDTH, HEIGHT, EDGE] = [112, 44, 4];

/** Implied volatility by strike: calls solid, puts dashed. */
export function Smile({ chain }: { chain: Chain }) {
  const of = (side: 'call' | 'put'): { strike: number; volatility: number }[] =>
    chain.rows.flatMap((row) => {
      const volatility = row[side]?.impliedVolatility;
      return volatility == null ? [] : [{ strike: Number(row.strike), volatility: Number(volatility) }];
    });
  const [calls, puts] = [of('call'), of('put')];
  const all = [...calls, ...puts];
  if (all.length < 2) return null;
  const strikes = all.map(({ strike }) => strike);
  const volatilities = all.map(({ volatility }) => volatility);
  const [left, right, low, high] = [Math.min(...strikes), Math.max(...strikes), Math.min(...volatilities), Math.max(...volatilities)];
  const x = (strike: number): number => EDGE + ((strike - left) / (right - left || 1)) * (WIDTH - 2 * EDGE);
  const y = (volatility: number): number => HEIGHT - EDGE - ((volatility - low) / (high - low || 1)) * (HEIGHT - 2 * EDGE);
  const line = (points: typeof calls): string => points.map(({ strike, volatility }) => `${x(strike).toFixed(1)},${y(volatility).toFixed(1)}`).join(' ');
  const percent = (value: number): string => `${(value * 100).toFixed(1)} %`;
  const spot = chain.spot === null ? null : Number(chain.spot);
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      className="shrink-0"
      role="img"
      aria-label={`Implied volatility by strike: from ${percent(low)} to ${percent(high)}; calls solid, puts dashed`}
    >
      {spot !== null && spot >= left && spot <= right && <line x1={x(spot)} x2={x(spot)} y1={0} y2={HEIGHT} stroke="var(--hair)" />}
      <polyline points={line(calls)} fill="none" stroke="var(--ink)" strokeWidth={1.3} />
      <polyline points={line(puts)} fill="none" stroke="var(--ink)" strokeWidth={1.3} strokeDasharray="4 3" />
    </svg>
  );
}
