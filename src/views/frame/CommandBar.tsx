import { useStore } from '@nanostores/react';
import { Command } from 'cmdk';
import { useEffect, useMemo, useState, type RefObject } from 'react';
import { $orders, $positions, request, findInstruments, type ApiQuote } from '../../live/index.ts';
import { resultClass, signed } from '../../kit/Figure.tsx';
import { addEmpty } from '../workspace/documents.ts';
import { SIDES, openPane, resetWorkspace, showPane, toggleSide } from '../workspace/layout.ts';
import { $theme, setTheme } from '../theme/theme.ts';
import { alertLine } from '../../client/alert-line.ts';
import { answer } from '../../client/answers.ts';
import { linesBefore, rememberLine } from '../../client/bar-history.ts';
import { act } from '../../client/gestures/index.ts';
import { doable, keyWords } from '../../client/keys.ts';
import { noteUndoable } from '../../client/undo.ts';
import { intentsOf, looksLikeOrder, type PhraseReading } from '../../client/phrase-acts.ts';
import { isInsertable, mended } from '../act/mend.ts';
import { openRead, readOrder } from '../act/phrase-order.ts';
import { $activePane, $target, PANE_KINDS, setInstrument, targetOf } from '../workspace/panes.ts';
import { FLOAT } from '../../kit/floats.ts';
import { MENU_ITEM } from '../../kit/Menu.tsx';
import { PAGES } from '../pages/index.ts';
import { PAGE_NAMES, showPage } from '../pages/route.ts';
import { PANES } from '../panes/index.ts';
import { AlertReading } from './AlertReading.tsx';
import { BAR_FIELD, BAR_PLACEHOLDER, BarWord } from './bar-look.tsx';

const MOST = 12;
const KEPT_USED = 20;

/** Instruments in the order they were last taken here, newest first. */
let used: readonly string[] = [];

interface Doing {
  readonly words: string;
  readonly about?: string;
  readonly ofWorkspace?: true;
  /** The key that does it too. */
  readonly key?: string;
  readonly run: () => void;
}

function foldSide(side: (typeof SIDES)[number]): void {
  toggleSide(side);
  noteUndoable(`the ${side} side`, () => toggleSide(side));
}

/** What can be done by name and has no key. */
const DOINGS: readonly Doing[] = [
  { words: 'new empty workspace', ofWorkspace: true, run: () => void addEmpty() },
  { words: 'reset this workspace', ofWorkspace: true, run: resetWorkspace },
  {
    words: 'change the theme',
    run: () => {
      const before = $theme.get();
      setTheme(before === 'night' ? 'day' : 'night');
      noteUndoable('the theme', () => setTheme(before));
    },
  },
  ...SIDES.map((side): Doing => ({ words: `fold the ${side} side`, ofWorkspace: true, run: () => foldSide(side) })),
];

/** What the frame and the panes can do, the active one first, by their own words; none of it touches an order. */
const doings = (): Doing[] =>
  doable().map(({ command, of, pane: behind }) => {
    const { words, keys } = command;
    const why = command.cannot?.() ?? null;
    const pane = behind ?? $activePane.get();
    const about = [behind === null ? '' : `in ${of}`, why === null ? '' : `not now: ${why}`].filter(Boolean).join(', ');
    return {
      words,
      key: keyWords(keys[0] ?? ''),
      ...(about === '' ? {} : { about }),
      run: () => {
        if (behind !== null) showPane(behind);
        if (why === null) command.run();
        else if (pane !== null) answer(pane, 'refused', why);
      },
    };
  });

interface Props {
  /** In a pane's own window, which has no workspace to open others in. */
  readonly alone: boolean;
  readonly text: string;
  readonly setText: (text: string) => void;
  readonly open: boolean;
  readonly setOpen: (open: boolean) => void;
  readonly input: RefObject<HTMLInputElement | null>;
}

