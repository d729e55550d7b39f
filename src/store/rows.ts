import type { QueryInterface, QueryOptions } from 'sequelize';

/** What becomes of a row whose key is there already: it is left, or these columns of it are written anew. */
type Again = 'left' | { readonly key: readonly string[]; readonly anew: readonly string[] };

/** Writes rows in one statement, which is one commit. No model is made of them: that costs more than the row. */
export async function putRows(tables: QueryInterface, table: string, rows: readonly object[], again: Again): Promise<void> {
  if (rows.length === 0) return;
  const options = again === 'left' ? { ignoreDuplicates: true } : { upsertKeys: again.key, updateOnDuplicate: again.anew };
  await tables.bulkInsert(table, [...rows], options as QueryOptions);
}
