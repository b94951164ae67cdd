import { readFileSync } from 'node:fs'
import { expect, it } from 'vitest'
import { KIND_NAMES } from '../../core/level/kinds'

it('every kind of placement is one that the database takes', () => {
  const snapshots = JSON.parse(readFileSync('server/db/migrations/meta/_journal.json', 'utf8')) as {
    entries: { idx: number }[]
  }
  const last = JSON.parse(
    readFileSync(
      `server/db/migrations/meta/${String(snapshots.entries.length - 1).padStart(4, '0')}_snapshot.json`,
      'utf8',
    ),
  ) as { tables: Record<string, { checkConstraints: Record<string, { value: string }> }> }
  const { value } = last.tables['public.placements']!.checkConstraints.placements_kind_known!
  expect(value).toContain(`in (${KIND_NAMES.map(kind => `'${kind}'`).join(', ')})`)
})