/** Finds instruments, opens panes, reads orders and alerts; what it has read stands at its right. */
export function CommandBar({ alone, text, setText, open, setOpen, input }: Props) {
  const active = useStore($activePane);

  // Results stand still once shown for the typed text: they follow from the text and the books, not from prices.
  const found = useMemo(() => (text.trim() === '' || looksLikeOrder(text) || alertLine(text) ? [] : rank(text).slice(0, MOST)), [text]);
  const quotes = useQuotes(found.map((instrument) => instrument.id));
  const typed = text.trim().toLowerCase();
  const openings: readonly Doing[] = [
    ...PANE_KINDS.map((kind) => ({ words: kind, about: PANES[kind].about, run: () => openPane(kind) })),
    ...PAGE_NAMES.map((name) => ({ words: PAGES[name].title, about: PAGES[name].about, run: () => showPage(name) })),
  ];
  const groups = [
    { name: 'Open', items: alone ? [] : openings.filter(({ words }) => words.toLowerCase().startsWith(typed)) },
    { name: 'Do', items: typed.length < 2 ? [] : [...DOINGS, ...doings()].filter((doing) => doing.words.includes(typed) && !(alone && doing.ofWorkspace)) },
  ];
  // What is named exactly is meant, before an instrument that is named nearly so.
  const isExact = ({ items }: { items: readonly Doing[] }): boolean => typed !== '' && items.some(({ words }) => words.toLowerCase() === typed);
  const order = useOrderReading(text);
  const alert = alertLine(text);
  const on = active === null ? null : targetOf(active);
  const first = groups.filter(isExact);
  const later = groups.filter((group) => !isExact(group));
  const reads = order
    ? 'Order'
    : alert
      ? 'Alert'
      : (first[0]?.name ?? (found.length > 0 ? 'Find' : (later.find(({ items }) => items.length > 0)?.name ?? 'Find')));

  const close = (): void => {
    rememberLine($activePane.get(), text);
    leave();
  };
  const leave = (): void => {
    setText('');
    setOpen(false);
    input.current?.blur();
  };
  const pick = (id: string): void => {
    used = [id, ...used.filter((one) => one !== id)].slice(0, KEPT_USED);
    const pane = active ?? null;
    if (pane !== null && targetOf(pane)) {
      showPage(null);
      setInstrument(pane, id);
    } else openPane('Chart', id);
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
        onBlur={() => setOpen(false)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && event.ctrlKey && order?.ok) {
            event.preventDefault();
            sendRead(order);
            close();
            return;
          }
          if (event.key !== 'Escape') return;
          event.stopPropagation();
          leave();
        }}
        className={BAR_FIELD}
        placeholder={BAR_PLACEHOLDER}
        aria-label="Command bar"
      />
      <BarWord>{open ? reads : '/'}</BarWord>
      <Command.List
        // The caret stays in the field however long an item is pressed.
        onMouseDown={(event) => event.preventDefault()}
        className={open ? `${FLOAT} scroll absolute left-0 top-[28px] max-h-[420px] w-[520px] p-1` : 'hidden'}
      >
        {text === '' && <Before lines={linesBefore(active ?? null)} onPick={setText} />}
        {!order && !alert && text !== '' && <Command.Empty className="p-2 text-quiet">Nothing by that name.</Command.Empty>}
        {order && (
          <OrderReading
            reading={order}
            onOpen={() => {
              const pane = $activePane.get();
              if (order.ok && pane !== null) openRead(pane, order);
              if (order.ok) close();
            }}
            onSend={() => {
              sendRead(order);
              close();
            }}
            onInsert={(words) => {
              setText(order.error ? mended(text, order.error, words) : text);
              input.current?.focus();
            }}
          />
        )}
        {alert && (
          <AlertReading
            line={alert}
            on={active === null || !on ? null : { pane: active, instrument: on.instrument }}
            onDone={close}
            onMend={(of) => {
              setText(text.slice(0, alert.from) + of);
              input.current?.focus();
            }}
          />
        )}
        {first.map((group) => (
          <Doings key={group.name} {...group} onDone={close} />
        ))}
        {found.length > 0 && (
          <Command.Group heading={<span className="px-2 text-quiet">Find</span>}>
            {found.map((instrument) => (
              <Command.Item key={instrument.id} value={instrument.id} className={MENU_ITEM} onSelect={pick}>
                <span className="w-[124px] font-semibold">{instrument.ticker}</span>
                <span className="w-[44px] text-quiet">{instrument.venue}</span>
                <span className="min-w-0 flex-1 truncate">{instrument.name}</span>
                <span className="w-[46px] text-quiet">{instrument.kind}</span>
                <span className="figure w-[60px]">{quotes[instrument.id]?.last ?? quotes[instrument.id]?.previousSettlement ?? ''}</span>
                <span className={`figure w-[50px] ${resultClass(quotes[instrument.id]?.changePercent ?? '0')}`}>{percentOf(quotes[instrument.id])}</span>
              </Command.Item>
            ))}
          </Command.Group>
        )}
        {later.map((group) => (
          <Doings key={group.name} {...group} onDone={close} />
        ))}
      </Command.List>
    </Command>
  );
}

