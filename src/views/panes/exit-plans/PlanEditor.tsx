import { useMemo, useState } from 'react';
import { sizeOf } from '../../../client/session.ts';
import { LEG_NAMES, MEASURES, type ExitPlanText, type LegName } from '../../../core/exits/index.ts';
import { asPrice, formatPrice, parseQuantity, type Instrument } from '../../../core/instrument/index.ts';
import { parseScaled, formatScaled } from '../../../core/number/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Dialog } from '../../../kit/Dialog.tsx';
import { instrumentOf, problemWords, quoteOf, request, type ApiPlan } from '../../../live/index.ts';
import { Stave } from '../../act/Stave.tsx';
import { planOf, staveOf } from '../../act/stave.ts';
import { askAgain } from '../../act/queries.tsx';
import type { Target } from '../../workspace/panes.ts';

type StepText = ExitPlanText['steps'][number];
type LegText = NonNullable<StepText['stop']>;

const leg = (name: LegName, value: string): LegText => ({ by: 'ticks', value, order: name === 'stop' ? 'market' : 'limit' });
const FIRST: ExitPlanText = {
  name: '',
  heldBy: 'venue',
  onSizeChange: 'follow',
  onMissedLevel: 'fire',
  steps: [{ share: '100', stop: leg('stop', '20'), target: leg('target', '40') }],
};
const MOST_STEPS = 5;
const UNITS = { ticks: 'ticks', percent: 'percent', money: 'money', price: 'price' } as const;

const hundredths = (text: string): bigint => parseScaled(text, 8) ?? 0n;

/** The last step takes the rest of 100, unless its share was typed over. */
function withRest(steps: readonly StepText[], typed: boolean): readonly StepText[] {
  if (typed || steps.length === 0) return steps;
  const before = steps.slice(0, -1).reduce((sum, { share }) => sum + hundredths(share), 0n);
  const rest = 10n ** 10n - before;
  return steps.map((step, i) => (i === steps.length - 1 && rest > 0n ? { ...step, share: formatScaled(rest, 8, 0) } : step));
}

