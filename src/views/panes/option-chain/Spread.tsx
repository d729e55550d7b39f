import { useState } from 'react';
import { answer } from '../../../client/answers.ts';
import { accountFor, sizeOf } from '../../../client/session.ts';
import { newRow, requestOf } from '../../../client/baskets.ts';
import { spreadWords, type SpreadLeg } from '../../../client/spread.ts';
import { Button } from '../../../kit/Button.tsx';
import { $clock, instrumentOf, problemWords, request, type AnswerOf } from '../../../live/index.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { $panes, setPaneSetting } from '../../workspace/panes.ts';

type Payoff = AnswerOf<'POST /api/options/payoff'>;

const DAY_MS = 86_400_000;

/** The legs that were gathered: their sentence, their picture, and the way to a basket. */
export function Spread({ pane, legs, days, onClear }: { pane: string; legs: readonly SpreadLeg[]; days: number; onClear: () => void }) {
  const [ahead, setAhead] = useState(0);
  const now = $clock.get()?.time;
  const at = now === undefined ? undefined : new Date(Date.parse(now) + ahead * DAY_MS).toISOString();
  const body = {
    legs: legs.map(({ instrument, quantity, price }) => ({ instrument, quantity: String(quantity), price })),
    ...(at === undefined ? {} : { at }),
  };
  const { data: payoff = null } = useAsked('POST /api/options/payoff', { body }, { freshMs: 1000 });
  const unit = Number(instrumentOf(legs[0]?.instrument ?? '')?.multiplier ?? 1);
  const asBasket = async (): Promise<void> => {
    const rows = legs.map(({ instrument, quantity, price }) => {
      const account = accountFor(instrument);
      const contracts = Math.abs(quantity) * Number(sizeOf(account, instrument) || '1');
      return requestOf(newRow(account, { instrument, side: quantity > 0 ? 'buy' : 'sell', quantity: String(contracts), price, setup: 'Spread' }));
    });
    const taken = await request('GET /api/baskets');
    const names = taken.ok ? taken.value.items.map(({ name }) => name) : [];
    let n = 1;
    while (names.includes(`Spread ${n}`)) n++;
    const done = await request('POST /api/baskets', { body: { name: `Spread ${n}`, rows } });
    if (!done.ok) return answer(pane, 'refused', problemWords(done.problem));
    await askAgain('GET /api/baskets');
    const basket = Object.values($panes.get()).find(({ kind }) => kind === 'Basket');
    if (basket) setPaneSetting(basket.id, 'basket', `Spread ${n}`);
    answer(pane, 'done', `Spread ${n} is a basket${basket ? '' : ': open a Basket pane to send it'}`);
  };
  return (
    <section className="shrink-0 border-t border-hair px-2 py-1" aria-label="The spread">
      <p>{spreadWords(legs, payoff, unit, instrumentOf)}</p>
      <div className="flex items-end gap-3">
        {payoff && <PayoffPicture payoff={payoff} />}
        <div className="grid gap-1">
          <label className="text-quiet">
            in {ahead} {ahead === 1 ? 'day' : 'days'}
            <input
              type="range"
              className="ml-2 w-[110px] accent-lamp"
              aria-label="Days ahead"
              min={0}
              max={Math.max(0, days)}
              value={ahead}
              onChange={(event) => setAhead(Number(event.target.value))}
            />
          </label>
          <span className="flex gap-1">
            <Button size="small" onClick={() => void asBasket()}>
              as a basket
            </Button>
            <Button size="small" onClick={onClear}>
              let it go
            </Button>
          </span>
        </div>
      </div>
    </section>
  );
}

const [WIDTH, HEIGHT] = [220, 74];

/** What the legs make over the price of the underlying: at expiry a line, as of the chosen day a thinner one. */
function PayoffPicture({ payoff }: { payoff: Payoff }) {
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
