/** One measured figure, with the baseline of the same run it is told against. */
export interface Figure {
  readonly what: string;
  readonly value: string;
  readonly baseline: string;
  readonly ratio: string;
  readonly wanted: string;
}

export const percentile = (values: readonly number[], share: number): number => {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? NaN;
};

export const ms = (value: number): string => `${value.toFixed(2)} ms`;
export const times = (value: number): string => `${value.toFixed(2)}×`;

export function printTable(figures: readonly Figure[]): void {
  const columns = ['what', 'value', 'baseline', 'ratio', 'wanted'] as const;
  const rows = [Object.fromEntries(columns.map((name) => [name, name])) as unknown as Figure, ...figures];
  const widths = columns.map((name) => Math.max(...rows.map((row) => row[name].length)));
  for (const row of rows) process.stdout.write(`${columns.map((name, i) => row[name].padEnd(widths[i] ?? 0)).join('  ')}\n`);
}
