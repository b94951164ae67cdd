import { describe, expect, it } from 'vitest'
import { RULES } from '../../core/arrange/rules'
import { HAND_OVER_ROUTES, ROUTES } from '../../core/api/routes'
import type { FormatName } from '../../core/formats/formats'
import { FORMAT_NAMES } from '../../core/formats/formats'
import { createPlacement } from '../../core/level/create'
import type { Operation, Placement } from '../../core/level/schema'
import { demoId } from '../../demo/kit'
import { change, freshId, useServer } from './support'

// As deep as a level may be: everything that is done with a level goes through it by lists, not by calls within calls.
const server = useServer()
const partId = demoId('part/Crate')
const crate = (parentId: string | null, order = 0): Placement =>
  createPlacement({ id: freshId(), name: 'Crate', kind: 'part', partId, parentId, order })

async function levelOf(placements: readonly Placement[]): Promise<string> {
  const { id } = await server.newLevel()
  const operations = placements.map(({ id: each, ...fields }): Operation => ({ do: 'put', id: each, fields }))
  expect(
    (
      await server.call('POST', `/api/levels/${id}/changes`, {
        baseRevision: 0,
        changes: [{ ...change(), operations }],
      })
    ).status,
  ).toBe(200)
  return id
}

/** A chain of things, each below the one before. */
function chain(depth: number, link: (id: string, parentId: string | null) => Placement): Placement[] {
  const ids = Array.from({ length: depth }, () => freshId())
  return [...ids.map((id, i) => link(id, i > 0 ? ids[i - 1]! : null)), crate(ids.at(-1)!)]
}

async function everything(id: string, formats: readonly FormatName[] = FORMAT_NAMES): Promise<Record<string, number>> {
  const statuses: Record<string, number> = { open: (await server.call('GET', `/api/levels/${id}`)).status }
  for (const format of formats) {
    const route = HAND_OVER_ROUTES[format]
    const response = await fetch(server.get().url + ROUTES[route].path.replace(':id', id))
    const bytes = new Uint8Array(await response.arrayBuffer())
    statuses[format] = response.status
    if (format !== 'level' && format !== 'glb') continue
    const brought = await fetch(`${server.get().url}/api/import`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: bytes,
    })
    statuses[`${format} again`] = brought.status
    if (!brought.ok) throw new Error(await brought.text())
  }
  return statuses
}

const good = (statuses: Record<string, number>) => Object.fromEntries(Object.keys(statuses).map(key => [key, 200]))

describe('a level', () => {
  it('of 9,990 groups within each other', async () => {
    const statuses = await everything(
      await levelOf(
        chain(9990, (id, parentId) =>
          createPlacement({ id, name: 'Group', kind: 'group', parentId, translation: [0.01, 0, 0] }),
        ),
      ),
      ['svg', 'table', 'level'],
    )
    expect(statuses).toEqual(good(statuses))
  })

  it('of 1,200 lines within each other', async () => {
    const id = await levelOf(
      chain(1200, (id, parentId) =>
        createPlacement({
          id,
          name: 'Line',
          kind: 'arrangement',
          parentId,
          own: { rule: { ...RULES.line.first, count: 1 } },
        }),
      ),
    )
    expect((await server.call('GET', `/api/levels/${id}/check`)).status).toBe(200)
    const statuses = await everything(id)
    expect(statuses).toEqual(good(statuses))
  })
})
