import { useStore } from '@nanostores/react';
import { X } from 'lucide-react';
import { noteUndoable } from '../../../client/undo.ts';
import { SOURCES, STUDIES, type StudyParameter } from '../../../core/study/index.ts';
import { Choice } from '../../../kit/Choice.tsx';
import { NumberField } from '../../../kit/Field.tsx';
import { later, usePart } from '../../../kit/later.ts';
import { Popover } from '../../../kit/Popover.tsx';
import { INK_NAMES, inkColour } from '../../theme/theme.ts';
import { $panes, setPaneSetting, settingOf } from '../../workspace/panes.ts';
import type { StudyUse } from './model.ts';

const STROKES = ['solid', 'dashed', 'dotted'] as const;

const usesOf = (id: string): readonly StudyUse[] => settingOf<readonly StudyUse[]>($panes.get()[id], 'studies', []);

/** Adds a study; Ctrl Z takes just that one away again. */
function add(id: string, kind: string): void {
  const use = newUse(kind, usesOf(id));
  setPaneSetting(id, 'studies', [...usesOf(id), use]);
  noteUndoable(STUDIES.get(kind)?.name ?? 'a study', () => setPaneSetting(id, 'studies', usesOf(id).filter((one) => one.id !== use.id))); // prettier-ignore
}

/** Takes a study out; Ctrl Z puts it back where it was. */
function remove(id: string, use: StudyUse): void {
  const at = usesOf(id).findIndex((one) => one.id === use.id);
  setPaneSetting(id, 'studies', usesOf(id).filter((one) => one.id !== use.id)); // prettier-ignore
  noteUndoable(STUDIES.get(use.study)?.name ?? 'a study', () => setPaneSetting(id, 'studies', [...usesOf(id).slice(0, at), use, ...usesOf(id).slice(at)]));
}

/** Puts a kept set on the chart; Ctrl Z brings back what was there. */
function takeSet(id: string, name: string, studies: readonly StudyUse[]): void {
  const before = usesOf(id);
  setPaneSetting(id, 'studies', studies);
  noteUndoable(`the studies before ${name}`, () => setPaneSetting(id, 'studies', before));
}

function newUse(kind: string, uses: readonly StudyUse[]): StudyUse {
  let n = 1;
  while (uses.some((use) => use.id === `s${n}`)) n++;
  // Each new one takes the ink that is used least.
  const ink = [...INK_NAMES].sort((a, b) => uses.filter((use) => use.colour === a).length - uses.filter((use) => use.colour === b).length)[0] ?? 'moss';
  return { id: `s${n}`, study: kind, parameters: {}, colour: ink, width: 1.3, stroke: 'solid' };
}

const SETS = later(() => import('./StudySets.tsx'));

/** The studies of a chart: added, edited, taken out, kept as sets. */
export function StudiesMenu({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  const uses = settingOf<readonly StudyUse[]>(pane, 'studies', []);
  const sets = usePart(SETS, false);
  const edit = (use: StudyUse): void => setPaneSetting(id, 'studies', uses.map((one) => (one.id === use.id ? use : one))); // prettier-ignore
  return (
    <Popover
      label="Studies"
      trigger={
        <button type="button" className="whitespace-nowrap text-quiet">
          Studies{uses.length > 0 ? ` ${uses.length}` : ''}
        </button>
      }
    >
      <div className="scroll max-h-[520px] w-[372px]">
        {uses.length === 0 && <p className="mb-1 text-quiet">No studies on this chart.</p>}
        {uses.map((use) => (
          <StudyRow key={use.id} use={use} onChange={edit} onRemove={() => remove(id, use)} />
        ))}
        <Choice
          label="Add a study"
          className="mt-1 w-full"
          value={null}
          options={[...STUDIES.values()].map(({ kind, name, about }) => ({ value: kind, words: name, about }))}
          onPick={(kind) => add(id, kind)}
        />
        {sets && <sets.StudySets uses={uses} onTake={(name, studies) => takeSet(id, name, studies)} />}
      </div>
    </Popover>
  );
}

function StudyRow({ use, onChange, onRemove }: { use: StudyUse; onChange: (use: StudyUse) => void; onRemove: () => void }) {
  const definition = STUDIES.get(use.study);
  if (!definition) return null;
  const set = (name: string, value: number): void => onChange({ ...use, parameters: { ...use.parameters, [name]: value } });
  return (
    <fieldset className="mb-1 border border-hair px-2 pb-1">
      <legend className="flex items-center gap-2 px-1">
        <span className="h-[3px] w-4" style={{ background: inkColour(use.colour) }} />
        {definition.name}
        <button type="button" className="grid h-[20px] w-[20px] place-items-center text-quiet" aria-label={`Take out ${definition.name}`} onClick={onRemove}>
          <X size={11} />
        </button>
      </legend>
      <div className="flex flex-wrap items-center gap-2">
        {definition.parameters.map((parameter) => (
          <Parameter
            key={parameter.name}
            parameter={parameter}
            value={use.parameters[parameter.name] ?? parameter.fallback}
            onChange={(value) => set(parameter.name, value)}
          />
        ))}
        <Look colour={use.colour} width={use.width} stroke={use.stroke} onChange={(look) => onChange({ ...use, ...look })} />
      </div>
    </fieldset>
  );
}

function Parameter({ parameter, value, onChange }: { parameter: StudyParameter; value: number; onChange: (value: number) => void }) {
  if (parameter.name === 'source')
    return (
      <span className="flex items-center gap-1">
        {parameter.words}
        <Choice
          label={parameter.words}
          value={String(value)}
          options={SOURCES.map((name, i) => ({ value: String(i), words: name }))}
          onPick={(picked) => onChange(Number(picked))}
        />
      </span>
    );
  return (
    <span className="flex items-center gap-1">
      {parameter.words}
      <NumberField
        label={parameter.words}
        className="w-[64px]"
        value={value}
        least={parameter.least}
        most={parameter.most}
        whole={parameter.whole}
        onChange={onChange}
      />
    </span>
  );
}

interface LookProps {
  readonly colour: string;
  readonly width: number;
  readonly stroke: StudyUse['stroke'];
}

/** Ink, width and stroke of a line: one of the six inks, or a colour of the trader's own. */
export function Look({ colour, width, stroke, onChange }: LookProps & { onChange: (look: LookProps) => void }) {
  const own = colour.startsWith('#');
  return (
    <span className="flex items-center gap-1">
      <Choice
        label="Ink"
        value={own ? 'own' : colour}
        options={[...INK_NAMES.map((name) => ({ value: name, words: name })), { value: 'own', words: 'own colour' }]}
        onPick={(picked) => onChange({ colour: picked === 'own' ? inkColour(colour) : picked, width, stroke })}
      />
      {own && (
        <input
          type="color"
          aria-label="Own colour"
          className="h-[24px] w-[28px]"
          value={colour}
          onChange={(event) => onChange({ colour: event.target.value, width, stroke })}
        />
      )}
      <Choice
        label="Width"
        value={String(width)}
        options={['1', '1.3', '2', '3'].map((one) => ({ value: one, words: `${one} px` }))}
        onPick={(picked) => onChange({ colour, width: Number(picked), stroke })}
      />
      <Choice
        label="Stroke"
        value={stroke}
        options={STROKES.map((one) => ({ value: one, words: one }))}
        onPick={(picked) => onChange({ colour, width, stroke: picked })}
      />
    </span>
  );
}
