import Papa from 'papaparse';

/** What of a column is saved: its head, and its values as they are. */
interface SavedColumn<R> {
  readonly head: string;
  readonly value?: (row: R) => string | number | undefined;
  readonly csv?: (row: R) => string;
}

/** What a spreadsheet would take for a formula; a negative number is none. */
const FORMULA = /^(?:[=+@\t\r]|-(?!\d))/;

/** Rows as CSV, with the columns' heads: values as they are, not as they are drawn. */
export function gridCsv<R>(columns: readonly SavedColumn<R>[], rows: readonly R[]): string {
  const saved = columns.filter((column) => column.csv ?? column.value);
  const lines = rows.map((row) => saved.map((column) => column.csv?.(row) ?? String(column.value?.(row) ?? '')));
  return Papa.unparse({ fields: saved.map(({ head }) => head), data: lines }, { newline: '\r\n', escapeFormulae: FORMULA });
}
