import { useState } from 'react';
import { act, heldOf } from '../../../client/gestures/index.ts';
import { readShaped } from '../../../client/json-text.ts';
import { say } from '../../../client/undo.ts';
import { Button } from '../../../kit/Button.tsx';
import { saveJson } from '../../../kit/save-file.ts';
import { problemWords, request, type ApiPlan } from '../../../live/index.ts';
import { HeldHere } from '../../act/HeldHere.tsx';
import { JsonFile } from '../../act/JsonFile.tsx';
import { askAgain, useSavedPlans } from '../../act/queries.tsx';
import { targetOf } from '../../workspace/panes.ts';
import { PlanEditor } from './PlanEditor.tsx';
import { bodyOf, planProblems, type PlanValues } from './plan-form.ts';

const legText = (leg: { readonly by: string; readonly value: string } | null): string => (leg ? `${leg.value} ${leg.by}` : '–');
const planText = ({ steps }: ApiPlan): string =>
  steps.map(({ share, stop, target }) => `${share} %: stop ${legText(stop)}, target ${legText(target)}`).join(' · ');

interface Edited {
  readonly plan: ApiPlan | null;
  readonly first?: PlanValues;
}

/** The plans that are saved: made, changed, put on the position that the pane looks at. */
export function SavedPlans({ pane }: { pane: string }) {
  const { data, error } = useSavedPlans();
  const [edited, setEdited] = useState<Edited | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const target = targetOf(pane);
  const held = target ? heldOf(target.account, target.instrument) : 0;
  const drop = async (name: string): Promise<void> => {
    const done = await request('DELETE /api/exit-plans/{name}', { path: { name } });
    if (!done.ok) say(problemWords(done.problem));
    await askAgain('GET /api/exit-plans');
  };
  /** A plan of a file is shown to be saved: nothing is made yet. */
  const take = async (text: string, file: string): Promise<void> => {
    const read = await readShaped<PlanValues>(text, planProblems);
    setRefused(read.ok ? null : `${file}: ${read.refusal}`);
    if (read.ok) setEdited({ plan: null, first: read.value });
  };
  return (
    <div className="scroll flex min-h-0 flex-1 flex-col gap-1 px-2 py-1">
      {error && <p className="plate heather whitespace-normal">{problemWords(error.problem)}</p>}
      {data?.items.length === 0 && <p className="text-quiet">No exit plan is saved yet.</p>}
      <ul className="flex flex-col gap-1">
        {data?.items.map((plan) => (
          <li key={plan.name} className="flex flex-wrap items-center gap-2 border-b border-hair pb-1">
            <span className="font-semibold">{plan.name}</span>
            <HeldHere held={plan.heldBy} />
            <span className="figure min-w-0 flex-1 truncate text-quiet" title={planText(plan)}>
              {planText(plan)}
            </span>
            <Button
              size="small"
              disabled={held === 0}
              title={held === 0 ? 'There is no position in what this pane looks at.' : undefined}
              onClick={() => target && act(pane, 'tables', { kind: 'put-plan', account: target.account, instrument: target.instrument, plan: plan.name })}
            >
              put on {target && held !== 0 ? target.instrument : 'a position'}
            </Button>
            <Button size="small" onClick={() => setEdited({ plan })} aria-label={`change ${plan.name}`}>
              change
            </Button>
            <Button size="small" onClick={() => saveJson(`${plan.name}.exit-plan.json`, bodyOf(plan))} aria-label={`save ${plan.name} as JSON`}>
              JSON
            </Button>
            <Button size="small" onClick={() => void drop(plan.name)} aria-label={`delete ${plan.name}`}>
              delete
            </Button>
          </li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-1">
        <Button onClick={() => setEdited({ plan: null })}>new plan</Button>
        <JsonFile what="an exit plan" saved={null} onText={(text, file) => void take(text, file)} />
      </div>
      {refused !== null && <p className="plate heather whitespace-normal">{refused}</p>}
      {edited !== null && <PlanEditor {...edited} target={target} onClose={() => setEdited(null)} />}
    </div>
  );
}
