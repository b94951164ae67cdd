import { describe, expect, it } from 'vitest'
import type { StartingPoint } from '../core/api/starting-points'
import { STARTING_POINTS } from '../core/api/starting-points'
import type { Dealt } from '../core/arrange/scatter/deal'
import { LevelCheck } from '../core/check/check'
import { checkOf } from '../core/check/kinds'
import { inOrder, nameOfThing, sayFinding } from '../core/check/report'
import { CheckSite } from '../core/check/site'
import { placementSchema } from '../core/level/schema'
import type { Scene } from '../core/scene/scene'
import { makeScene } from '../core/scene/scene'
import { dealAtOnce, dealerOver } from '../core/scene/scatter-site'
import { ShapeLibrary } from '../core/scene/shapes'
import { lanternQuayKit } from './kit'
import { MADE } from './starting-points'

const kit = lanternQuayKit()
const shapes = new ShapeLibrary()
for (const { id, mesh } of kit) shapes.put(id, id, mesh)
const parts = new Map(kit.map(part => [part.id, { ...part, inKit: true, kit: 'Lantern Quay' }]))
const tagsOf = (id: string) => parts.get(id)?.tags ?? []

function sceneOf(name: StartingPoint): Scene {
  const { placements, ...records } = MADE[name]()
  const known = new Map<string, Dealt | null>()
  const scene: Scene = makeScene(placements, records, {
    solidOf: shapes.solid,
    tagsOf,
    lampsOf: part => parts.get(part)?.lamps ?? [],
    dealt: id => {
      if (!known.has(id)) known.set(id, dealAtOnce(scene.level, { shapes, tagsOf }, dealerOver(shapes), id))
      return known.get(id)!
    },
  })
  return scene
}

/** What is wrong with one, in words; what is only told on the side is not. */
function wrongWith(name: StartingPoint): string[] {
  const { level, index } = sceneOf(name)
  const about = { part: (id: string) => parts.get(id) as never, ids: () => [], solidOf: shapes.solid }
  const check = new LevelCheck(new CheckSite(level, index, about))
  for (const _ of check.all());
  const said = {
    name: (id: string) => nameOfThing({ level, kit: about }, id),
    length: (m: number) => `${m.toFixed(3)} m`,
  }
  return inOrder(check.findings)
    .filter(finding => finding.left === undefined && !checkOf(finding.of).isAside)
    .map(finding => sayFinding(finding, said))
}

describe('starting points', () => {
  const names = Object.keys(STARTING_POINTS) as StartingPoint[]

  it.each(names)('%s is made of what the schemas take, and light', name => {
    const { placements, blocks = [] } = MADE[name]()
    for (const placement of placements) expect(() => placementSchema.parse(placement)).not.toThrow()
    expect(new Set(placements.map(({ id }) => id)).size).toBe(placements.length)
    expect(placements.length).toBeLessThan(70)
    expect(blocks.length).toBeLessThan(20)
    const { level } = sceneOf(name)
    const copies = [...level.arrangementIds].reduce((sum, id) => sum + level.countOf(id), 0)
    expect(copies).toBeLessThan(1500)
  })

  it.each(names.filter(name => name !== 'boathouse-yard'))('%s is clean for the level check', name => {
    expect(wrongWith(name)).toEqual([])
  })

  it('has one thing that is wrong in the yard of the first steps, for an exercise', () => {
    expect(wrongWith('boathouse-yard')).toEqual([expect.stringContaining('Planter that floats')])
  })
})
