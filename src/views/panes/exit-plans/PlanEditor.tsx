import { useEffect, useState } from 'react';
import { Controller, get, useFieldArray, useForm, useWatch, type Control } from 'react-hook-form';
import { sizeOf } from '../../../client/session.ts';
import { LEG_NAMES, MEASURES, type LegName } from '../../../core/exits/index.ts';
import { asPrice, formatPrice, parseQuantity, type Instrument } from '../../../core/instrument/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Dialog } from '../../../kit/Dialog.tsx';
import { instrumentOf, problemWords, quoteOf, request, type ApiPlan } from '../../../live/index.ts';
import { Stave } from '../../act/Stave.tsx';
import { planOf, staveOf } from '../../act/stave.ts';
import { askAgain } from '../../act/queries.tsx';
import type { Target } from '../../workspace/panes.ts';
import { bodyOf, checkPlan, firstLeg, MOST_STEPS, NEW_PLAN, problemsIn, restFor, type LegText, type PlanValues } from './plan-form.ts';

const UNITS = { ticks: 'ticks', percent: 'percent', money: 'money', price: 'price' } as const;

interface Props {
  /** The one that is changed; null for a new one. */
  readonly plan: ApiPlan | null;
  /** What a new one begins with. */
  readonly first?: PlanValues;
  readonly target: Target | null;
  readonly onClose: () => void;
}

