import { useStore } from '@nanostores/react';
import { X } from 'lucide-react';
import { useEffect, useState } from 'react';
import { notePopoverClosed } from '../../client/gestures/index.ts';
import { namedThings } from '../../client/saved-remote.ts';
import { thingsOf } from '../../client/things.ts';
import { noteUndoable } from '../../client/undo.ts';
import { SOURCES, STUDIES, type StudyParameter } from '../../core/study/index.ts';
import { Popover } from '../../kit/Popover.tsx';
import { request } from '../../live/index.ts';
import { INK_NAMES, inkColour } from '../theme/theme.ts';
import { $panes, setPaneSetting, settingOf } from '../workspace/panes.ts';
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

function newUse(kind: string, uses: readonly StudyUse[]): StudyUse {
  let n = 1;
  while (uses.some((use) => use.id === `s${n}`)) n++;
  // Each new one takes the ink that is used least.
  const ink = [...INK_NAMES].sort((a, b) => uses.filter((use) => use.colour === a).length - uses.filter((use) => use.colour === b).length)[0] ?? 'moss';
  return { id: `s${n}`, study: kind, parameters: {}, colour: ink, width: 1.3, stroke: 'solid' };
}

/** The studies of a chart: added, edited, taken out, kept as sets. */
export function StudiesMenu({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  const uses = settingOf<readonly StudyUse[]>(pane, 'studies', []);
  const edit = (use: StudyUse): void => setPaneSetting(id, 'studies', uses.map((one) => (one.id === use.id ? use : one))); // prettier-ignore
  return (
    <Popover
      label="Studies"
      onClosedByPress={notePopoverClosed}
      trigger={
        <button type="button" className="whitespace-nowrap quiet">
          Studies{uses.length > 0 ? ` ${uses.length}` : ''}
        </button>
      }
    >
      <div className="scroll max-h-[520px] w-[372px]">
        {uses.length === 0 && <p className="mb-1 quiet">No studies on this chart.</p>}
        {uses.map((use) => (
          <StudyRow key={use.id} use={use} onChange={edit} onRemove={() => remove(id, use)} />
        ))}
        <label className="mt-1 flex items-center gap-2">
          Add
          <select className="field flex-1" aria-label="Add a study" value="" onChange={(event) => add(id, event.target.value)}>
            <option value="">choose one …</option>
            {[...STUDIES.values()].map((study) => (
              <option key={study.kind} value={study.kind}>
                {study.name}
              </option>
            ))}
          </select>
        </label>
        <StudySets id={id} uses={uses} />
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
        <button type="button" className="grid h-[20px] w-[20px] place-items-center quiet" aria-label={`Take out ${definition.name}`} onClick={onRemove}>
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
      <label className="flex items-center gap-1">
        {parameter.words}
        <select className="field" value={value} onChange={(event) => onChange(Number(event.target.value))}>
          {SOURCES.map((name, i) => (
            <option key={name} value={i}>
              {name}
            </option>
          ))}
        </select>
      </label>
    );
  return (
    <label className="flex items-center gap-1">
      {parameter.words}
      <input
        type="number"
        className="field figure w-[64px]"
        min={parameter.least}
        max={parameter.most}
        step={parameter.whole ? 1 : 'any'}
        defaultValue={value}
        onChange={(event) => {
          const next = Number(event.target.value);
          if (event.target.value !== '' && next >= parameter.least && next <= parameter.most) onChange(parameter.whole ? Math.round(next) : next);
        }}
      />
    </label>
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
      <select
        className="field"
        aria-label="Ink"
        value={own ? 'own' : colour}
        onChange={(event) => onChange({ colour: event.target.value === 'own' ? inkColour(colour) : event.target.value, width, stroke })}
      >
        {INK_NAMES.map((name) => (
          <option key={name}>{name}</option>
        ))}
        <option value="own">own colour</option>
      </select>
      {own && (
        <input
          type="color"
          aria-label="Own colour"
          className="h-[24px] w-[28px]"
          value={colour}
          onChange={(event) => onChange({ colour: event.target.value, width, stroke })}
        />
      )}
      <select className="field" aria-label="Width" value={width} onChange={(event) => onChange({ colour, width: Number(event.target.value), stroke })}>
        {[1, 1.3, 2, 3].map((one) => (
          <option key={one} value={one}>
            {one} px
          </option>
        ))}
      </select>
      <select
        className="field"
        aria-label="Stroke"
        value={stroke}
        onChange={(event) => onChange({ colour, width, stroke: event.target.value as StudyUse['stroke'] })}
      >
        {STROKES.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </select>
    </span>
  );
}

const sets = thingsOf<{ readonly studies: readonly StudyUse[] }>('study-sets', 'the study set', {
  remote: namedThings('study-sets'),
  first: () => ({ studies: [] }),
});

/** Studies kept under a name, to be put on any chart. */
function StudySets({ id, uses }: { id: string; uses: readonly StudyUse[] }) {
  const [names, setNames] = useState<readonly string[]>([]);
  const [name, setName] = useState('');
  const load = async (): Promise<void> => {
    const found = await request('GET /api/study-sets');
    if (found.ok) setNames(found.value.items.map((item) => item.name));
  };
  useEffect(() => void load(), []);
  const apply = async (wanted: string): Promise<void> => {
    const { studies } = await sets.known(wanted);
    const before = usesOf(id);
    setPaneSetting(id, 'studies', studies);
    noteUndoable(`the studies before ${wanted}`, () => setPaneSetting(id, 'studies', before));
  };
  const save = async (): Promise<void> => {
    const wanted = name.trim();
    await sets.known(wanted);
    sets.change(wanted, () => ({ studies: uses }));
    await sets.flush(wanted);
    setName('');
    await load();
  };
  const drop = async (gone: string): Promise<void> => {
    const set = await sets.remove(gone);
    await load();
    if (set) noteUndoable(`the study set ${gone}`, async () => void (await sets.add(gone, set)));
  };
  return (
    <div className="mt-2 border-t border-hair pt-1">
      <span className="quiet">Sets</span>
      {names.map((one) => (
        <div key={one} className="flex items-center gap-2">
          <button type="button" className="flex-1 text-left" onClick={() => void apply(one)}>
            {one}
          </button>
          <button type="button" className="grid h-[20px] w-[20px] place-items-center quiet" aria-label={`Delete the set ${one}`} onClick={() => void drop(one)}>
            <X size={11} />
          </button>
        </div>
      ))}
      <div className="flex gap-1">
        <input
          className="field flex-1"
          placeholder="name of a set"
          aria-label="Name of a set"
          value={name}
          maxLength={64}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter' && name.trim() !== '' && uses.length > 0) void save();
          }}
        />
        <button type="button" className="control" disabled={name.trim() === '' || uses.length === 0} onClick={() => void save()}>
          keep these
        </button>
      </div>
    </div>
  );
}
