/** JSON that carries exact integers of any size: a bigint is kept as `{"#":"123"}`. */
export const toText = (value: unknown): string => JSON.stringify(value, (_key, part: unknown) => (typeof part === 'bigint' ? { '#': part.toString() } : part));

export const fromText = (text: string): unknown => (text.includes('"#"') ? JSON.parse(text, revive) : JSON.parse(text)) as unknown;

const revive = (_key: string, part: unknown): unknown =>
  part !== null && typeof part === 'object' && '#' in part ? BigInt((part as { '#': string })['#']) : part;
