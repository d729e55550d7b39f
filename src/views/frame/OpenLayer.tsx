import { useStore } from '@nanostores/react';
import { useEffect, useReducer, useRef, useState, type ReactNode } from 'react';
import { answer } from '../../client/answers.ts';
import { $bindings, boundChord } from '../../client/bindings.ts';
import { $slip, submit, type GestureIntent } from '../../client/gestures/index.ts';
import { type Command } from '../../client/keys.ts';
import { layerActs, type LayerAct, type LayerFacts } from '../../client/layer-acts.ts';
import { readHere } from '../../client/order-reading.ts';
import { $riskAmounts, sizeAtRisk, type SizeAtRisk } from '../../client/risk-size.ts';
import type { PhraseReading } from '../../client/phrase-acts.ts';
import { $sizes, setSize, sizeKeys, sizeOf } from '../../client/session.ts';
import { addTicks, asPrice, formatPrice, type Price } from '../../core/instrument/index.ts';
import type { Ghost } from '../../core/orders/index.ts';
import { paintNoMore, paintSoon } from '../../kit/pace.ts';
import { grouped } from '../../kit/Figure.tsx';
import { $accounts, $positions, $risk, $working, NO_ORDERS, followQuote, instrumentOf, positionKey, quoteOf, type ApiPlan } from '../../live/index.ts';
import { $aimed } from '../act/order-area.ts';
import { usePlatePlan } from '../act/queries.tsx';
import { doPhrase, readOrders, readingWords } from '../act/phrase-order.ts';
import { $panes, $target, changedAt, surfaceOf, type Target } from '../workspace/panes.ts';
import { boundNow, closeLayer, layerKeys, type Layer } from './layer.ts';

/** Without a key for so long the layer closes by itself; a latched one after as long. */
const IDLE_MS = 4000;
/** Darker by 30 %, letters and ground alike: what is said there can still be read. */
const DIMMED = 'brightness(0.7)';
const RISK_KEY = 'k';

function factsOf({ account, instrument }: Target, aim: Price | null): LayerFacts | null {
  const spec = instrumentOf(instrument);
  const market = quoteOf(instrument);
  if (!spec || !market) return null;
  return {
    account,
    instrument: spec,
    size: sizeOf(account, instrument),
    market,
    aim,
    position: $positions.get()[positionKey(account, instrument)],
    working: $working.get()[`${account} ${instrument}`] ?? NO_ORDERS,
    through: 0,
  };
}

/** The size that risks the chosen money with the plan on the plate: of a buy at the aim or, above the market, of a sell; without an aim of a buy at the ask. */
function sizeByRisk({ account, instrument, market, aim }: LayerFacts, plan: ApiPlan | null): SizeAtRisk | null {
  const known = $accounts.get()[account];
  const entry = aim ?? market.ask;
  if (!known || entry === null) return null;
  const side = market.ask === null || entry <= market.ask ? 'buy' : 'sell';
  const [amount, left] = [$riskAmounts.get()[account] ?? null, $risk.get()[account]?.left ?? null];
  return sizeAtRisk({ account: known, instrument, side, entry, plan, amount, left }, (phrase) => readHere(phrase, { account, instrument: instrument.id }));
}

