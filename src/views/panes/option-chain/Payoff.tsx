import { useState, type ReactNode } from 'react';
import { multiplesOf } from '../../../client/spread.ts';
import { $clock, type AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';

type Answer = AnswerOf<'POST /api/options/payoff'>;

const DAY_MS = 86_400_000;
const FURTHEST_POINTS = 30;

interface Props {
  readonly legs: readonly { readonly instrument: string; readonly quantity: string; readonly price: string }[];
  /** Until the nearest of them ends. */
  readonly days: number;
  readonly children?: ReactNode;
}

/** What legs make over the price of the underlying, at expiry and some days ahead, at another volatility if that is asked. */
export function Payoff({ legs, days, children }: Props) {
  const [ahead, setAhead] = useState(0);
  const [points, setPoints] = useState(0);
  const now = $clock.get()?.time;
  const at = now === undefined ? {} : { at: new Date(Date.parse(now) + ahead * DAY_MS).toISOString() };
  const { data: payoff = null } = useAsked('POST /api/options/payoff', { body: { legs, ...at, volatilityShift: String(points) } }, { freshMs: 1000 });
  return (
    <div className="flex items-end gap-3">
      {payoff && <Picture payoff={payoff} />}
      <div className="grid gap-1">
        {payoff && <p className="text-quiet">{multiplesOf(payoff)}</p>}
        <Slider words={`in ${ahead} ${ahead === 1 ? 'day' : 'days'}`} label="Days ahead" least={0} most={Math.max(0, days)} value={ahead} onChange={setAhead} />
        <Slider
          words={`volatility ${points < 0 ? '−' : '+'}${Math.abs(points)} points`}
          label="Volatility, percentage points"
          least={-FURTHEST_POINTS}
          most={FURTHEST_POINTS}
          value={points}
          onChange={setPoints}
        />
        {children}
      </div>
    </div>
  );
}

function Slider(props: { words: string; label: string; least: number; most: number; value: number; onChange: (value: number) => void }) {
  return (
    <label className="flex items-center gap-2 text-quiet">
      <span className="w-[120px]">{props.words}</span>
      <input
        type="range"
        className="w-[110px] accent-lamp"
        aria-label={props.label}
        min={props.least}
        max={props.most}
        value={props.value}
        onChange={(event) => props.onChange(Number(event.target.value))}
      />
    </label>
  );
}

const [WIDTH, HEIGHT] = [220, 74];

/** What the legs make over the price of the underlying: at expiry a line, as of the chosen day a thinner one. */
function Picture({ payoff }: { payoff: Answer }) {
  const spots = payoff.points.map(({ spot }) => Number(spot));
  const ends = payoff.points.map(({ atExpiry }) => Number(atExpiry));
  const dated = payoff.points.map(({ atDate }) => (atDate === null ? null : Number(atDate)));
  const all = [...ends, ...dated.flatMap((value) => value ?? []), 0];
  const [low, high, left, right] = [Math.min(...all), Math.max(...all), Math.min(...spots), Math.max(...spots)];
  const x = (spot: number): number => ((spot - left) / (right - left || 1)) * WIDTH;
  const y = (value: number): number => HEIGHT - 2 - ((value - low) / (high - low || 1)) * (HEIGHT - 4);
  const line = (values: readonly (number | null)[]): string =>
    values.flatMap((value, i) => (value === null ? [] : [`${x(spots[i] ?? 0).toFixed(1)},${y(value).toFixed(1)}`])).join(' ');
  const middle = (left + right) / 2;
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      className="shrink-0 bg-well"
      role="img"
      aria-label={`From ${low.toFixed(2)} to ${high.toFixed(2)} EUR between ${left.toFixed(2)} and ${right.toFixed(2)}`}
    >
      <line x1={0} x2={WIDTH} y1={y(0)} y2={y(0)} stroke="var(--line)" />
      <line x1={x(middle)} x2={x(middle)} y1={0} y2={HEIGHT} stroke="var(--hair)" />
      <polyline points={line(dated)} fill="none" stroke="var(--quiet)" strokeWidth={1.2} />
      <polyline points={line(ends)} fill="none" stroke="var(--ink)" strokeWidth={1.6} />
    </svg>
  );
}
