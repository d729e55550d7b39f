import { useStore } from '@nanostores/react';
import { SlidersHorizontal } from 'lucide-react';
import { useState } from 'react';
import { Button } from '../../kit/Button.tsx';
import { Choice } from '../../kit/Choice.tsx';
import { Field, NumberField, Toggle } from '../../kit/Field.tsx';
import { Popover } from '../../kit/Popover.tsx';
import { settingsOf } from '../panes/index.ts';
import { $maximised, splitPane, toggleMaximised } from './layout.ts';
import { $panes, setPaneSetting, type Pane } from './panes.ts';
import { valueOf, type ColumnsField, type SettingField } from './settings.ts';
import { cannotStayOnTop, openWindow, stayOnTop } from './windows.ts';

/** What a pane can be set to, in one popover that is the same for all. */
export function PaneSettings({ id, docked }: { id: string; docked: boolean }) {
  const pane = useStore($panes)[id];
  const maximised = useStore($maximised);
  if (!pane) return null;
  return (
    <Popover
      label={`Settings of ${pane.kind}`}
      align="end"
      trigger={
        <button type="button" className="grid h-[20px] w-[20px] place-items-center text-quiet" aria-label={`Settings of ${pane.kind}`}>
          <SlidersHorizontal size={12} />
        </button>
      }
    >
      {docked && (
        <div className="mb-2 grid w-[288px] grid-cols-2 gap-1">
          <Button aria-pressed={maximised} onClick={() => toggleMaximised(id)}>
            {maximised ? 'show all panes again' : 'all the room'}
          </Button>
          <Button onClick={() => void openWindow(id)}>own window</Button>
          <Button disabled={cannotStayOnTop() !== null} title={cannotStayOnTop() ?? undefined} onClick={() => void stayOnTop(id)}>
            {cannotStayOnTop() === null ? 'stay on top' : 'can’t stay on top'}
          </Button>
          <Button onClick={() => splitPane(id, 'right')}>one like it beside</Button>
          <Button onClick={() => splitPane(id, 'below')}>one like it below</Button>
        </div>
      )}
      <div className="scroll grid max-h-[480px] w-[288px] gap-1">
        {Object.entries(settingsOf(pane.kind)).map(([name, field]) => (
          <Setting key={name} pane={pane} name={name} field={field} />
        ))}
      </div>
    </Popover>
  );
}

function Setting({ pane, name, field }: { pane: Pane; name: string; field: SettingField }) {
  const set = (value: unknown): void => setPaneSetting(pane.id, name, value);
  const value = valueOf(pane, name, field);
  switch (field.kind) {
    case 'choice':
      return (
        <Field label={field.label}>
          <Choice
            label={field.label}
            className="max-w-[170px]"
            value={value as string}
            options={field.options.map(([option, words]) => ({ value: option, words }))}
            onPick={set}
          />
        </Field>
      );
    case 'toggle':
      return <Toggle label={field.label} value={value as boolean} onChange={set} />;
    case 'number':
      return (
        <Field label={field.label}>
          <NumberField label={field.label} value={value as number} least={field.least} most={field.most} onChange={set} />
        </Field>
      );
    case 'columns':
      return <Columns field={field} chosen={value as readonly string[]} onChange={set} />;
    default:
      return field satisfies never;
  }
}

/** More columns than these are searched. */
const SEARCHED_FROM = 8;

/** A catalogue of columns: those chosen stand first, in their order. */
function Columns({ field, chosen, onChange }: { field: ColumnsField; chosen: readonly string[]; onChange: (chosen: string[]) => void }) {
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
      <legend className="px-1 text-quiet">{field.label}</legend>
      {field.options.length >= SEARCHED_FROM && (
        <input
          className="field mb-1 w-full"
          placeholder="search the columns"
          aria-label="Search the columns"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      )}
      {[...chosen, ...rest]
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
                <button type="button" className="w-6 text-quiet" aria-label={`${words.get(name)} to the left`} onClick={() => move(name, -1)}>
                  ←
                </button>
                <button type="button" className="w-6 text-quiet" aria-label={`${words.get(name)} to the right`} onClick={() => move(name, 1)}>
                  →
                </button>
              </>
            )}
          </div>
        ))}
    </fieldset>
  );
}
