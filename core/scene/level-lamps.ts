import { Matrix4, Quaternion, Vector3 } from 'three'
import { isLight } from '../level/kinds'
import { strengthOf } from '../level/kinds/part'
import type { LightOwn } from '../level/kinds/light'
import type { Lamp } from '../level/part'
import type { Placement } from '../level/schema'
import { MOST_LAMPS } from '../level/part'
import type { Quat, Vec3 } from '../math/vectors'
import type { LevelView } from './level-view'

/** A light that shines somewhere: its own, of a part, or of a copy of either. */
export type Shining = { light: LightOwn; matrix: Matrix4 }

/**
 * What shines from a thing that stands so: a light itself, or the lamps of a part by the thing's strength.
 *
 * @param own its own fields at present
 */
export function shiningOf(
  level: LevelView,
  id: string,
  matrix: Matrix4,
  own: Placement['own'] = level.need(id).own,
): Shining[] {
  const { partId } = level.need(id)
  if (isLight(own)) return [{ light: own, matrix }]
  if (partId === null) return []
  const strength = strengthOf(own)
  return level.lampsOf(partId).map(({ at, rotation, light }) => ({
    light: strength === 1 ? light : { ...light, intensity: light.intensity * strength },
    matrix: new Matrix4().compose(new Vector3(...at), new Quaternion(...rotation), ONE).premultiply(matrix),
  }))
}

/**
 * All that shines in a level, as lamps of one part in the level's own axes: suns, which are of the sky, and what is
 * hidden are left out, and so is what is beyond the most a part may bring.
 */
export function levelLamps(level: LevelView): Lamp[] {
  const found: Shining[] = []
  for (const id of level.children(null).flatMap(top => level.subtree(top))) {
    if (level.isHidden(id) || level.isSource(id)) continue
    found.push(...shiningOf(level, id, level.worldMatrix(id)))
    if (!level.arrangementIds.has(id)) continue
    for (const { shape: source, matrices } of level.marks(id)) {
      for (let i = 0; i < matrices.length; i += 16)
        found.push(...shiningOf(level, source, new Matrix4().fromArray(matrices, i).premultiply(level.worldMatrix(id))))
    }
  }
  const [at, turn, scale] = [new Vector3(), new Quaternion(), new Vector3()]
  return found
    .filter(({ light }) => light.light !== 'sun')
    .slice(0, MOST_LAMPS)
    .map(({ light, matrix }) => {
      matrix.decompose(at, turn, scale)
      return {
        at: at.toArray() as Vec3,
        rotation: turn.normalize().toArray() as Quat,
        light: { ...light, aim: null, place: null },
      }
    })
}

const ONE = new Vector3(1, 1, 1)
