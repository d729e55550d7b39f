/** One text for values that mean the same: keys in order, what is undefined left out, exact integers as their digits. */
export function canonical(value: unknown): string {
  if (typeof value === 'bigint') return `${value.toString()}n`;
  if (value === null || typeof value !== 'object') return JSON.stringify(value) ?? 'null';
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  const parts = Object.entries(value)
    .filter(([, part]) => part !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${parts.map(([key, part]) => `${JSON.stringify(key)}:${canonical(part)}`).join(',')}}`;
}
