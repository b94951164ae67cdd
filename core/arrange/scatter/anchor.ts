import { Matrix4, Vector3 } from 'three'
import type { Vec3 } from '../../math/vectors'
import { tidy } from '../../units/quantity'
import { frameOf } from './facets'
import type { Area, ScatterRule } from './rule'
import type { ScatterSite, SurfaceAt } from './site'

type Ground = Pick<ScatterSite, 'surfaces' | 'toWorld'>

/** What lets an area go along with a surface from now on. */
export function anchorOn(
  { stream: on, below, matrix }: SurfaceAt,
  toWorld: readonly number[],
): NonNullable<Area['lies']> {
  return { on, below, frame: inOwn(matrix, toWorld).toArray().map(tidy) }
}

/**
 * From an area's points to the world, as its surface stands now; one whose surface is gone goes along with the
 * arrangement.
 */
export function matrixOfArea({ lies }: Area, { surfaces, toWorld }: Ground): Matrix4 {
  const surface = surfaceOf(lies, surfaces)
  if (!lies || !surface) return new Matrix4().fromArray(toWorld as number[])
  return rigid(surface.matrix).multiply(new Matrix4().fromArray(lies.frame).invert())
}

/** The rule with the points of its areas where they are now, so that they can be taken hold of there. */
export function settledAreas(rule: ScatterRule, ground: Ground): ScatterRule {
  const back = new Matrix4().fromArray(ground.toWorld as number[]).invert()
  return {
    ...rule,
    areas: rule.areas.map(area => {
      const surface = surfaceOf(area.lies, ground.surfaces)
      return surface
        ? {
            ...movedArea(area, back.clone().multiply(matrixOfArea(area, ground))),
            lies: anchorOn(surface, ground.toWorld),
          }
        : area
    }),
  }
}

/** An area in other axes. @param toThem from those that it is in */
export function movedArea(area: Area, toThem: Matrix4): Area {
  return {
    ...area,
    points: area.points.map(point => new Vector3(...point).applyMatrix4(toThem).toArray().map(tidy) as Vec3),
    ...(area.lies
      ? {
          lies: {
            ...area.lies,
            frame: toThem.clone().multiply(new Matrix4().fromArray(area.lies.frame)).toArray().map(tidy),
          },
        }
      : {}),
  }
}

const surfaceOf = (lies: Area['lies'], surfaces: Ground['surfaces']) =>
  lies && surfaces.find(({ stream, below }) => stream === lies.on && below === lies.below)
const rigid = (matrix: readonly number[]) =>
  new Matrix4().fromArray([...frameOf(new Matrix4().fromArray(matrix as number[])).rigid])
const inOwn = (matrix: readonly number[], toWorld: readonly number[]) =>
  new Matrix4()
    .fromArray(toWorld as number[])
    .invert()
    .multiply(rigid(matrix))
