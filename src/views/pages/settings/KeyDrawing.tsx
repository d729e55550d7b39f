import { useState } from 'react';
import { BROUGHT_KEYS, bindingProblem } from '../../../core/language/index.ts';
import type { BoundKey } from '../../../client/bindings.ts';
import { Button } from '../../../kit/Button.tsx';

const MAIN = ['1234567890', 'QWERTYUIOP', 'ASDFGHJKL', 'ZXCVBNM'].map((row) => [...row]);
const PAD = ['789', '456', '123', '0.', '+-*/'].map((row) => [...row].map((sign) => `Numpad ${sign}`));
const FUNCTIONS = [Array.from({ length: 12 }, (_, i) => `F${13 + i}`)];

const HELD = ['Space', 'Space Shift', 'Space Ctrl', 'alone'] as const;
type Held = (typeof HELD)[number];

/** The keyboard, main block and number pad apart: what each key does under what is held. A press binds it. */
export function KeyDrawing({ rows, onPick }: { rows: readonly BoundKey[]; onPick: (key: string) => void }) {
  const [held, setHeld] = useState<Held>('Space');
  const withHeld = (key: string): string => (held === 'alone' ? key : `${held} ${key}`);
  const row = (keys: readonly string[], at: number, indent: boolean) => (
    <div key={at} className="flex gap-[2px]" style={{ paddingLeft: indent ? at * 8 : 0 }}>
      {keys.map((key) => (
        <Key key={key} name={withHeld(key)} cap={key.replace('Numpad ', '')} rows={rows} onPick={onPick} />
      ))}
    </div>
  );
  return (
    <div className="flex flex-col gap-2" role="group" aria-label="The keyboard">
      <div className="flex gap-1" role="radiogroup" aria-label="What is held">
        {HELD.map((one) => (
          <Button key={one} size="small" role="radio" aria-checked={held === one} onClick={() => setHeld(one)}>
            {one === 'alone' ? 'nothing held' : one.replace(' ', ' and ')}
          </Button>
        ))}
      </div>
      <div className="flex gap-4">
        <div className="flex flex-col gap-[2px]">{(held === 'alone' ? FUNCTIONS : MAIN).map((keys, at) => row(keys, at, held !== 'alone'))}</div>
        <div className="flex flex-col gap-[2px]">{PAD.map((keys, at) => row(keys, at, false))}</div>
      </div>
    </div>
  );
}

function Key({ name, cap, rows, onPick }: { name: string; cap: string; rows: readonly BoundKey[]; onPick: (key: string) => void }) {
  const bound = rows.find(({ key }) => key === name);
  const does = bound ? (bound.phrase ?? bound.command ?? '') : (BROUGHT_KEYS[name] ?? '');
  const cannot = bindingProblem({ key: name, phrase: 'buy 1 at bid', command: null, sets: [] });
  const words = bound ? does : cannot ? cannot.message : does === '' ? 'free' : `brought along: ${does}`;
  return (
    <button
      type="button"
      disabled={cannot !== null}
      className={`flex h-[38px] w-[56px] flex-col items-start overflow-hidden rounded-[2px] border px-1 text-left text-[11px] leading-[15px] disabled:opacity-40 ${bound ? 'border-ink bg-raised' : 'border-line'}`}
      title={`${name}: ${words}`}
      onClick={() => onPick(name)}
    >
      <b>{cap}</b>
      <span className={`w-full truncate ${bound ? '' : 'text-quiet'}`}>{does}</span>
      <span className="sr-only">
        {name}, {words}
      </span>
    </button>
  );
}
