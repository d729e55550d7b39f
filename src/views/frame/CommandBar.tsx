import { useStore } from '@nanostores/react';
import { Command } from 'cmdk';
import { useEffect, useMemo, useRef, useState } from 'react';
import { searchInstruments } from '../../core/instrument/index.ts';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { $orders, $positions, instruments } from '../../live/index.ts';
import { openPane } from '../workspace/layout.ts';
import { $activePane, PANE_KINDS, setInstrument, targetOf } from '../workspace/panes.ts';

const MOST = 12;

/** Finds instruments and opens panes. `/` brings the caret here; what it has read stands at its right. */
export function CommandBar() {
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const active = useStore($activePane);

  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      const at = event.target as HTMLElement;
      const caret = at.matches('input, textarea, select, [contenteditable]');
      if (event.key === '/' && !caret && !event.ctrlKey && !event.altKey && !event.metaKey) {
        event.preventDefault();
        input.current?.focus();
      }
    };
    window.addEventListener('keydown', onKey);
    const onFind = (event: Event): void => {
      setText((event as CustomEvent<string>).detail);
      setOpen(true);
      input.current?.focus();
    };
    window.addEventListener('kavix-find', onFind);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('kavix-find', onFind);
    };
  }, []);

  // Results stand still once shown for the typed text: they follow from the text and the books, not from prices.
  const found = useMemo(() => (text.trim() === '' ? [] : rank(text).slice(0, MOST)), [text]);
  const panes = text.trim() === '' ? [...PANE_KINDS] : PANE_KINDS.filter((kind) => kind.toLowerCase().startsWith(text.trim().toLowerCase()));

  const close = (): void => {
    setText('');
    setOpen(false);
    input.current?.blur();
  };
  const pick = (id: string): void => {
    const pane = active ?? null;
    if (pane !== null && targetOf(pane)) setInstrument(pane, id);
    else openPane('Chart', id);
    close();
  };

  return (
    <Command className="relative w-[260px]" shouldFilter={false} label="Command bar" loop>
      <Command.Input
        ref={input}
        value={text}
        onValueChange={(value) => {
          setText(value);
          setOpen(true);
        }}
        onFocus={() => setOpen(true)}
        onBlur={() => setTimeout(() => setOpen(false), 120)}
        onKeyDown={(event) => {
          if (event.key !== 'Escape') return;
          event.stopPropagation();
          close();
        }}
        className="field w-full !h-[26px]"
        placeholder="find an instrument, open a pane"
        aria-label="Command bar"
      />
      <kbd className="quiet pointer-events-none absolute right-2 top-[4px]">{open ? (found.length > 0 ? 'Find' : 'Open') : '/'}</kbd>
      <Command.List className={open ? 'floats scroll absolute left-0 top-[28px] max-h-[420px] w-[380px] p-1' : 'hidden'}>
        <Command.Empty className="p-2 quiet">Nothing by that name.</Command.Empty>
        {found.length > 0 && (
          <Command.Group heading={<span className="px-2 quiet">Find</span>}>
            {found.map((instrument) => (
              <Command.Item key={instrument.id} value={instrument.id} className="menu-item" onSelect={pick}>
                <span className="w-36">
                  <InstrumentName id={instrument.id} />
                </span>
                <span className="truncate">{instrument.name}</span>
                <span className="ml-auto quiet">{instrument.kind}</span>
              </Command.Item>
            ))}
          </Command.Group>
        )}
        {panes.length > 0 && (
          <Command.Group heading={<span className="px-2 quiet">Open</span>}>
            {panes.map((kind) => (
              <Command.Item
                key={kind}
                value={`open ${kind}`}
                className="menu-item"
                onSelect={() => {
                  openPane(kind);
                  close();
                }}
              >
                {kind}
              </Command.Item>
            ))}
          </Command.Group>
        )}
      </Command.List>
    </Command>
  );
}

/** At an equal match first what is held or has orders. */
function rank(text: string) {
  const mine = new Set([...Object.values($positions.get()).map((p) => p.instrument), ...Object.values($orders.get()).map((o) => o.instrument)]);
  const found = searchInstruments(instruments.values(), text);
  const wanted = text.trim().toUpperCase();
  const exact = (ticker: string): boolean => ticker === wanted;
  return found.sort((a, b) => Number(exact(b.ticker)) - Number(exact(a.ticker)) || Number(mine.has(b.id)) - Number(mine.has(a.id)));
}
