import { act, type RunAct } from '../../../client/gestures/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { clockText } from '../../../kit/clock.ts';
import { grouped, signed } from '../../../kit/Figure.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { zoneOf, type ApiBasketRun } from '../../../live/index.ts';

interface Props {
  readonly pane: string;
  readonly runs: readonly ApiBasketRun[];
  readonly run: ApiBasketRun;
  readonly onPick: (id: string) => void;
  readonly beside: ApiBasketRun | null;
  readonly onBeside: (id: string) => void;
}

const runName = ({ percent, state, log }: ApiBasketRun): string => `${clockText(zoneOf(null), log[0]?.time ?? '')} · ${percent} % · ${state}`;
const cents = (sum: string): string => grouped(Number(sum).toFixed(2));
const costOf = ({ rows }: ApiBasketRun): number => rows.reduce((sum, { slippage }) => sum + Number(slippage ?? 0), 0);

/** How far a run is in orders, units and money, what it cost against arrival, and what can be done with it. */
export function RunStrip({ pane, runs, run, onPick, beside, onBeside }: Props) {
  const steer = (how: RunAct) => (): void => void act(pane, 'review', { kind: 'steer-run', run: run.id, act: how });
  const { orders, units, money } = run.progress;
  const others = runs.filter(({ id }) => id !== run.id);
  const isLive = run.state === 'sending' || run.state === 'paused';
  return (
    <section className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-hair px-2 py-1" aria-label="Run of the basket">
      <Choice label="Run" className="w-[190px]" value={run.id} options={runs.map((one) => ({ value: one.id, words: runName(one) }))} onPick={onPick} />
      <span className={run.state === 'sending' ? 'plate brass' : run.state === 'paused' ? 'plate heather' : 'plate border border-line'}>{run.state}</span>
      <span>
        <b className="figure">
          {orders.done}/{orders.all}
        </b>{' '}
        orders
      </span>
      <span>
        <b className="figure">
          {grouped(units.filled)}/{grouped(units.asked)}
        </b>{' '}
        units
      </span>
      <span>
        <b className="figure">
          {cents(money.filled)}/{cents(money.asked)}
        </b>{' '}
        EUR
      </span>
      <span title="Against the middle of the market when each row was sent; a cost is positive">
        slipped <b className="figure">{signed(costOf(run).toFixed(2))}</b>
      </span>
      {isLive && (
        <>
          {run.state === 'sending' ? (
            <Button size="small" onClick={steer('pause')}>
              pause
            </Button>
          ) : (
            <Button size="small" onClick={steer('resume')}>
              resume
            </Button>
          )}
          <Button size="small" onClick={steer('cancel')}>
            cancel the rest
          </Button>
          <Button size="small" onClick={steer('cancel-and-reverse')} title="Cancels what works, then sells what was bought and buys what was sold, at market.">
            cancel and reverse
          </Button>
        </>
      )}
      <Popover
        label="Log of the run"
        className="max-h-[300px] w-[420px] scroll p-2"
        trigger={
          <button type="button" className="text-quiet underline underline-offset-4">
            log
          </button>
        }
      >
        <ol>
          {run.log.map(({ time, text }, i) => (
            <li key={i}>
              <span className="figure text-quiet">{clockText(zoneOf(null), time)}</span> {text}
            </li>
          ))}
        </ol>
      </Popover>
      {others.length > 0 && (
        <Choice
          label="Beside"
          className="w-[190px]"
          value={beside?.id ?? ''}
          options={[{ value: '', words: 'no run beside it' }, ...others.map((one) => ({ value: one.id, words: runName(one) }))]}
          onPick={onBeside}
        />
      )}
    </section>
  );
}
