import { useState } from 'react';
import { FIELDS, FIELD_NAMES, FLAGS, FLAG_NAMES, USABLE_STUDIES } from '../../../core/language/index.ts';
import { STUDIES } from '../../../core/study/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { readCondition } from '../../act/phrase.ts';

const INTERVALS = ['', '1m', '5m', '15m', '1h', '1d', '1w'] as const;

const FIELD_OPTIONS = [
  ...FIELD_NAMES.map((name) => ({ value: name, words: name, about: FIELDS[name].about })),
  ...USABLE_STUDIES.map((kind) => ({ value: kind, words: kind, about: STUDIES.get(kind)?.about ?? '' })),
  ...FLAG_NAMES.map((flag) => ({ value: flag, words: flag, about: FLAGS[flag] })),
];

const COMPARED = [
  { value: '>', words: 'above', about: 'greater than' },
  { value: '>=', words: 'at least', about: 'greater or equal' },
  { value: '<', words: 'below', about: 'less than' },
  { value: '<=', words: 'at most', about: 'less or equal' },
  { value: 'is', words: 'is', about: 'the same' },
  { value: 'rises above', words: 'rises above', about: 'was at or below, is above' },
  { value: 'falls below', words: 'falls below', about: 'was at or above, is below' },
  { value: 'crosses', words: 'crosses', about: 'either way' },
] as const;

const isFlag = (what: string): boolean => (FLAG_NAMES as readonly string[]).includes(what);
const isStudy = (what: string): boolean => USABLE_STUDIES.includes(what);

/** Builds a line from parts, each a word that opens its choices; what comes of it is the phrase. */
export function LineBuilder({ onBuilt }: { onBuilt: (phrase: string) => void }) {
  const [open, setOpen] = useState(false);
  const [what, setWhat] = useState('change %');
  const [on, setOn] = useState('');
  const [compare, setCompare] = useState<(typeof COMPARED)[number]['value']>('>');
  const [value, setValue] = useState('2 %');
  const at = on !== '' && isStudy(what) ? ` on ${on}` : '';
  const phrase = isFlag(what) ? what : `${what}${at} ${compare} ${value}`;
  const read = readCondition(phrase);
  return (
    <Popover
      label="Build a line from parts"
      open={open}
      onOpen={setOpen}
      trigger={
        <Button size="small" title="Field, comparison, value: each a word that opens its choices">
          build a line
        </Button>
      }
    >
      <form
        className="grid w-[320px] gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (!read.ok) return;
          onBuilt(phrase);
          setOpen(false);
        }}
      >
        <Choice label="Field" className="w-full" value={what} options={FIELD_OPTIONS} onPick={setWhat} />
        {isStudy(what) && (
          <Choice
            label="Bars"
            className="w-full"
            value={on}
            options={INTERVALS.map((one) => ({ value: one, words: one === '' ? 'days' : one }))}
            onPick={setOn}
          />
        )}
        {!isFlag(what) && (
          <span className="flex gap-2">
            <Choice label="Comparison" className="w-[130px]" value={compare} options={COMPARED} onPick={setCompare} />
            <input className="field min-w-0 flex-1" aria-label="Value" value={value} onChange={(event) => setValue(event.target.value)} />
          </span>
        )}
        <p className={read.ok ? 'text-quiet' : 'plate heather whitespace-normal'}>{read.ok ? phrase : read.error.message}</p>
        <Button type="submit" disabled={!read.ok}>
          add this line
        </Button>
      </form>
    </Popover>
  );
}
