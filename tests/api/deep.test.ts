import { describe, expect, it } from 'vitest'
import { RULES } from '../../core/arrange/rules'
import { HAND_OVER_ROUTES, ROUTES } from '../../core/api/routes'
import { createPlacement } from '../../core/level/create'
import type { Operation, Placement } from '../../core/level/schema'
import { demoId } from '../../demo/kit'
import { change, freshId, useServer } from './support'

// As deep and as wide as a level may be: everything that is done with a level goes through it by lists, not by calls within calls.
const server = useServer()
const partId = demoId('part/Crate')
const crate = (parentId: string | null, order = 0): Placement => createPlacement({ id: freshId(), name: 'Crate', kind: 'part', partId, parentId, order })

async function levelOf(placements: readonly Placement[]): Promise<string> {
  const { id } = await server.newLevel()
  const operations = placements.map(({ id: each, ...fields }): Operation => ({ do: 'put', id: each, fields }))
  expect((await server.call('POST', `/api/levels/${id}/changes`, { baseRevision: 0, changes: [{ ...change(), operations }] })).status).toBe(200)
  return id
}

/** A chain of things, each below the one before. */
function chain(depth: number, link: (id: string, parentId: string | null) => Placement): Placement[] {
  const ids = Array.from({ length: depth }, () => freshId())
  return [...ids.map((id, i) => link(id, i > 0 ? ids[i - 1]! : null)), crate(ids.at(-1)!)]
}

async function everything(id: string): Promise<Record<string, number>> {
  const statuses: Record<string, number> = { open: (await server.call('GET', `/api/levels/${id}`)).status, check: (await server.call('GET', `/api/levels/${id}/check`)).status }
  for (const [format, route] of Object.entries(HAND_OVER_ROUTES)) {
    const response = await fetch(server.get().url + ROUTES[route].path.replace(':id', id))
    const bytes = new Uint8Array(await response.arrayBuffer())
    statuses[format] = response.status
    if (format !== 'level' && format !== 'glb') continue
    const brought = await fetch(`${server.get().url}/api/import`, { method: 'POST', headers: { 'content-type': 'application/octet-stream' }, body: bytes })
    statuses[`${format} again`] = brought.status
    if (!brought.ok) throw new Error(await brought.text())
  }
  return statuses
}

const ALL = Object.fromEntries(['open', 'check', ...Object.keys(HAND_OVER_ROUTES), 'glb again', 'level again'].map(key => [key, 200]))

describe('a level', () => {
  it('of 9,990 groups within each other', async () => {
    expect(await everything(await levelOf(chain(9990, (id, parentId) => createPlacement({ id, name: 'Group', kind: 'group', parentId, translation: [0.01, 0, 0] }))))).toEqual(ALL)
  })

  it('of 5,000 lines within each other', async () => {
    expect(await everything(await levelOf(chain(5000, (id, parentId) => createPlacement({ id, name: 'Line', kind: 'arrangement', parentId, own: { rule: { ...RULES.line.first, count: 1 } } }))))).toEqual(ALL)
  })

  it('of 150,000 things beside each other, within a line', async () => {
    const line = createPlacement({ id: freshId(), name: 'Line', kind: 'arrangement', own: { rule: { ...RULES.line.first, count: 1 } } })
    const group = createPlacement({ id: freshId(), name: 'Group', kind: 'group', parentId: line.id })
    const id = await levelOf([line, group, crate(group.id), ...Array.from({ length: 150_000 }, (_, i) => createPlacement({ id: freshId(), name: 'Crowd', kind: 'group', parentId: group.id, order: i + 1 }))])
    for (const path of ['check', 'export.glb', 'parts.csv']) expect([path, (await fetch(`${server.get().url}/api/levels/${id}/${path}`)).status]).toEqual([path, 200])
  })
})
