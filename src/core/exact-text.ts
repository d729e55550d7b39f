/**
 * JSON that carries exact integers of any size: a bigint is kept as `{"#":"123"}`. Written by hand, as plain data needs it:
 * JSON.stringify with a replacer takes twice as long, and each entry of the log goes through here.
 */
export function toText(value: unknown): string {
  switch (typeof value) {
    case 'bigint':
      return `{"#":"${value}"}`;
    case 'number':
      return Number.isFinite(value) ? String(value) : 'null';
    case 'boolean':
      return value ? 'true' : 'false';
    case 'object':
      if (value === null) return 'null';
      return Array.isArray(value) ? listText(value) : objectText(value as Readonly<Record<string, unknown>>);
    default:
      return JSON.stringify(value);
  }
}

function listText(list: readonly unknown[]): string {
  let text = '';
  for (const part of list) text += (text === '' ? '' : ',') + (part === undefined ? 'null' : toText(part));
  return `[${text}]`;
}

function objectText(object: Readonly<Record<string, unknown>>): string {
  let text = '';
  for (const key of Object.keys(object)) {
    const part = object[key];
    if (part !== undefined) text += (text === '' ? '' : ',') + keyText(key) + ':' + toText(part);
  }
  return `{${text}}`;
}

/** The names of what is written are few, and each is written often. */
const keyTexts = new Map<string, string>();
const MOST_KEPT = 4096;

function keyText(key: string): string {
  const known = keyTexts.get(key);
  if (known !== undefined) return known;
  const text = JSON.stringify(key);
  if (keyTexts.size < MOST_KEPT) keyTexts.set(key, text);
  return text;
}

export const fromText = (text: string): unknown => {
  const value: unknown = JSON.parse(text);
  return text.includes('"#"') ? revived(value) : value;
};

/** Puts the integers back in place: JSON.parse with a reviver takes several times as long. */
function revived(value: unknown): unknown {
  if (value === null || typeof value !== 'object') return value;
  if ('#' in value) return BigInt(value['#'] as string);
  const parts = value as Record<string, unknown>;
  for (const key of Object.keys(parts)) {
    const part = parts[key];
    if (part !== null && typeof part === 'object') parts[key] = revived(part);
  }
  return value;
}
