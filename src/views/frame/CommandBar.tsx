import { useStore } from '@nanostores/react';
import { Command } from 'cmdk';
import { useEffect, useMemo, useRef, useState } from 'react';
import { $orders, $positions, request, findInstruments, type ApiQuote } from '../../live/index.ts';
import { resultClass, signed } from '../../kit/Figure.tsx';
import { addEmpty } from '../workspace/documents.ts';
import { SIDES, resetWorkspace, toggleSide } from '../workspace/layout.ts';
import { $theme, setTheme } from '../theme/theme.ts';
import { openPane } from '../workspace/layout.ts';
import { $activePane, PANE_KINDS, setInstrument, targetOf } from '../workspace/panes.ts';
import { useFrameCommands } from '../act/keys.ts';

const MOST = 12;
const KEPT_USED = 20;

/** Instruments in the order they were last taken here, newest first. */
let used: readonly string[] = [];

/** What can be done by name. None of it touches an order. */
const DOINGS: readonly { readonly words: string; readonly run: () => void }[] = [
  { words: 'new empty workspace', run: () => void addEmpty() },
  { words: 'reset this workspace', run: resetWorkspace },
  { words: 'change the theme', run: () => setTheme($theme.get() === 'night' ? 'day' : 'night') },
  ...SIDES.map((side) => ({ words: `fold the ${side} side`, run: () => toggleSide(side) })),
];

/** Finds instruments and opens panes. `/` brings the caret here; what it has read stands at its right. */
export function CommandBar() {
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const active = useStore($activePane);

  useFrameCommands([{ keys: ['/'], words: 'find an instrument, open a pane', run: () => input.current?.focus() }]);
  useEffect(() => {
    const onFind = (event: Event): void => {
      setText((event as CustomEvent<string>).detail);
      setOpen(true);
      input.current?.focus();
    };
    window.addEventListener('kavix-find', onFind);
    return () => {
      window.removeEventListener('kavix-find', onFind);
    };
  }, []);

  // Results stand still once shown for the typed text: they follow from the text and the books, not from prices.
  const found = useMemo(() => (text.trim() === '' ? [] : rank(text).slice(0, MOST)), [text]);
  const quotes = useQuotes(found.map((instrument) => instrument.id));
  const typed = text.trim().toLowerCase();
  const doings = typed.length < 2 ? [] : DOINGS.filter(({ words }) => words.includes(typed));
  const panes = text.trim() === '' ? [...PANE_KINDS] : PANE_KINDS.filter((kind) => kind.toLowerCase().startsWith(text.trim().toLowerCase()));

  const close = (): void => {
    setText('');
    setOpen(false);
    input.current?.blur();
  };
  const pick = (id: string): void => {
    used = [id, ...used.filter((one) => one !== id)].slice(0, KEPT_USED);
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
      <kbd className="quiet pointer-events-none absolute right-2 top-[4px]">
        {open ? (found.length > 0 ? 'Find' : panes.length > 0 ? 'Open' : doings.length > 0 ? 'Do' : 'Find') : '/'}
      </kbd>
      <Command.List className={open ? 'floats scroll absolute left-0 top-[28px] max-h-[420px] w-[520px] p-1' : 'hidden'}>
        <Command.Empty className="p-2 quiet">Nothing by that name.</Command.Empty>
        {found.length > 0 && (
          <Command.Group heading={<span className="px-2 quiet">Find</span>}>
            {found.map((instrument) => (
              <Command.Item key={instrument.id} value={instrument.id} className="menu-item" onSelect={pick}>
                <span className="w-[150px] font-semibold">{instrument.ticker}</span>
                <span className="w-[44px] quiet">{instrument.venue}</span>
                <span className="min-w-0 flex-1 truncate">{instrument.name}</span>
                <span className="w-[46px] quiet">{instrument.kind}</span>
                <span className="figure w-[60px]">{quotes[instrument.id]?.last ?? quotes[instrument.id]?.previousSettlement ?? ''}</span>
                <span className={`figure w-[50px] ${resultClass(quotes[instrument.id]?.changePercent ?? '0')}`}>{percentOf(quotes[instrument.id])}</span>
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
        {doings.length > 0 && (
          <Command.Group heading={<span className="px-2 quiet">Do</span>}>
            {doings.map(({ words, run }) => (
              <Command.Item
                key={words}
                value={`do ${words}`}
                className="menu-item"
                onSelect={() => {
                  run();
                  close();
                }}
              >
                {words}
              </Command.Item>
            ))}
          </Command.Group>
        )}
      </Command.List>
    </Command>
  );
}

const percentOf = (quote: ApiQuote | undefined): string => (quote?.changePercent ? signed(quote.changePercent) : '');

/** At an equal match first what is held or has orders, then what was taken here last; listings of a company stay together. */
function rank(text: string) {
  const mine = new Set([
    ...Object.values($positions.get()).flatMap((position) => (position.quantity === '0' ? [] : [position.instrument])),
    ...Object.values($orders.get()).map((order) => order.instrument),
  ]);
  const found = findInstruments(text);
  const standing = new Map<string, number>();
  const last = (id: string): number => (used.includes(id) ? used.indexOf(id) : KEPT_USED);
  const order = [...found].sort(
    (a, b) => a.rank - b.rank || Number(mine.has(b.instrument.id)) - Number(mine.has(a.instrument.id)) || last(a.instrument.id) - last(b.instrument.id),
  );
  order.forEach(({ instrument }, i) => {
    if (!standing.has(instrument.ticker)) standing.set(instrument.ticker, i);
  });
  return order.map(({ instrument }) => instrument).sort((a, b) => (standing.get(a.ticker) ?? 0) - (standing.get(b.ticker) ?? 0));
}

/** Prices of what is found, asked for once: the rows stand still, their figures come. */
function useQuotes(ids: readonly string[]): Readonly<Record<string, ApiQuote>> {
  const [quotes, setQuotes] = useState<Readonly<Record<string, ApiQuote>>>({});
  const wanted = ids.join(',');
  useEffect(() => {
    if (wanted === '') return undefined;
    let gone = false;
    void request('GET /api/quotes', { query: { instruments: wanted } }).then((found) => {
      if (!gone && found.ok) setQuotes((before) => ({ ...before, ...Object.fromEntries(found.value.items.map((quote) => [quote.instrument, quote])) }));
    });
    return () => {
      gone = true;
    };
  }, [wanted]);
  return quotes;
}