const READ_AFTER_MS = 120;

/** What an order phrase reads as, a moment after it was last typed; null for what is none. */
function useOrderReading(text: string): PhraseReading | null {
  const [reading, setReading] = useState<{ text: string; read: PhraseReading | null }>({ text: '', read: null });
  const target = useStore($target);
  const isOrder = looksLikeOrder(text);
  useEffect(() => {
    if (!isOrder) return undefined;
    let gone = false;
    const timer = setTimeout(() => void readOrder(text, target).then((read) => !gone && setReading({ text, read })), READ_AFTER_MS);
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [text, target, isOrder]);
  return isOrder && reading.text === text ? reading.read : null;
}

/** Ctrl Enter: sends where direct send is *all*, else it opens the slip as Enter does. */
function sendRead(reading: PhraseReading): void {
  const pane = $activePane.get();
  if (pane === null) return;
  for (const intent of intentsOf(reading)) act(pane, 'tables', intent);
}

interface ReadingProps {
  readonly reading: PhraseReading;
  readonly onOpen: () => void;
  readonly onSend: () => void;
  readonly onInsert: (words: string) => void;
}

function OrderReading({ reading, onOpen, onSend, onInsert }: ReadingProps) {
  return (
    <Command.Group heading={<span className="px-2 text-quiet">Order</span>}>
      <Command.Item value="order" className={`${MENU_ITEM} whitespace-normal`} onSelect={onOpen}>
        <span className="text-ink">{reading.ok ? reading.reading : (reading.error?.message ?? 'not understood')}</span>
      </Command.Item>
      {(reading.error?.expected ?? []).filter(isInsertable).map((words) => (
        <Command.Item key={words} value={`put in ${words}`} className={MENU_ITEM} onSelect={() => onInsert(words)}>
          <span className="text-ink">{words}</span>
          <span className="ml-auto text-quiet">could stand there</span>
        </Command.Item>
      ))}
      {reading.ok && (
        <Command.Item value="send" className={MENU_ITEM} onSelect={onSend}>
          <span className="text-ink">send it, as direct send is set</span>
          <kbd className="ml-auto text-quiet">Ctrl Enter</kbd>
        </Command.Item>
      )}
    </Command.Group>
  );
}

/** What was typed in this pane before: a press puts it in the bar again, and does nothing else. */
function Before({ lines, onPick }: { lines: readonly string[]; onPick: (line: string) => void }) {
  if (lines.length === 0) return null;
  return (
    <Command.Group heading={<span className="px-2 text-quiet">Typed here before</span>}>
      {lines.map((line) => (
        <Command.Item key={line} value={`before ${line}`} className={MENU_ITEM} onSelect={() => onPick(line)}>
          <span className="text-ink">{line}</span>
        </Command.Item>
      ))}
    </Command.Group>
  );
}

/** What can be opened or done by name. */
function Doings({ name, items, onDone }: { name: string; items: readonly Doing[]; onDone: () => void }) {
  if (items.length === 0) return null;
  return (
    <Command.Group heading={<span className="px-2 text-quiet">{name}</span>}>
      {items.map(({ words, about, key, run }) => (
        <Command.Item
          key={words}
          value={`${name} ${words}`}
          className={MENU_ITEM}
          onSelect={() => {
            run();
            onDone();
          }}
        >
          {words}
          {about !== undefined && <span className="ml-auto truncate text-quiet">{about}</span>}
          {key !== undefined && <kbd className={`text-quiet ${about === undefined ? 'ml-auto' : 'ml-3'}`}>{key}</kbd>}
        </Command.Item>
      ))}
    </Command.Group>
  );
}

const percentOf = (quote: ApiQuote | undefined): string => (quote?.changePercent ? signed(quote.changePercent) : '');

/** At an equal match first what is held or has orders, then what was taken here last; listings of a company stay together. */
function rank(text: string) {
  const mine = new Set([
    ...Object.values($positions.get()).flatMap((position) => (position.quantity === '0' ? [] : [position.instrument])),
    ...[...$orders.get().all.values()].map((order) => order.instrument),
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
