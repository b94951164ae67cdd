import { BoxGeometry } from 'three'
import { LevelCheck } from '../core/check/check'
import type { KitKnown } from '../core/check/site'
import { CheckSite } from '../core/check/site'
import type { LevelRecords } from '../core/level/level'
import { applyChange } from '../core/level/change'
import type { Operation, Placement } from '../core/level/schema'
import type { Vec3 } from '../core/math/vectors'
import type { Solid } from '../core/mesh/solid'
import { affectedBy } from '../core/scene/affected'
import type { SceneNeeds } from '../core/scene/scene'
import { makeScene } from '../core/scene/scene'
import { testId, testPlacement, testSolid } from './support'

export type Box = Partial<Placement> & { size?: Vec3; tags?: string[]; kindOfPart?: 'piece' | 'prop' }

/**
 * A level of boxes with its check. A box of a size is a part of its own, 1001 for the first; others are what they say.
 */
export function checkBoxes(
  boxes: readonly Box[],
  records: Partial<LevelRecords> = {},
  extraParts: ReadonlyMap<string, Solid> = new Map(),
  dealt: SceneNeeds['dealt'] = () => null,
) {
  const solids = new Map<string, Solid>(extraParts)
  const parts = new Map<string, { name: string; kind: 'piece' | 'prop'; tags: string[]; inKit: boolean }>()
  for (const id of extraParts.keys()) parts.set(id, { name: id, kind: 'prop', tags: [], inKit: true })
  const placements = boxes.map(({ size, tags = [], kindOfPart = 'prop', ...fields }, i) => {
    const partId = testId(1001 + i)
    if (size) {
      solids.set(partId, testSolid(new BoxGeometry(...size)))
      parts.set(partId, { name: `Box ${i + 1}`, kind: kindOfPart, tags, inKit: true })
    }
    return testPlacement(i + 1, size ? { kind: 'part', partId, ...fields } : fields)
  })
  const kit: KitKnown = { part: id => parts.get(id), ids: () => parts.keys(), solidOf: shape => solids.get(shape) }
  const { level, index } = makeScene(placements, records, {
    solidOf: kit.solidOf,
    tagsOf: part => parts.get(part)?.tags ?? [],
    lampsOf: () => [],
    dealt,
  })
  const check = () => {
    const fresh = new LevelCheck(new CheckSite(level, index, kit))
    for (const _ of fresh.all());
    return fresh
  }
  const made = check()
  return {
    level,
    index,
    kit,
    check: made,
    /** The same worked out anew. */
    anew: check,
    change: (operations: Operation[]) => {
      const { touched } = applyChange(level, operations)
      index.update(affectedBy(level, touched, id => made.site.isGround(id)))
      made.recheck(
        touched,
        operations.flatMap(({ do: what, id }) => (what.endsWith('-measure') ? [id] : [])),
      )
    },
  }
}

/** Kinds and the numbers of their things, as `floating 3`. */
export const said = (check: LevelCheck, ...kinds: string[]) =>
  check.findings
    .filter(({ of }) => kinds.length === 0 || kinds.includes(of))
    .map(({ of, things }) => `${of} ${things.map(id => Number.parseInt(id.slice(24, 36), 16)).join(' ')}`)
    .sort()