/** Makes or changes a saved plan, drawn as it is typed on the instrument that the pane looks at. */
export function PlanEditor({ plan, first = NEW_PLAN, target, onClose }: Props) {
  const { control, formState, handleSubmit, register, setValue, trigger } = useForm<PlanValues>({
    defaultValues: plan ?? first,
    resolver: checkPlan,
  });
  const { fields, append, remove } = useFieldArray({ control, name: 'steps' });
  const values = useWatch({ control }) as PlanValues;
  // What is wrong with one step may be mended in another.
  useEffect(() => void trigger(), [trigger, values]);
  const [lastTyped, setLastTyped] = useState(plan !== null || first !== NEW_PLAN);
  const [refused, setRefused] = useState<string | null>(null);
  const steps = values.steps;
  /** The last step takes the rest of 100, unless its share was typed over. */
  const shareRest = (among: readonly { readonly share: string }[]): void => {
    const rest = restFor(among);
    if (!lastTyped && rest !== null) setValue(`steps.${among.length - 1}.share`, rest);
  };
  const save = async (typed: PlanValues): Promise<void> => {
    const body = bodyOf(typed);
    const done = plan
      ? await request('PUT /api/exit-plans/{name}', { path: { name: plan.name }, body: { ...body, version: plan.version } })
      : await request('POST /api/exit-plans', { body });
    if (!done.ok) return setRefused(problemWords(done.problem));
    await askAgain('GET /api/exit-plans');
    onClose();
  };
  // A name that nobody typed yet is not wrong, only not there.
  const problems = problemsIn(formState.errors).filter(({ path }) => path !== 'name' || formState.dirtyFields.name);
  return (
    <Dialog title={plan ? `Exit plan ${plan.name}` : 'A new exit plan'} onClose={onClose} className="w-[720px]">
      <form className="grid grid-cols-[1fr_300px] gap-4" onSubmit={(event) => void handleSubmit(save)(event)}>
        <div className="flex flex-col gap-2">
          <label className="flex items-center gap-2">
            name
            <input className="field flex-1" readOnly={plan !== null} autoComplete="off" {...register('name')} />
          </label>
          <label className="flex items-center gap-2">
            setup
            <input className="field flex-1" placeholder="of entries that go with it and name none" maxLength={64} autoComplete="off" {...register('setup')} />
          </label>
          <div className="flex gap-2">
            <Controller
              control={control}
              name="heldBy"
              render={({ field }) => (
                <Choice
                  label="Held"
                  value={field.value}
                  options={[
                    { value: 'venue', words: 'held at the venue', about: 'each leg a venue order' },
                    { value: 'here', words: 'held here', about: 'Kavix fires it; needs your consent once' },
                  ]}
                  onPick={field.onChange}
                />
              )}
            />
            <Controller
              control={control}
              name="onSizeChange"
              render={({ field }) => (
                <Choice
                  label="When the position’s size changes"
                  value={field.value}
                  options={[
                    { value: 'follow', words: 'follows the position', about: 'shares it out anew' },
                    { value: 'keep', words: 'keeps the first size', about: 'never beyond the position' },
                  ]}
                  onPick={field.onChange}
                />
              )}
            />
          </div>
          {values.heldBy === 'here' && (
            <Controller
              control={control}
              name="onMissedLevel"
              render={({ field }) => (
                <Choice
                  label="A level passed while it could not fire"
                  value={field.value}
                  options={[
                    { value: 'fire', words: 'a missed level fires at once' },
                    { value: 'ask', words: 'a missed level asks' },
                  ]}
                  onPick={field.onChange}
                />
              )}
            />
          )}
          {fields.map(({ id }, i) => (
            <StepFields
              key={id}
              index={i}
              control={control}
              onShare={(share) => {
                if (i === steps.length - 1) setLastTyped(true);
                else shareRest(steps.map((step, at) => (at === i ? { share } : step)));
              }}
              onDrop={
                steps.length === 1
                  ? null
                  : () => {
                      remove(i);
                      shareRest(steps.filter((_, at) => at !== i));
                    }
              }
            />
          ))}
          <Button
            className="self-start"
            disabled={steps.length >= MOST_STEPS}
            onClick={() => {
              const before = steps.map((step, i) => (i === steps.length - 1 && !lastTyped ? { share: '50' } : step));
              if (!lastTyped) setValue(`steps.${steps.length - 1}.share`, '50');
              append({ share: restFor([...before, { share: '' }]) ?? '50', stop: firstLeg('stop') }, { shouldFocus: false });
            }}
          >
            one more step
          </Button>
        </div>
        <div className="flex flex-col gap-2">
          <DrawnPlan read={planOf(bodyOf(values)).plan} target={target} />
          {problems.map(({ path, words }) => (
            <p key={path} className="plate heather whitespace-normal">
              {words}
            </p>
          ))}
          {refused !== null && <p className="plate heather whitespace-normal">{refused}</p>}
          <div className="mt-auto flex gap-2">
            <Button type="submit" disabled={!formState.isValid}>
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
  readonly control: Control<PlanValues>;
  /** Its share was typed. */
  readonly onShare: (share: string) => void;
  readonly onDrop: (() => void) | null;
}

function StepFields({ index, control, onShare, onDrop }: StepProps) {
  return (
    <fieldset className="flex flex-col gap-1 border-t border-hair pt-1">
      <legend className="sr-only">Step {index + 1}</legend>
      <div className="flex items-center gap-2">
        <span className="w-[44px]">step {index + 1}</span>
        <Controller
          control={control}
          name={`steps.${index}.share`}
          render={({ field, fieldState }) => (
            <input
              className="field figure w-[64px]"
              aria-label={`Share of step ${index + 1}, percent`}
              aria-invalid={fieldState.invalid}
              {...field}
              onChange={(event) => {
                field.onChange(event);
                onShare(event.target.value);
              }}
            />
          )}
        />
        %
        {onDrop && (
          <Button size="small" className="ml-auto" onClick={onDrop} aria-label={`drop step ${index + 1}`}>
            drop
          </Button>
        )}
      </div>
      {LEG_NAMES.map((name) => (
        <Controller
          key={name}
          control={control}
          name={`steps.${index}.${name}`}
          render={({ field, formState }) => (
            <LegFields
              index={index}
              name={name}
              value={field.value ?? null}
              wrong={get(formState.errors, `steps.${index}.${name}.value`) !== undefined}
              onChange={field.onChange}
            />
          )}
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
        <input type="checkbox" className="accent-lamp" checked={value !== null} onChange={(event) => onChange(event.target.checked ? firstLeg(name) : null)} />
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
