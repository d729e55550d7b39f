import { useMemo } from 'react';
import { INSTRUMENT_KINDS, VENUE_IDS } from '../../../core/instrument/index.ts';
import { Choice } from '../../../kit/Choice.tsx';
import { Field } from '../../../kit/Field.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { instruments } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { universeWords, type ScanDraft } from './draft.ts';

type Universe = ScanDraft['universe'];
const TRADED = INSTRUMENT_KINDS.filter((kind) => kind !== 'index');

const toggled = <T extends string>(before: readonly T[] | undefined, one: T): T[] | undefined => {
  const next = before?.includes(one) ? before.filter((other) => other !== one) : [...(before ?? []), one];
  return next.length === 0 ? undefined : next;
};

/** The universe as a sentence that opens; `of` is the scan itself, which can't look at its own result. */
export function UniverseButton({ universe, of, onChange }: { universe: Universe; of: string; onChange: (universe: Universe) => void }) {
  const sectors = useMemo(() => [...new Set([...instruments.values()].flatMap((one) => one.sector ?? []))].sort(), []);
  const lists = useAsked('GET /api/watchlists', {}, { freshMs: 5000 });
  const scans = useAsked('GET /api/scans', {}, { freshMs: 5000 });
  const set = (field: keyof Universe, value: readonly string[] | undefined): void => {
    const { [field]: _before, ...rest } = universe;
    onChange(value === undefined ? rest : { ...rest, [field]: value });
  };
  const pick = (field: 'sectors' | 'watchlists', value: string): void => set(field, value === '' ? undefined : [value]);
  return (
    <Popover
      label="Which instruments"
      trigger={
        <button type="button" className="min-w-0 truncate text-left underline underline-offset-4" title={universeWords(universe)}>
          {universeWords(universe)}
        </button>
      }
    >
      <div className="grid w-[280px] gap-1">
        <Marks label="Kinds" all={TRADED} chosen={universe.kinds} onPick={(kind) => set('kinds', toggled(universe.kinds, kind))} />
        <Marks label="Venues" all={VENUE_IDS} chosen={universe.venues} onPick={(venue) => set('venues', toggled(universe.venues, venue))} />
        <Field label="Sector">
          <Choice
            label="Sector"
            className="w-[170px]"
            value={universe.sectors?.[0] ?? ''}
            options={[{ value: '', words: 'any' }, ...sectors.map((one) => ({ value: one, words: one }))]}
            onPick={(value) => pick('sectors', value)}
          />
        </Field>
        <Field label="Watchlist">
          <Choice
            label="Watchlist"
            className="w-[170px]"
            value={universe.watchlists?.[0] ?? ''}
            options={[{ value: '', words: 'any' }, ...(lists.data?.items ?? []).map(({ name }) => ({ value: name, words: name }))]}
            onPick={(value) => pick('watchlists', value)}
          />
        </Field>
        <Field label="What a scan found">
          <Choice
            label="What a scan found"
            className="w-[170px]"
            value={universe.scan ?? ''}
            options={[{ value: '', words: 'any' }, ...(scans.data?.items ?? []).flatMap(({ name }) => (name === of ? [] : [{ value: name, words: name }]))]}
            onPick={(scan) => {
              const { scan: _before, ...rest } = universe;
              onChange(scan === '' ? rest : { ...rest, scan });
            }}
          />
        </Field>
      </div>
    </Popover>
  );
}

function Marks<T extends string>({
  label,
  all,
  chosen,
  onPick,
}: {
  label: string;
  all: readonly T[];
  chosen: readonly T[] | undefined;
  onPick: (one: T) => void;
}) {
  return (
    <fieldset className="flex flex-wrap gap-x-3">
      <legend className="text-quiet">{label}; none marked: any</legend>
      {all.map((one) => (
        <label key={one} className="flex min-h-[24px] items-center gap-1">
          <input type="checkbox" className="accent-lamp" checked={chosen?.includes(one) ?? false} onChange={() => onPick(one)} />
          {one}
        </label>
      ))}
    </fieldset>
  );
}
