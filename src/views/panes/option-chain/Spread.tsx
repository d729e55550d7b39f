import { useEffect, useState } from 'react';
import { answer } from '../../../client/answers.ts';
import { accountFor, sizeOf } from '../../../client/session.ts';
import { newRow, requestOf } from '../../../client/baskets.ts';
import { planFor } from '../../../client/exit-plans.ts';
import { exitCondition, exitPhrase, exitProblem, spreadWords, worthOf, type SpreadLeg } from '../../../client/spread.ts';
import { act } from '../../../client/gestures/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { followQuote, instrumentOf, problemWords, quoteOf, request } from '../../../live/index.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { $panes, setPaneSetting } from '../../workspace/panes.ts';
import { Payoff } from './Payoff.tsx';

/** The legs that were gathered: their sentence, their picture, the way to a basket, each with the exit plan that is on its plate, and what they are left at. */
export function Spread({ pane, legs, days, onClear }: { pane: string; legs: readonly SpreadLeg[]; days: number; onClear: () => void }) {
  const asked = legs.map(({ instrument, quantity, price }) => ({ instrument, quantity: String(quantity), price }));
  const { data: payoff = null } = useAsked('POST /api/options/payoff', { body: { legs: asked } }, { freshMs: 1000 });
  const unit = Number(instrumentOf(legs[0]?.instrument ?? '')?.multiplier ?? 1);
  const asBasket = async (): Promise<void> => {
    const rows = legs.map(({ instrument, quantity, price }) => {
      const account = accountFor(instrument);
      const contracts = Math.abs(quantity) * Number(sizeOf(account, instrument) || '1');
      return requestOf(
        newRow(account, {
          instrument,
          side: quantity > 0 ? 'buy' : 'sell',
          quantity: String(contracts),
          price,
          setup: 'Spread',
          plan: planFor(account, instrument) ?? '',
        }),
      );
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
      <Exit pane={pane} legs={legs} />
      <Payoff legs={asked} days={days}>
        <span className="flex gap-1">
          <Button size="small" onClick={() => void asBasket()}>
            as a basket
          </Button>
          <Button size="small" onClick={onClear}>
            let it go
          </Button>
        </span>
      </Payoff>
    </section>
  );
}

/** What the legs are worth now, and at what worth together they are left: what is held of them then goes. */
function Exit({ pane, legs }: { pane: string; legs: readonly SpreadLeg[] }) {
  const [target, setTarget] = useState('');
  const [stop, setStop] = useState('');
  const wrong = exitProblem(legs, { target, stop });
  const leave = async (): Promise<void> => {
    const orders = legs.map((leg) => {
      const account = accountFor(leg.instrument);
      return { account, instrument: leg.instrument, phrase: exitPhrase(leg, account) };
    });
    const gone = act(pane, 'review', { kind: 'wait', when: exitCondition(legs, { target, stop }), orders });
    if (gone.kind !== 'sent' || !(await gone.done)) return;
    setTarget('');
    setStop('');
    await askAgain('GET /api/conditional-orders');
  };
  const field = (word: string, value: string, set: (value: string) => void) => (
    <input
      className="field figure w-[64px]"
      aria-label={`${word}, worth of the legs`}
      placeholder={word}
      inputMode="decimal"
      value={value}
      onChange={(event) => set(event.target.value.trim())}
    />
  );
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      aria-label="What the spread is left at"
      onSubmit={(event) => {
        event.preventDefault();
        void leave();
      }}
    >
      worth <Worth legs={legs} /> now, left at {field('target', target, setTarget)} or {field('stop', stop, setStop)}
      <Button
        type="submit"
        size="small"
        disabled={wrong !== null}
        title={wrong ?? 'Held here: each leg waits until they are worth that together, and then leaves at the best price of the other side.'}
      >
        leave it then
      </Button>
      {wrong !== null && (target !== '' || stop !== '') && <span role="status">{wrong}</span>}
    </form>
  );
}

function Worth({ legs }: { legs: readonly SpreadLeg[] }) {
  const [, redraw] = useState(0);
  useEffect(() => {
    const stops = legs.map(({ instrument }) => followQuote(instrument, () => redraw((n) => n + 1)));
    return () => stops.forEach((stop) => stop());
  }, [legs]);
  return <b className="figure">{worthOf(legs, (id, side) => quoteOf(id)?.text[side] ?? null) ?? '–'}</b>;
}