/** Makes or changes a saved plan, drawn as it is typed on the instrument that the pane looks at. */
export function PlanEditor({ plan, target, onClose }: { plan: ApiPlan | null; target: Target | null; onClose: () => void }) {
  const [text, setText] = useState<ExitPlanText>(() => {
    if (!plan) return FIRST;
    const { version: _version, ...rest } = plan;
    return rest;
  });
  const [lastTyped, setLastTyped] = useState(plan !== null);
  const [refused, setRefused] = useState<string | null>(null);
  const steps = text.steps;
  const change = (to: Partial<ExitPlanText>): void => setText((before) => ({ ...before, ...to }));
  const setSteps = (next: readonly StepText[], typed = lastTyped): void => change({ steps: withRest(next, typed) });
  const setStep = (i: number, to: Partial<StepText>): void => setSteps(steps.map((step, at) => (at === i ? { ...step, ...to } : step)));
  const { plan: read, problems } = useMemo(() => planOf(text), [text]);
  const name = (text.name ?? '').trim();
  const save = async (): Promise<void> => {
    const setup = text.setup?.trim();
    const body = { ...text, name, setup: setup === '' ? undefined : setup };
    const done = plan
      ? await request('PUT /api/exit-plans/{name}', { path: { name: plan.name }, body: { ...body, version: plan.version } })
      : await request('POST /api/exit-plans', { body });
    if (!done.ok) return setRefused(problemWords(done.problem));
    await askAgain('GET /api/exit-plans');
    onClose();
  };
  return (
    <Dialog title={plan ? `Exit plan ${plan.name}` : 'A new exit plan'} onClose={onClose} className="w-[720px]">
      <form
        className="grid grid-cols-[1fr_300px] gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          if (read && name !== '') void save();
        }}
      >
        <div className="flex flex-col gap-2">
          <label className="flex items-center gap-2">
            name
            <input
              className="field flex-1"
              value={text.name ?? ''}
              disabled={plan !== null}
              onChange={(event) => change({ name: event.target.value })}
              autoComplete="off"
            />
          </label>
          <label className="flex items-center gap-2">
            setup
            <input
              className="field flex-1"
              placeholder="of entries that go with it and name none"
              maxLength={64}
              value={text.setup ?? ''}
              onChange={(event) => change({ setup: event.target.value || undefined })}
              autoComplete="off"
            />
          </label>
          <div className="flex gap-2">
            <Choice
              label="Held"
              value={text.heldBy}
              options={[
                { value: 'venue', words: 'held at the venue', about: 'each leg a venue order' },
                { value: 'here', words: 'held here', about: 'Kavix fires it; needs your consent once' },
              ]}
              onPick={(heldBy) => change({ heldBy })}
            />
            <Choice
              label="When the position’s size changes"
              value={text.onSizeChange}
              options={[
                { value: 'follow', words: 'follows the position', about: 'shares it out anew' },
                { value: 'keep', words: 'keeps the first size', about: 'never beyond the position' },
              ]}
              onPick={(onSizeChange) => change({ onSizeChange })}
            />
          </div>
          {text.heldBy === 'here' && (
            <Choice
              label="A level passed while it could not fire"
              value={text.onMissedLevel}
              options={[
                { value: 'fire', words: 'a missed level fires at once' },
                { value: 'ask', words: 'a missed level asks' },
              ]}
              onPick={(onMissedLevel) => change({ onMissedLevel })}
            />
          )}
          {steps.map((step, i) => (
            <StepFields
              key={i}
              index={i}
              step={step}
              problems={problems}
              only={steps.length === 1}
              onShare={(share) => {
                const last = i === steps.length - 1;
                if (last) setLastTyped(true);
                setSteps(
                  steps.map((one, at) => (at === i ? { ...one, share } : one)),
                  lastTyped || last,
                );
              }}
              onChange={(to) => setStep(i, to)}
              onDrop={() => setSteps(steps.filter((_, at) => at !== i))}
            />
          ))}
          <Button
            className="self-start"
            disabled={steps.length >= MOST_STEPS}
            onClick={() =>
              setSteps([
                ...steps.map((step, i) => (i === steps.length - 1 && !lastTyped ? { ...step, share: '50' } : step)),
                { share: '50', stop: leg('stop', '20') },
              ])
            }
          >
            one more step
          </Button>
        </div>
        <div className="flex flex-col gap-2">
          <DrawnPlan read={read} target={target} />
          {[...problems].map(([path, message]) => (
            <p key={path} className="plate heather whitespace-normal">
              {path === '/steps'
                ? ''
                : `${path
                    .slice(1)
                    .replace(/steps\/(\d)/, (_, n: string) => `step ${Number(n) + 1}`)
                    .replaceAll('/', ' ')}: `}
              {message}
            </p>
          ))}
          {refused !== null && <p className="plate heather whitespace-normal">{refused}</p>}
          <div className="mt-auto flex gap-2">
            <Button type="submit" disabled={!read || name === ''}>
              save
            </Button>
            <Button onClick={onClose}>leave</Button>
          </div>
        </div>
      </form>
    </Dialog>
  );
}

interface StepProps {
  readonly index: number;
  readonly step: StepText;
  readonly problems: ReadonlyMap<string, string>;
  readonly only: boolean;
  readonly onShare: (share: string) => void;
  readonly onChange: (to: Partial<StepText>) => void;
  readonly onDrop: () => void;
}

function StepFields({ index, step, problems, only, onShare, onChange, onDrop }: StepProps) {
  return (
    <fieldset className="flex flex-col gap-1 border-t border-hair pt-1">
      <legend className="sr-only">Step {index + 1}</legend>
      <div className="flex items-center gap-2">
        <span className="w-[44px]">step {index + 1}</span>
        <input
          className="field figure w-[64px]"
          aria-label={`Share of step ${index + 1}, percent`}
          aria-invalid={problems.has(`/steps/${index}/share`)}
          value={step.share}
          onChange={(event) => onShare(event.target.value)}
        />
        %
        {!only && (
          <Button size="small" className="ml-auto" onClick={onDrop} aria-label={`drop step ${index + 1}`}>
            drop
          </Button>
        )}
      </div>
      {LEG_NAMES.map((name) => (
        <LegFields
          key={name}
          index={index}
          name={name}
          value={step[name] ?? null}
          wrong={problems.has(`/steps/${index}/${name}/value`)}
          onChange={(to) => onChange({ [name]: to })}
        />
      ))}
    </fieldset>
  );
}

