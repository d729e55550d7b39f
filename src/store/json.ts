/** JSON that carries exact integers of any size: a bigint is kept as `{"#":"123"}`. */
export const toJson = (value: unknown): string => JSON.stringify(value, (_key, part: unknown) => (typeof part === 'bigint' ? { '#': part.toString() } : part));

export const fromJson = (text: string): unknown =>
  JSON.parse(text, (_key, part: unknown) => {
    if (part !== null && typeof part === 'object' && '#' in part) return BigInt((part as { '#': string })['#']);
    return part;
  });
