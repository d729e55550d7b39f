import { useState, type ReactNode } from 'react';
import { grouped, resultClass, signed } from './Figure.tsx';
import { Grid, useGrid, type GridColumn, type Sorting } from './Grid.tsx';

type More<R> = Partial<Omit<GridColumn<R>, 'head' | 'figure'>>;

/** A column of words. */
export const worded = <R,>(head: string, of: (row: R) => string, more: More<R> = {}): GridColumn<R> => ({ id: head, head, cell: of, value: of, ...more });

/**
 * A column of figures.
 *
 * @param of the exact figure; null where there is none
 * @param show what is drawn of it
 */
export const figured = <R,>(head: string, of: (row: R) => string | null, show: (text: string) => ReactNode = grouped, more: More<R> = {}): GridColumn<R> => ({
  id: head,
  head,
  figure: true,
  cell: (row) => {
    const text = of(row);
    return text === null ? '–' : show(text);
  },
  value: (row) => {
    const text = of(row);
    return text === null || Number.isNaN(Number(text)) ? undefined : Number(text);
  },
  csv: (row) => of(row) ?? '',
  ...more,
});

/** A column of results: up and down in their inks. */
export const resulting = <R,>(head: string, of: (row: R) => string | null, show: (text: string) => ReactNode = signed, more: More<R> = {}): GridColumn<R> =>
  figured(head, of, show, { cellProps: (row) => ({ className: resultClass(of(row) ?? '') }), ...more });

interface Props<R> {
  /** Its accessible name, and that of the file it is saved as. */
  readonly name: string;
  readonly rows: readonly R[];
  readonly columns: readonly GridColumn<R>[];
  readonly keyOf: (row: R) => string;
  /** What is said where there are no rows. */
  readonly empty?: ReactNode;
  /** A table to choose or read from, with nothing to sort or save. */
  readonly plain?: true;
  readonly rowProps?: (row: R) => { readonly className?: string };
  readonly className?: string;
}

/** A page's table: as high as its rows, sorted by its heads, saved from its menu. */
export function Table<R>({ name, rows, columns, keyOf, empty = 'None.', plain, rowProps, className = '' }: Props<R>) {
  const [sorting, onSorting] = useState<Sorting>([]);
  const grid = useGrid({ rows, of: name, columns, keyOf, moves: true, ...(plain ? {} : { sorting, onSorting }) });
  return <Grid {...{ grid, name, empty, className }} menu={!plain} {...(rowProps ? { rowProps } : {})} />;
}
