/** One page of a list in rising order of `seq`: newest without a cursor, else the ones after or before it. */
export function page<T extends { readonly seq: number }>(
  all: readonly T[],
  ask: { readonly before: number | null; readonly after: number | null; readonly limit: number },
): { items: T[]; more: boolean } {
  const { before, after, limit } = ask;
  if (after !== null) {
    const rest = all.filter((item) => item.seq > after);
    const items = rest.slice(0, limit);
    return { items, more: items.length > 0 && (all[0]?.seq ?? 0) < (items[0]?.seq ?? 0) };
  }
  const older = before === null ? all : all.filter((item) => item.seq < before);
  const items = older.slice(-limit);
  return { items, more: items.length < older.length };
}
