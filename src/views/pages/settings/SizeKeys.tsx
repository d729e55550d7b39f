import { RotateCcw } from 'lucide-react';
import { useId, useState } from 'react';
import { AS_BROUGHT, changeSettings, type Settings } from '../../../client/settings.ts';
import { KIND_WORDS } from '../../act/kind-words.ts';
import { Section } from './Section.tsx';

type Kind = keyof Settings['sizeKeys'];
const KINDS = Object.keys(KIND_WORDS) as readonly Kind[];
const MOST = 9;
const QUANTITY = /^(0|[1-9]\d{0,11})(\.\d{1,8})?$/;

/** The sizes of a text: one to nine quantities apart by blanks, each larger than the one before; or words that say what is wrong. */
export function readSizes(text: string): { readonly sizes: readonly string[] } | { readonly wrong: string } {
  const sizes = text.trim().split(/[\s,;]+/).filter(Boolean); // prettier-ignore
  if (sizes.length === 0) return { wrong: 'give 1 to 9 quantities' };
  if (sizes.length > MOST) return { wrong: `${sizes.length} quantities; there are 9 keys` };
  const odd = sizes.find((size) => !QUANTITY.test(size) || Number(size) === 0);
  if (odd !== undefined) return { wrong: `${odd} is not a quantity` };
  const falling = sizes.find((size, i) => i > 0 && Number(size) <= Number(sizes[i - 1]));
  return falling === undefined ? { sizes } : { wrong: `${falling} is not larger than the one before it` };
}

/** The quantities of the size keys, by kind of instrument. */
export function SizeKeys({ settings }: { settings: Settings }) {
  return (
    <Section title="Sizes" about="Up to nine quantities by kind of instrument, the smallest first. The first is where a new day begins.">
      {KINDS.map((kind) => (
        <SizesOf key={`${kind} ${settings.sizeKeys[kind].join(' ')}`} kind={kind} words={KIND_WORDS[kind]} settings={settings} />
      ))}
    </Section>
  );
}

function SizesOf({ kind, words, settings }: { kind: Kind; words: string; settings: Settings }) {
  const now = settings.sizeKeys[kind].join(' ');
  const [typed, setTyped] = useState(now);
  const reason = useId();
  const read = readSizes(typed);
  const wrong = 'wrong' in read ? read.wrong : null;
  const set = (sizes: readonly string[]): void => void changeSettings({ sizeKeys: { ...settings.sizeKeys, [kind]: sizes } });
  const take = (): void => {
    if ('sizes' in read && typed.trim() !== now) set(read.sizes);
  };
  return (
    <div className="mb-1 grid grid-cols-[64px_1fr_auto] items-center gap-x-2">
      <span>{words}</span>
      <input
        className="field figure text-left"
        aria-label={`Sizes of ${words}`}
        aria-invalid={wrong !== null}
        aria-describedby={wrong === null ? undefined : reason}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') take();
          if (event.key !== 'Escape' || typed === now) return;
          event.stopPropagation();
          setTyped(now);
        }}
      />
      <button
        type="button"
        className="grid h-6 w-6 place-items-center disabled:text-quiet"
        aria-label={`${words} as brought`}
        disabled={now === AS_BROUGHT.sizeKeys[kind].join(' ')}
        onClick={() => set(AS_BROUGHT.sizeKeys[kind])}
      >
        <RotateCcw size={13} />
      </button>
      {wrong !== null && (
        <span id={reason} className="plate heather col-start-2 mt-[2px] justify-self-start">
          {wrong}
        </span>
      )}
    </div>
  );
}
