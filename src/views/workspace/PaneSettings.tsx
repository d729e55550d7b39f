import { useStore } from '@nanostores/react';
import { SlidersHorizontal } from 'lucide-react';
import { useState } from 'react';
import { notePopoverClosed } from '../../client/gestures/index.ts';
import { Popover } from '../../kit/Popover.tsx';
import { $maximised, splitPane, toggleMaximised } from './layout.ts';
import { openWindow } from './windows.ts';
import { $panes, setPaneSetting, type Pane } from './panes.ts';
import { setting, settingsOf, type SettingField } from './pane-settings.ts';

/** What a pane can be set to, in one popover that is the same for all. */
export function PaneSettings({ id, docked }: { id: string; docked: boolean }) {
  const pane = useStore($panes)[id];
  const maximised = useStore($maximised);
  if (!pane) return null;
  return (
    <Popover
      label={`Settings of ${pane.kind}`}
      align="end"
      onClosedByPress={notePopoverClosed}
      trigger={
        <button type="button" className="grid h-[20px] w-[20px] place-items-center quiet" aria-label={`Settings of ${pane.kind}`}>
          <SlidersHorizontal size={12} />
        </button>
      }
    >
      {docked && (
        <div className="mb-2 grid w-[288px] grid-cols-2 gap-1">
          <button type="button" className="control" aria-pressed={maximised} onClick={() => toggleMaximised(id)}>
            {maximised ? 'show all panes again' : 'all the room'}
          </button>
          <button type="button" className="control" onClick={() => void openWindow(id)}>
            own window
          </button>
          <button type="button" className="control" onClick={() => splitPane(id, 'right')}>
            one like it beside
          </button>
          <button type="button" className="control" onClick={() => splitPane(id, 'below')}>
            one like it below
          </button>
        </div>
      )}
      <div className="scroll grid max-h-[480px] w-[288px] gap-1">
        {settingsOf(pane.kind).map((field) => (
          <Field key={field.name} pane={pane} field={field} />
        ))}
      </div>
    </Popover>
  );
}

function Field({ pane, field }: { pane: Pane; field: SettingField }) {
  const set = (value: unknown): void => setPaneSetting(pane.id, field.name, value);
  switch (field.kind) {
    case 'choice':
      return (
        <label className="flex min-h-[26px] items-center justify-between gap-2">
          {field.label}
          <select className="field max-w-[170px]" value={setting<string>(pane, field.name)} onChange={(event) => set(event.target.value)}>
            {field.options.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </select>
        </label>
      );
    case 'toggle':
      return (
        <label className="flex min-h-[26px] items-center justify-between gap-2">
          {field.label}
          <input type="checkbox" className="h-4 w-4 accent-lamp" checked={setting<boolean>(pane, field.name)} onChange={(event) => set(event.target.checked)} />
        </label>
      );
    case 'number':
      return (
        <label className="flex min-h-[26px] items-center justify-between gap-2">
          {field.label}
          <input
            type="number"
            className="field figure w-[84px]"
            min={field.least}
            max={field.most}
            value={setting<number>(pane, field.name)}
            onChange={(event) => set(Math.max(field.least, Math.min(field.most, Math.round(Number(event.target.value)))))}
          />
        </label>
      );
    case 'columns':
      return <Columns field={field} chosen={setting<readonly string[]>(pane, field.name)} onChange={set} />;
    default:
      return field satisfies never;
  }
}

/** A catalogue this long can be searched. */
const SEARCHED_FROM = 12;

/** A catalogue of columns: those chosen stand first, in their order. */
function Columns(props: { field: Extract<SettingField, { kind: 'columns' }>; chosen: readonly string[]; onChange: (chosen: string[]) => void }) {
  const { field, chosen, onChange } = props;
  const move = (name: string, step: number): void => {
    const at = chosen.indexOf(name);
    const next = chosen.filter((one) => one !== name);
    next.splice(Math.max(0, Math.min(next.length, at + step)), 0, name);
    onChange(next);
  };
  const [search, setSearch] = useState('');
  const words = new Map(field.options);
  const wanted = search.trim().toLowerCase();
  const rest = field.options.map(([value]) => value).filter((value) => !chosen.includes(value));
  return (
    <fieldset className="border border-hair p-1">
      <legend className="px-1 quiet">{field.label}</legend>
      {field.options.length > SEARCHED_FROM && (
        <input
          className="field mb-1 w-full"
          placeholder="search the columns"
          aria-label="Search the columns"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      )}
      {[...chosen.filter((one) => words.has(one)), ...rest]
        .filter((name) => words.get(name)?.toLowerCase().includes(wanted))
        .map((name) => (
          <div key={name} className="flex min-h-[24px] items-center gap-2">
            <label className="flex flex-1 items-center gap-2">
              <input
                type="checkbox"
                className="h-4 w-4 accent-lamp"
                checked={chosen.includes(name)}
                onChange={(event) => onChange(event.target.checked ? [...chosen, name] : chosen.filter((one) => one !== name))}
              />
              {words.get(name)}
            </label>
            {chosen.includes(name) && (
              <>
                <button type="button" className="w-6 quiet" aria-label={`${words.get(name)} to the left`} onClick={() => move(name, -1)}>
                  ←
                </button>
                <button type="button" className="w-6 quiet" aria-label={`${words.get(name)} to the right`} onClick={() => move(name, 1)}>
                  →
                </button>
              </>
            )}
          </div>
        ))}
    </fieldset>
  );
}
