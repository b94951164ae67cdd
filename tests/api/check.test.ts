import { v7 } from 'uuid'
import { describe, expect, it } from 'vitest'
import { checkAnswerSchema } from '../../core/api/schema'
import { createPlacement } from '../../core/level/create'
import type { Vec3 } from '../../core/math/vectors'
import type { Operation } from '../../core/level/schema'
import { demoId } from '../../demo/kit'
import { change, useServer } from './support'

const server = useServer()
const space = (x: number, y: number, z: number) => ({ at: [x, y, z] as Vec3, on: null, point: [x, y, z] as Vec3 })
const tape = {
  name: 'Tape 1',
  order: 0,
  hidden: false,
  kind: 'tape' as const,
  ends: [space(0, 0, 0), space(1, 0, 0)],
  sides: [],
  connected: false,
}

describe('the level check by its route', () => {
  it('finds the six things that are wrong with the demo on purpose, and what is left as it is', async () => {
    const {
      levels: [demo],
    } = (await server.call('GET', '/api/levels')).json as { levels: { id: string }[] }
    const { counts, findings } = checkAnswerSchema.parse(
      (await server.call('GET', `/api/levels/${demo!.id}/check`)).json,
    )
    expect(counts).toEqual({ error: 3, warning: 2, note: 1, left: 4 })
    expect(findings.map(({ of }) => of)).toEqual([
      'floating',
      'twice',
      'camera-blocked',
      'overlapping',
      'idle-light',
      'empty-group',
      'overlapping',
      'overlapping',
      'copies-overlapping',
      'sight-line',
    ])
    expect(findings[0]).toMatchObject({
      severity: 'error',
      names: ['Planter that floats'],
      says: 'Planter that floats: 0.030 m above what is below',
    })
    expect(findings.at(-1)!.left).toBe('Plants do not watch the band.')
  })

  it('is answered page by page where much is wrong, each finding once', async () => {
    const { id } = await server.newLevel()
    const things = Array.from({ length: 5600 }, (_, i): Operation => {
      const { id: own, ...fields } = createPlacement({
        id: v7(),
        name: 'Crate in the air',
        kind: 'part',
        partId: demoId('part/Crate'),
        translation: [(i % 80) * 4, 5, Math.floor(i / 80) * 4],
      })
      return { do: 'put', id: own, fields }
    })
    await server.save(id, 0, change(...things))
    const found: string[] = []
    const pages: (string | null)[] = []
    for (let from: string | null = ''; from !== null; ) {
      const page = checkAnswerSchema.parse(
        (await server.call('GET', `/api/levels/${id}/check${from && `?from=${from}`}`)).json,
      )
      expect(page.revision).toBe(1)
      expect(page.counts.error).toBe(page.findings.filter(({ severity }) => severity === 'error').length)
      found.push(...page.findings.filter(({ of }) => of === 'floating').map(({ things: [thing] }) => thing!))
      pages.push((from = page.next))
      expect(page.looked === 1).toBe(from === null)
    }
    expect(pages.length).toBeGreaterThan(1)
    expect(found.sort()).toEqual(things.map(thing => thing.id).sort())
    for (const from of ['0', '-1', 'x', things[0]!.id.slice(1)])
      expect(await server.error('GET', `/api/levels/${id}/check?from=${from}`)).toMatchObject({ status: 422 })
  })

  it('answers 404 for a level that is not there', async () => {
    expect((await server.call('GET', `/api/levels/${v7()}/check`)).status).toBe(404)
  })
})

describe('measures, limits and exemptions', () => {
  it('are saved, copied with a level, and taken out again', async () => {
    const { id } = await server.newLevel()
    const [measure, limit, exemption] = [v7(), v7(), v7()]
    const left = { of: 'floating', things: [v7()], amount: 0.03, reason: 'a kite' }
    await server.save(
      id,
      0,
      change(
        { do: 'put-measure', id: measure, fields: tape },
        { do: 'put-limit', id: limit, fields: { of: 'floating', off: false, values: { gap: 0.1 } } },
        { do: 'put-exemption', id: exemption, fields: left },
      ),
    )
    const copy = (await server.call('POST', '/api/levels', { name: 'Copy', from: id })).json as { id: string }
    for (const each of [id, copy.id]) {
      expect(await server.level(each)).toMatchObject({
        measures: [{ id: measure, ...tape }],
        limits: [{ id: limit, of: 'floating', off: false, values: { gap: 0.1 } }],
        exemptions: [{ id: exemption, ...left }],
      })
    }
    await server.save(
      id,
      1,
      change(
        { do: 'remove-measure', id: measure },
        { do: 'remove-limit', id: limit },
        { do: 'remove-exemption', id: exemption },
      ),
    )
    expect(await server.level(id)).toMatchObject({ measures: [], limits: [], exemptions: [] })
    const back = (await server.call('GET', `/api/levels/${id}/back?to=1`)).json as { operations: object[] }
    expect(back.operations).toHaveLength(3)
  })

  it('are refused with the field where they make no sense, and nothing is written', async () => {
    const { id } = await server.newLevel()
    const refused = async (operation: object) => {
      const { status, field } = await server.error('POST', `/api/levels/${id}/changes`, {
        baseRevision: 0,
        changes: [change(operation as Operation)],
      })
      return [status, field]
    }
    for (const [fields, field] of [
      [{ ...tape, ends: [space(0, 0, 0)] }, 'ends'],
      [{ ...tape, kind: 'clearance', ends: [] }, 'sides'],
      [{ ...tape, kind: 'angle' }, 'ends'],
      [{ ...tape, ends: [{ ...space(0, 0, 0), on: 'x' }, space(1, 0, 0)] }, 'ends.0.on'],
      [{ ...tape, kind: 'ruler' }, 'kind'],
      [{ ...tape, ends: [space(0, 0, 0), space(1e10, 0, 0)] }, 'ends.1.at.0'],
    ] as const) {
      const [status, where] = await refused({ do: 'put-measure', id: v7(), fields })
      expect([400, 422]).toContain(status)
      expect(where).toContain(field)
    }
    expect(
      (await refused({ do: 'put-limit', id: v7(), fields: { of: 'Not A Word', off: false, values: {} } }))[1],
    ).toContain('of')
    expect(
      (
        await refused({
          do: 'put-exemption',
          id: v7(),
          fields: { of: 'floating', things: [], amount: null, reason: '' },
        })
      )[1],
    ).toContain('things')
    expect(await server.level(id)).toMatchObject({ revision: 0, measures: [], limits: [], exemptions: [] })
  })
})
