import type { InferSelectModel } from 'drizzle-orm'
import { getTableColumns, sql } from 'drizzle-orm'
import type { PgTable } from 'drizzle-orm/pg-core'
import type { OnShare } from '../../core/formats/out/share'
import type { Transaction } from './client'

/** Rows that go in one statement; a megabyte of JSON. */
const ROWS = 2000

/**
 * Writes rows of a table, in place of those that have the same level and id. All rows of a statement go as one JSON
 * text, which the database takes apart: a parameter for each number took three times as long in all, most of it for
 * writing the statement. While the database puts some in, the next are written.
 */
export async function putRows<T extends PgTable>(
  tx: Transaction,
  table: T,
  rows: readonly InferSelectModel<T>[],
  onShare: OnShare = () => {},
): Promise<void> {
  const columns = Object.entries(getTableColumns(table))
  const names = sql.join(
    columns.map(([, { name }]) => sql.identifier(name)),
    sql`, `,
  )
  const updates = sql.join(
    columns
      .filter(([key]) => key !== 'levelId' && key !== 'id')
      .map(([, { name }]) => sql`${sql.identifier(name)} = excluded.${sql.identifier(name)}`),
    sql`, `,
  )
  let written: Promise<unknown> = Promise.resolve()
  for (let i = 0; i < rows.length; i += ROWS) {
    const json = JSON.stringify(
      rows
        .slice(i, i + ROWS)
        .map(row => Object.fromEntries(columns.map(([key, { name }]) => [name, row[key as keyof typeof row]]))),
    )
    await written
    onShare(i / rows.length)
    written = tx
      .execute(
        sql`insert into ${table} (${names}) select ${names} from json_populate_recordset(null::${table}, ${json}::json) on conflict (level_id, id) do update set ${updates}`,
      )
      .then(() => {})
  }
  await written
}