/** The layer while it is held: what each key would do, by what is painted now. */
export function OpenLayer({ target, latched }: Layer) {
  const [, look] = useReducer((n: number) => n + 1, 0);
  useStore($positions);
  useStore($working);
  useStore($sizes);
  const aimed = useStore($aimed);
  const [walked, setWalked] = useState<Price | null>(null);
  const kind = $panes.get()[target.pane]?.kind;
  const surface = kind ? surfaceOf(kind) : 'tables';
  const quote = quoteOf(target.instrument);
  const pointed = aimed?.pane === target.pane ? aimed.price : null;
  const aim = walked ?? pointed;
  const facts = factsOf(target, aim);
  const acts = facts ? layerActs(facts) : [];
  // What is on the strip is what a press is held to.
  const painted = useRef(acts);
  useEffect(() => {
    painted.current = acts;
  });
  const idle = useRef<ReturnType<typeof setTimeout> | null>(null);
  const alive = (): void => {
    if (idle.current) clearTimeout(idle.current);
    idle.current = setTimeout(closeLayer, IDLE_MS);
  };
  useEffect(() => followQuote(target.instrument, () => look()), [target.instrument]);
  useEffect(() => {
    alive();
    const offSlip = $slip.listen((slip) => slip && closeLayer());
    const offTarget = $target.listen((now) => (now?.pane !== target.pane || now.instrument !== target.instrument) && closeLayer());
    const others = [...document.querySelectorAll<HTMLElement>('[data-pane]')].filter((pane) => pane.dataset['pane'] !== target.pane);
    for (const pane of others) pane.style.filter = DIMMED;
    return () => {
      offSlip();
      offTarget();
      if (idle.current) clearTimeout(idle.current);
      for (const pane of others) pane.style.removeProperty('filter');
    };
  }, [target]);

  const send = (act: LayerAct): void => {
    alive();
    const now = factsOf(target, aim);
    const present = now ? layerActs(now).find(({ key }) => key === act.key) : undefined;
    const shown = painted.current.find(({ key }) => key === act.key);
    if (!present?.does) return answer(target.pane, 'refused', present?.words ?? 'no price to tell by');
    for (const intent of present.does.intents) submitAct(intent, shown?.does?.ghost ?? null, present.does.ghost);
    if (latched) closeLayer();
  };
  const submitAct = (intent: GestureIntent, before: Ghost | null, present: Ghost | null): void => {
    const evidence = present && {
      changedAt: changedAt.get(target.pane) ?? -Infinity,
      key: `${target.pane} ${target.instrument} ${present.side} ${present.price}`,
      painted: before,
      present,
      reason: null,
    };
    submit({ pane: target.pane, from: surface, intent, evidence });
  };
  const walk = (ticks: number): void => {
    alive();
    const from = aim ?? quote?.last ?? quote?.bid ?? null;
    if (facts && from !== null) setWalked(asPrice(Math.max(1, addTicks(facts.instrument, from, ticks))));
  };
  const spec = facts?.instrument;
  const plan = usePlatePlan(target.account, target.instrument);
  const atRisk = facts ? sizeByRisk(facts, plan) : null;
  const sizes = spec ? sizeKeys(spec) : [];
  const held = facts?.position?.quantity.replace('-', '') ?? '0';
  const size = (text: string): void => {
    alive();
    if (!setSize(target.account, target.instrument, text)) answer(target.pane, 'refused', `${text} is no size of ${target.instrument}`);
  };
  const commands: readonly Command[] = [
    ...acts.map((act): Command => ({ keys: [act.key], words: `${act.name}: ${act.words}`, cannot: () => (act.does ? null : act.words), run: () => send(act) })),
    ...sizes.map((text, i): Command => ({ keys: [String(i + 1)], words: `size ${text}`, run: () => size(text) })),
    { keys: ['0'], words: 'the position’s quantity', cannot: () => (held === '0' ? 'no position' : null), run: () => size(held) },
    {
      keys: [RISK_KEY],
      words: 'the size that risks the chosen money',
      cannot: () => (atRisk?.quantity ? null : (atRisk?.words ?? 'no price to tell by')),
      run: () => atRisk?.quantity && size(atRisk.quantity),
    },
    { keys: ['ArrowUp'], words: 'aim a tick higher', repeats: true, run: () => walk(1) },
    { keys: ['ArrowDown'], words: 'aim a tick lower', repeats: true, run: () => walk(-1) },
    { keys: ['Shift+ArrowUp'], words: 'aim ten ticks higher', repeats: true, run: () => walk(10) },
    { keys: ['Shift+ArrowDown'], words: 'aim ten ticks lower', repeats: true, run: () => walk(-10) },
    { keys: ['Escape'], words: 'leave the order layer', run: closeLayer },
    { keys: ['Space'], words: 'held', run: () => undefined },
  ];
  useStore($bindings);
  const bound = boundNow().flatMap(({ key, phrase }) => {
    const { layer: mine, chord } = boundChord(key);
    return mine && phrase ? [{ key, chord, phrase }] : [];
  });
  const own: readonly Command[] = bound.map(({ chord, phrase }) => ({
    keys: [chord],
    words: phrase,
    run: () => {
      alive();
      void doPhrase(target.pane, surface, phrase, target);
      if (latched) closeLayer();
    },
  }));
  useEffect(() => {
    // What the trader bound comes before what Kavix brings.
    layerKeys.now = [...own, ...commands.filter(({ keys: chords }) => !chords.some((chord) => bound.some((one) => one.chord === chord)))];
  });
  useEffect(() => () => void (layerKeys.now = []), []);
  return (
    <section role="status" aria-label="Order layer" data-testid="order-layer" className="[&_*]:text-letters">
      <div className="fixed inset-x-0 top-0 z-40 flex h-[36px] items-stretch gap-3 bg-lamp px-2">
        <p className="flex w-[148px] shrink-0 flex-col justify-center truncate text-[12px] leading-[16px]">
          <span className="truncate">
            <b>{target.instrument}</b> {target.account}
          </span>
          <span>
            <b className="figure">{facts?.size}</b> · {latched ? 'one order' : aim === null || !spec ? 'no aim: ↑ ↓' : `aim ${formatPrice(spec, aim)}`}
          </span>
        </p>
        <ul className="grid min-w-0 flex-1 grid-cols-6 content-center gap-x-3 text-[12px] leading-[17px]">
          {acts.map(({ key, name, words, does }) => (
            <li key={key} className={`truncate ${does ? '' : 'opacity-70'}`} title={words}>
              <Key>{key.replace('Shift+', '⇧').toUpperCase()}</Key>
              <b>{name}</b> {words}
            </li>
          ))}
        </ul>
      </div>
      <p className="fixed left-[7px] top-[39px] z-40 h-[26px] w-[320px] overflow-hidden whitespace-nowrap rounded-[2px] bg-lamp px-1 text-[11px] leading-[26px]">
        {sizes.map((text, i) => (
          <span key={text} className="mr-[2px]">
            <Key>{i + 1}</Key>
            {shortSize(text)}
          </span>
        ))}
        <Key>0</Key>
        {held === '0' ? 'pos' : held}
      </p>
      <div className="fixed left-[331px] right-[7px] top-[39px] z-40 min-h-[26px] rounded-[2px] bg-lamp px-1 py-[4px] text-[12px] leading-[18px]">
        <p className="truncate" data-testid="size-at-risk">
          <Key>{RISK_KEY.toUpperCase()}</Key>
          <b>size from risk</b> {atRisk?.quantity ? `${grouped(atRisk.quantity)}: ` : ''}
          {atRisk?.words}
        </p>
        {bound.length > 0 && <BoundKeys bound={bound} target={target} />}
      </div>
    </section>
  );
}

