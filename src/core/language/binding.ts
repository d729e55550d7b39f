import { parseOrder, printOrder } from './order-phrase.ts';
import type { PhraseError } from './tokens.ts';

/** A key with what it does: an order phrase, or a command by its name. */
export interface Binding {
  /** As it is written: `Space B`, `Space Shift F`, `F13`, `Numpad 1`, `Ctrl K`. */
  readonly key: string;
  readonly phrase: string | null;
  readonly command: string | null;
  /** The key sets it is in; in all where it names none. */
  readonly sets: readonly string[];
}

/** Why a binding can't be: at which of its fields, in words, and where it is the phrase, where in it. */
export interface BindingProblem {
  readonly field: 'key' | 'phrase' | 'command';
  readonly message: string;
  readonly at?: PhraseError;
}

const NAMED = new Set('Enter Escape Tab Backspace Delete Insert Home End PageUp PageDown ArrowUp ArrowDown ArrowLeft ArrowRight Space'.split(' '));
const MODIFIERS = ['Ctrl', 'Alt', 'Shift'] as const;
/** What a browser or a system keeps for itself, whatever is held with it. */
const KEPT = new Set(['F1', 'F3', 'F5', 'F6', 'F7', 'F10', 'F11', 'F12', 'AltGr', 'ContextMenu', 'CapsLock', 'PrintScreen', 'ScrollLock', 'Pause']);
const KEPT_WITH_CTRL = new Set([...'TNWQRPFLDJHUOS', 'Tab', ...'0123456789', '+', '-']);

/** The canonical spelling of a key: modifiers in one order, a letter in capitals; null where it is none. */
export function keyName(text: string): string | null {
  // A plus between words joins them; one that stands alone is a key.
  const parts = text.trim().split(/ +|(?<=\w)\+(?=\w)/);
  const layer = parts[0]?.toLowerCase() === 'space' && parts.length > 1;
  const rest = layer ? parts.slice(1) : parts;
  const numpad = rest[rest.length - 2]?.toLowerCase() === 'numpad';
  const last = rest[rest.length - 1] ?? '';
  const held = rest.slice(0, numpad ? -2 : -1).map((one) => MODIFIERS.find((modifier) => modifier.toLowerCase() === one.toLowerCase()));
  if (held.some((one) => one === undefined) || new Set(held).size !== held.length) return null;
  const base = numpad ? numpadKey(last) : baseKey(last);
  if (base === null) return null;
  return [...(layer ? ['Space'] : []), ...MODIFIERS.filter((one) => held.includes(one)), base].join(' ');
}

function baseKey(text: string): string | null {
  if (/^f([1-9]|1\d|2[0-4])$/i.test(text)) return text.toUpperCase();
  if ([...text].length === 1) return text.toUpperCase();
  return [...NAMED, ...KEPT].find((one) => one.toLowerCase() === text.toLowerCase()) ?? null;
}

const numpadKey = (text: string): string | null =>
  /^[0-9+\-*/.]$/.test(text) || /^enter$/i.test(text) ? `Numpad ${/^enter$/i.test(text) ? 'Enter' : text}` : null;

/** Why a key can't do what it is to do; null where it can. An order has the layer, F13 to F24 and the number pad. */
export function keyProblem(name: string, sends: boolean): string | null {
  const parts = name.split(' ');
  const layer = parts[0] === 'Space' && parts.length > 1;
  const rest = layer ? parts.slice(1) : parts;
  const numpad = rest.includes('Numpad');
  const base = rest[rest.length - 1] ?? '';
  if (!numpad && KEPT.has(base)) return `${base} is kept by the browser or the system`;
  if (rest.includes('Alt') && (rest.length === 1 || /^[A-Z]$/.test(base))) return 'Alt with a letter belongs to the browser’s menus';
  if (rest.includes('Ctrl') && KEPT_WITH_CTRL.has(base)) return `Ctrl ${base} is kept by the browser`;
  if (layer) return /^(Escape|Space|ArrowUp|ArrowDown)$/.test(base) && !numpad ? `${base} has its own use in the order layer` : null;
  const own = numpad || /^F(1[3-9]|2[0-4])$/.test(base);
  if (sends && !own) return 'outside the order layer only F13 to F24 and the number pad can send: hold Space with it';
  return null;
}

/** What is wrong with a binding; null where nothing is. */
export function bindingProblem({ key, phrase, command }: Binding): BindingProblem | null {
  const name = keyName(key);
  if (name === null) return { field: 'key', message: `${key} is no key; accepted: Space B, Space Shift F, F13, Numpad 1, Ctrl K` };
  if ((phrase === null) === (command === null)) return { field: 'phrase', message: 'a key does one thing: a phrase or a command' };
  if (phrase !== null) {
    const parsed = parseOrder(phrase);
    if (!parsed.ok) return { field: 'phrase', message: parsed.error.message, at: parsed.error };
  }
  const reason = keyProblem(name, phrase !== null);
  return reason === null ? null : { field: 'key', message: reason };
}

/** A binding as it is kept: key and phrase in their canonical form. */
export function canonicalBinding(binding: Binding): Binding {
  const parsed = binding.phrase === null ? null : parseOrder(binding.phrase);
  return { ...binding, key: keyName(binding.key) ?? binding.key, phrase: parsed?.ok ? printOrder(parsed.value) : binding.phrase };
}

/** What Kavix brings along in the order layer, by key. */
export const BROUGHT_KEYS: Readonly<Record<string, string>> = {
  'Space B': 'buy',
  'Space S': 'sell',
  'Space T': 'take',
  'Space H': 'hit',
  'Space J': 'join',
  'Space O': 'offer',
  'Space C': 'close',
  'Space R': 'reverse',
  'Space E': 'even',
  'Space K': 'size from risk',
  'Space X': 'cancel',
  'Space F': 'flatten',
  'Space Shift F': 'flatten all',
  'Space 0': 'position',
  ...Object.fromEntries([...'123456789'].map((digit) => [`Space ${digit}`, `size ${digit}`])),
};

const FREE_KEYS = [
  ...[...'QWERTYUIOPASDFGHJKLZXCVBNM'].map((letter) => `Space ${letter}`).filter((key) => !(key in BROUGHT_KEYS)),
  ...Array.from({ length: 12 }, (_, i) => `F${13 + i}`),
];

/** A key beside one that is taken: the next that nothing has, and that brings nothing along. */
export const freeKey = (taken: ReadonlySet<string>): string | null => FREE_KEYS.find((key) => !taken.has(key)) ?? null;
