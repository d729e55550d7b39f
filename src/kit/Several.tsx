import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { Popover } from './Popover.tsx';

/** More than these are searched by typing. */
const SEARCHED_FROM = 8;

interface Props {
  readonly label: string;
  /** What it says while nothing is marked. */
  readonly all: string;
  readonly options: readonly string[];
  readonly chosen: readonly string[];
  readonly onChange: (chosen: readonly string[]) => void;
}

/** Any number of several; none marked is all of them. */
export function Several({ label, all, options, chosen, onChange }: Props) {
  const [typed, setTyped] = useState('');
  const words = chosen.length === 0 ? all : chosen.join(', ');
  const wanted = typed.trim().toLowerCase();
  // What is marked stays in sight, also where it is none of the options any more.
  const shown = [...new Set([...chosen, ...options])].filter((one) => chosen.includes(one) || one.toLowerCase().includes(wanted));
  const toggle = (one: string): void => onChange(chosen.includes(one) ? chosen.filter((other) => other !== one) : [...chosen, one]);
  return (
    <Popover
      label={label}
      trigger={
        <button
          type="button"
          className="field flex max-w-[220px] items-center gap-1 whitespace-nowrap text-left"
          aria-label={`${label}: ${words}`}
          title={words}
        >
          <span className="truncate">{words}</span>
          <ChevronDown size={11} className="shrink-0" aria-hidden="true" />
        </button>
      }
    >
      <div className="grid gap-1">
        {options.length >= SEARCHED_FROM && (
          <input className="field" aria-label={`Search ${label}`} placeholder="search" value={typed} onChange={(event) => setTyped(event.target.value)} />
        )}
        <div className="scroll grid max-h-[260px] min-w-[160px]" role="group" aria-label={label}>
          {shown.map((one) => (
            <label key={one} className="flex min-h-[24px] items-center gap-2">
              <input type="checkbox" className="accent-lamp" checked={chosen.includes(one)} onChange={() => toggle(one)} />
              {one}
            </label>
          ))}
        </div>
        <button
          type="button"
          className="text-left underline underline-offset-4 disabled:opacity-50"
          disabled={chosen.length === 0}
          onClick={() => onChange([])}
        >
          {all}
        </button>
      </div>
    </Popover>
  );
}