const READ_EVERY_MS = 500;

/** The keys that the trader bound, each with what it would do now. */
function BoundKeys({ bound, target }: { bound: readonly { readonly key: string; readonly phrase: string }[]; target: Target }) {
  const [words, setWords] = useState<Readonly<Record<string, string>>>({});
  const phrases = bound.map(({ phrase }) => phrase).join('\n');
  useEffect(() => {
    let gone = false;
    const asked = phrases.split('\n');
    const say = (read: readonly (PhraseReading | null)[], none: string | null): void => {
      if (gone) return;
      const said = asked.flatMap((phrase, i) => {
        const text = read[i] ? readingWords(read[i]) : none;
        return text === null ? [] : [[phrase, text] as const];
      });
      setWords((known) => ({ ...known, ...Object.fromEntries(said) }));
    };
    const look = (): void =>
      say(
        asked.map((phrase) => readHere(phrase, target)),
        null,
      );
    // What can't be read here is asked now and then; all else moves with the book.
    const ask = async (): Promise<void> => say(await readOrders(asked, target), 'no answer');
    void ask();
    const timer = setInterval(() => void ask(), READ_EVERY_MS);
    const key = {};
    const stop = followQuote(target.instrument, () => paintSoon(key, look));
    return () => {
      gone = true;
      clearInterval(timer);
      stop();
      paintNoMore(key);
    };
  }, [phrases, target]);
  return (
    <ul className="grid grid-cols-3 gap-x-3">
      {bound.map(({ key, phrase }) => (
        <li key={key} className="truncate" title={words[phrase] ?? phrase}>
          <Key>{key.replace('Space ', '').replace('Shift ', '⇧')}</Key>
          {words[phrase] ?? phrase}
        </li>
      ))}
    </ul>
  );
}

const Key = ({ children }: { children: ReactNode }) => (
  <kbd className="mr-[2px] inline-block min-w-[13px] rounded-[2px] border border-current text-center text-[10px] leading-[13px]">{children}</kbd>
);

/** A size in little room; the exact one is what is set. */
const shortSize = (text: string): string => (text.endsWith('000') ? `${text.slice(0, -3)}k` : text);
