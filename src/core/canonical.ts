/** One text for values that mean the same: keys in order, what is undefined left out, exact integers as their digits. */
export function canonical(value: unknown): string {
  if (typeof value === 'bigint') return `${value.toString()}n`;
  if (value === null || typeof value !== 'object') return JSON.stringify(value) ?? 'null';
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  let text = '';
  for (const key of Object.keys(value).sort()) {
    const part = (value as Record<string, unknown>)[key];
    if (part !== undefined) text += `${text === '' ? '' : ','}${JSON.stringify(key)}:${canonical(part)}`;
  }
  return `{${text}}`;
}
