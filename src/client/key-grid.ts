/** What a grid of keys is made of: every side with every size at every price. */
export interface GridWish {
  readonly sides: readonly ('buy' | 'sell')[];
  readonly sizes: readonly string[];
  /** What follows the size: `at bid`, `at ask + 1 tick`, `stop ask + 5 ticks`. */
  readonly prices: readonly string[];
  /** In the order they are given out, as a row of a keyboard. */
  readonly keys: readonly string[];
  /** What is held with each. */
  readonly held: readonly ('Space' | 'Shift' | 'Ctrl')[];
}

export interface GridKey {
  readonly key: string;
  readonly phrase: string;
}

/** Rows of the keyboard that can be given out, by name. */
export const KEY_ROWS = {
  'number row': [...'1234567890'],
  'top row': [...'QWERTYUIOP'],
  'home row': [...'ASDFGHJKL'],
  'bottom row': [...'ZXCVBNM'],
  'number pad': ['7', '8', '9', '4', '5', '6', '1', '2', '3', '0', '.', '+', '-', '*', '/'].map((sign) => `Numpad ${sign}`),
  'F13 to F24': Array.from({ length: 12 }, (_, i) => `F${13 + i}`),
} as const;
export type KeyRow = keyof typeof KEY_ROWS;

/** Every phrase of a grid: side by side, in each price by price, in each size by size. */
export const phrasesOf = ({ sides, sizes, prices }: GridWish): string[] =>
  sides.flatMap((side) => prices.flatMap((price) => sizes.map((size) => `${side} ${size} ${price}`)));

/** A grid as it would be written: a key for each phrase while there are keys. */
export function gridOf(wish: GridWish): { readonly keys: readonly GridKey[]; readonly without: number } {
  const phrases = phrasesOf(wish);
  const keys = phrases.slice(0, wish.keys.length).map((phrase, i): GridKey => ({ key: [...wish.held, wish.keys[i]].join(' '), phrase }));
  return { keys, without: phrases.length - keys.length };
}