function LegFields(props: { index: number; name: LegName; value: LegText | null; wrong: boolean; onChange: (to: LegText | null) => void }) {
  const { index, name, value, wrong, onChange } = props;
  const of = `${name} of step ${index + 1}`;
  const even = value?.adjust?.find((one) => one.kind === 'break-even');
  const trails = value?.adjust?.find((one) => one.kind === 'trail');
  const others = (kind: string) => (value?.adjust ?? []).filter((one) => one.kind !== kind);
  return (
    <div className="flex flex-wrap items-center gap-1 pl-[46px]">
      <label className="flex w-[64px] items-center gap-1">
        <input
          type="checkbox"
          className="accent-lamp"
          checked={value !== null}
          onChange={(event) => onChange(event.target.checked ? leg(name, name === 'stop' ? '20' : '40') : null)}
        />
        {name}
      </label>
      {value && (
        <>
          <input
            className="field figure w-[64px]"
            aria-label={`Distance of the ${of}`}
            aria-invalid={wrong}
            value={value.value}
            onChange={(event) => onChange({ ...value, value: event.target.value })}
          />
          <Choice
            label={`Measured in, ${of}`}
            value={value.by}
            options={MEASURES.map((one) => ({ value: one, words: UNITS[one] }))}
            onPick={(by) => onChange({ ...value, by })}
          />
          <Choice
            label={`Closes by, ${of}`}
            value={value.order}
            options={[
              { value: 'market', words: 'by market' },
              { value: 'limit', words: 'by limit' },
            ]}
            onPick={(order) => onChange({ ...value, order })}
          />
        </>
      )}
      {value && name === 'stop' && (
        <div className="flex w-full flex-wrap items-center gap-x-3 gap-y-1 pl-[66px] text-quiet">
          <Adjusting
            label="to break-even after"
            of={of}
            value={even?.afterGain.value ?? null}
            onChange={(ticks) =>
              onChange({
                ...value,
                adjust:
                  ticks === null
                    ? others('break-even')
                    : [{ kind: 'break-even', afterGain: { by: 'ticks', value: ticks }, plusTicks: 1 }, ...others('break-even')],
              })
            }
          />
          <Adjusting
            label="trails the same distance after"
            of={of}
            value={trails?.afterGain.value ?? null}
            onChange={(ticks) =>
              onChange({
                ...value,
                adjust:
                  ticks === null
                    ? others('trail')
                    : [
                        ...others('trail'),
                        { kind: 'trail', afterGain: { by: 'ticks', value: ticks }, distance: { unit: 'ticks', value: ticks }, incrementTicks: 1 },
                      ],
              })
            }
          />
        </div>
      )}
    </div>
  );
}

/** An adjustment that counts after a gain in ticks, or does not. */
function Adjusting({ label, of, value, onChange }: { label: string; of: string; value: string | null; onChange: (ticks: string | null) => void }) {
  return (
    <span className="flex items-center gap-1">
      <label className="flex items-center gap-1">
        <input type="checkbox" className="accent-lamp" checked={value !== null} onChange={(event) => onChange(event.target.checked ? '20' : null)} />
        {label}
      </label>
      {value !== null && (
        <>
          <input className="field figure w-[44px]" aria-label={`${label}, ${of}`} value={value} onChange={(event) => onChange(event.target.value)} /> ticks
        </>
      )}
    </span>
  );
}

function DrawnPlan({ read, target }: { read: ReturnType<typeof planOf>['plan']; target: Target | null }) {
  const instrument: Instrument | undefined = target ? instrumentOf(target.instrument) : undefined;
  const quote = target ? quoteOf(target.instrument) : undefined;
  const price = quote?.ask ?? quote?.last ?? null;
  const quantity = target && instrument ? parseQuantity(instrument, sizeOf(target.account, target.instrument)) : null;
  if (!instrument || price === null || !quantity) return <p className="text-quiet">With an instrument in the pane the plan is drawn here.</p>;
  if (!read) return <p className="text-quiet min-h-[168px]">What is typed is no plan yet.</p>;
  const entry = formatPrice(instrument, asPrice(price));
  const rungs = staveOf(read, instrument, true, asPrice(price), quantity);
  const said = rungs.map((rung) => `step ${rung.step + 1} ${rung.leg} ${rung.price}: ${rung.money}`).join('; ');
  return (
    <figure>
      <Stave rungs={rungs} entry={entry} label={`Bought at ${entry}: ${said}`} />
      <figcaption className="text-quiet">
        {sizeOf(target?.account ?? '', instrument.id)} {instrument.id} bought at {entry}, {instrument.settlesIn}
      </figcaption>
    </figure>
  );
}
