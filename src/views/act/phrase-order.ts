import { answer } from '../../client/answers.ts';
import { act, openSlip, type GestureIntent } from '../../client/gestures/index.ts';
import { stopsToEven } from '../../client/layer-acts.ts';
import { evenAsked, intentsOf, type PhraseReading } from '../../client/phrase-acts.ts';
import { readHere } from '../../client/order-reading.ts';
import type { Surface } from '../../client/session.ts';
import { $positions, $working, NO_ORDERS, instrumentOf, positionKey, request } from '../../live/index.ts';
import type { Target } from '../workspace/panes.ts';

/** A phrase as it reads now for a target: here, else by the server; null where no answer came. */
export async function readOrder(phrase: string, target: Target | null): Promise<PhraseReading | null> {
  const here = target && readHere(phrase, target);
  if (here) return here;
  const body = { phrase, ...(target ? { account: target.account, instrument: target.instrument } : {}) };
  const done = await request('POST /api/phrases/order', { body });
  return done.ok ? done.value : null;
}

/** The same of several: what can't be read here is asked in one call, and null where that has no answer. */
export async function readOrders(phrases: readonly string[], target: Target): Promise<readonly (PhraseReading | null)[]> {
  const { account, instrument } = target;
  const here = phrases.map((phrase) => readHere(phrase, target));
  const rest = phrases.filter((_, i) => here[i] === null);
  if (rest.length === 0) return here;
  const done = await request('POST /api/phrases/orders', { body: { phrases: rest, account, instrument } });
  const answers = done.ok ? [...done.value.items] : [];
  return here.map((one) => one ?? answers.shift() ?? null);
}

/** What a phrase that was read says, in words: what it would do now, or why not. */
export const readingWords = ({ ok, reading, error }: PhraseReading): string => (ok ? (reading ?? '') : (error?.message ?? ''));

/** Does what a phrase says, as direct send is set for where it was asked; what can't be is said in the pane. */
export async function doPhrase(pane: string, from: Surface, phrase: string, target: Target): Promise<void> {
  const read = await readOrder(phrase, target);
  if (!read) return answer(pane, 'refused', `${phrase}: nobody could say what it would do now`);
  if (!read.ok) return answer(pane, 'refused', `${phrase}: ${read.error?.message ?? 'not understood'}`);
  const even = evenAsked(read);
  const intents = even ? evenIntents(even) : intentsOf(read);
  if (typeof intents === 'string') return answer(pane, 'refused', intents);
  for (const intent of intents) act(pane, from, intent);
}

/** The changes that bring a position's stops to break-even, or in words why there are none. */
function evenIntents({ account, instrument: id, plusTicks }: NonNullable<ReturnType<typeof evenAsked>>): readonly GestureIntent[] | string {
  const instrument = instrumentOf(id);
  if (!instrument) return `${id} is not known`;
  const working = ($working.get()[id] ?? NO_ORDERS).filter((order) => order.account === account);
  const { words, does } = stopsToEven({ instrument, position: $positions.get()[positionKey(account, id)], working }, plusTicks);
  return does ? does.intents : words;
}

/** Opens the slip with the order that a phrase reads as; an act is none, and says how it goes. */
export function openRead(pane: string, reading: PhraseReading): void {
  const [intent] = intentsOf(reading);
  if (intent?.kind === 'place') openSlip(pane, intent.wish);
  else answer(pane, 'refused', 'that is no order for the slip: Ctrl Enter does it');
}
