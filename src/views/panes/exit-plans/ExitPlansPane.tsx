import { useStore } from '@nanostores/react';
import { useMemo, useState } from 'react';
import { act } from '../../../client/gestures/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { clockText } from '../../../kit/clock.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { Empty } from '../../../kit/Empty.tsx';
import { Filters } from '../../../kit/Filters.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { later, usePart } from '../../../kit/later.ts';
import { $plans, zoneOf, type ApiRunningPlan } from '../../../live/index.ts';
import { HeldHere } from '../../act/HeldHere.tsx';
import { usePaneCommands } from '../../act/keys.ts';
import { chosenColumns, usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $panes, setInstrument } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { EXIT_PLANS } from './settings.ts';

const FILTERS = ['running', 'ended', 'saved'] as const;
type Filter = (typeof FILTERS)[number];

export const isLive = ({ state }: ApiRunningPlan): boolean => state !== 'done' && state !== 'stopped';
const NEEDS_A_LOOK = new Set(['suspended', 'asking']);

/** What a step still waits for, in figures: its quantity, its stop, its target. */
function stepsText({ steps }: ApiRunningPlan): string {
  const legs = (step: ApiRunningPlan['steps'][number]): string =>
    [step.stop && `stop ${step.stop.price ?? '–'}`, step.target && `target ${step.target.price ?? '–'}`].filter(Boolean).join(' or ');
  return steps
    .map((step) => (step.state === 'armed' || step.state === 'waiting' ? `${grouped(step.quantity)} ${legs(step)}` : `${step.quantity} ${step.state}`))
    .join(' · ');
}

const columnsFor = (pane: string): readonly GridColumn<ApiRunningPlan>[] => [
  {
    id: 'instrument',
    head: 'instrument',
    cell: (plan) => <InstrumentName id={plan.instrument} />,
    cellProps: (plan) => dragsInstrument(plan.instrument),
    value: (plan) => plan.instrument,
  },
  {
    id: 'state',
    head: 'state',
    cell: (plan) =>
      plan.state === 'asking' ? (
        <span className="flex items-center gap-1">
          <span className="plate heather">asks: a level was passed</span>
          <Button size="small" onClick={() => act(pane, 'tables', { kind: 'answer-plan', plan, act: 'fire' })}>
            fire
          </Button>
          <Button size="small" onClick={() => act(pane, 'tables', { kind: 'answer-plan', plan, act: 'resume' })}>
            wait on
          </Button>
        </span>
      ) : (
        <span className={NEEDS_A_LOOK.has(plan.state) ? 'plate heather' : ''}>{plan.state}</span>
      ),
    value: (plan) => plan.state,
  },
  { id: 'account', head: 'account', cell: (plan) => plan.account, value: (plan) => plan.account },
  { id: 'name', head: 'plan', cell: (plan) => plan.name ?? '–', value: (plan) => plan.name ?? '' },
  { id: 'held', head: 'held', cell: (plan) => <HeldHere held={plan.heldBy} suspended={plan.state === 'suspended'} />, value: (plan) => plan.heldBy },
  {
    id: 'steps',
    head: 'waits for',
    cell: stepsText,
    cellProps: (plan) => ({ className: 'w-full max-w-0 truncate', title: stepsText(plan) }),
    value: stepsText,
    csv: stepsText,
  },
  {
    id: 'since',
    head: 'since',
    cell: (plan) => <span className="figure">{clockText(zoneOf(plan.instrument), plan.since)}</span>,
    value: (plan) => plan.since,
    csv: (plan) => plan.since,
  },
  {
    id: 'stop',
    head: 'stop',
    sticks: true,
    cell: (plan) =>
      isLive(plan) && (
        <Button
          size="small"
          onClick={() => act(pane, 'tables', { kind: 'stop-plan', plan })}
          title="Its closing orders are cancelled; position and entry stay."
        >
          stop plan
        </Button>
      ),
  },
];

const GROUPS = [
  { id: 'account', words: 'account', of: (plan: ApiRunningPlan) => plan.account },
  { id: 'state', words: 'state', of: (plan: ApiRunningPlan) => plan.state },
];

const SAVED = later(() => import('./SavedPlans.tsx'));

/** Exit plans of all the user's accounts. A press rings one and shows its log. */
export default function ExitPlansPane({ id }: { id: string }) {
  const plans = useStore($plans);
  const pane = useStore($panes)[id];
  const [filter, setFilter] = useState<Filter>('running');
  const saved = usePart(SAVED, filter === 'saved');
  const { columns, by } = useSettings(pane, EXIT_PLANS);
  const all = useMemo(() => Object.values(plans).sort((a, b) => (a.since < b.since ? 1 : -1)), [plans]);
  const rows = useMemo(() => all.filter((plan) => isLive(plan) === (filter === 'running')), [all, filter]);
  const shown = useMemo(() => chosenColumns(columnsFor(id), EXIT_PLANS.columns.options, columns), [columns, id]);
  const grid = usePaneGrid({ pane, rows, of: filter, columns: shown, keyOf: (plan) => plan.id, groups: GROUPS, groupBy: by });
  const { ringed, ring, commands } = useRinged(grid.keys, (key) => {
    const plan = plans[key];
    if (plan) setInstrument(id, plan.instrument, plan.account);
  });
  const plan = ringed === null ? undefined : plans[ringed];
  usePaneCommands(id, [
    ...commands,
    {
      keys: ['Delete'],
      words: 'stop the ringed exit plan',
      order: true,
      cannot: () => (plan === undefined ? 'nothing is ringed: press a row first' : isLive(plan) ? null : `it is ${plan.state}`),
      run: () => void (plan && act(id, 'tables', { kind: 'stop-plan', plan })),
    },
  ]);
  return (
    <div className="flex h-full flex-col">
      <Filters
        label="Which exit plans"
        options={FILTERS.map((value) => ({
          value,
          words: value === 'saved' ? value : `${value} ${all.filter((plan) => isLive(plan) === (value === 'running')).length}`,
        }))}
        chosen={filter}
        onChoose={setFilter}
      />
      {filter === 'saved' ? (
        saved ? (
          <saved.SavedPlans pane={id} />
        ) : (
          <div className="skeleton min-h-0 flex-1" role="status" aria-label="Loading the saved exit plans" />
        )
      ) : (
        <>
          <Grid
            className="min-h-0 flex-1"
            grid={grid}
            name={`Exit plans, ${filter}`}
            empty={
              filter === 'running' ? (
                <Empty says="No exit plan runs." offers="show the saved ones" onOffer={() => setFilter('saved')} />
              ) : (
                <Empty says="None ended today." offers="show what runs" onOffer={() => setFilter('running')} />
              )
            }
            ringed={ringed}
            onRing={ring}
          />
          {plan && <PlanLog plan={plan} />}
        </>
      )}
    </div>
  );
}

/** Everything the plan did, newest first. */
function PlanLog({ plan }: { plan: ApiRunningPlan }) {
  const zone = zoneOf(plan.instrument);
  return (
    <ol className="scroll max-h-[40%] shrink-0 border-t border-hair px-2 py-1" aria-label={`Log of the exit plan of ${plan.instrument}`} tabIndex={0}>
      {[...plan.log].reverse().map((line, i) => (
        <li key={`${line.time} ${i}`} className="flex gap-2">
          <span className="figure text-quiet">{clockText(zone, line.time)}</span>
          <span>{line.text}</span>
        </li>
      ))}
    </ol>
  );
}
