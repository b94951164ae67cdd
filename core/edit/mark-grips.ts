import { MathUtils, Vector3 } from 'three'
import type { PointOn } from '../level/fields'
import { isCamera, isLight, isMarker } from '../level/kinds'
import type { Placement } from '../level/schema'
import type { Vec3 } from '../math/vectors'

type Own = Placement['own']

/** What a camera, a light or a marker can be taken hold of by, besides its handles. */
export type MarkGrip = {
  name: 'aim' | 'range' | 'cone' | 'width' | 'height' | 'point' | 'arrow'
  /** In its own axes. */
  at: Vector3
  /** Of points, which one. */
  index?: number
  /** Dragged along the surfaces of the level. */
  onSurface: boolean
}

/** How far before a camera or a light its aim is taken hold of, in metres, if it has none. */
const BEFORE = 3
/** How far a light without an end is drawn. */
const DRAWN = 4

/** @param aim where it aims in its own axes, if it does */
export function gripsOfMark(own: Own, aim: Vector3 | null): MarkGrip[] {
  const aimGrip = (before: number): MarkGrip => ({
    name: 'aim',
    at: aim ?? new Vector3(0, 0, -before),
    onSurface: true,
  })
  if (isCamera(own)) return [aimGrip(BEFORE)]
  if (isLight(own)) {
    const reach = own.range || DRAWN
    if (own.light === 'point') return [{ name: 'range', at: new Vector3(reach, 0, 0), onSurface: false }]
    if (own.light === 'sun') return [aimGrip(1.6)]
    if (own.light === 'area')
      return [
        aimGrip(1),
        { name: 'width', at: new Vector3(own.width / 2, 0, 0), onSurface: false },
        { name: 'height', at: new Vector3(0, own.height / 2, 0), onSurface: false },
      ]
    return [
      aimGrip(reach / 2),
      { name: 'range', at: new Vector3(0, 0, -reach), onSurface: false },
      {
        name: 'cone',
        at: new Vector3(Math.tan(MathUtils.degToRad(Math.min(own.outerCone, 85))) * reach, 0, -reach),
        onSurface: false,
      },
    ]
  }
  if (!isMarker(own)) return []
  if (own.marker === 'walk')
    return own.points.map((point, index) => ({ name: 'point', at: new Vector3(...point), index, onSurface: true }))
  return own.marker === 'note' ? [{ name: 'arrow', at: aim ?? new Vector3(0, -0.6, 0), onSurface: true }] : []
}

/**
 * The own fields with a grip dragged to a place in the thing's own axes. An aim is no field of its own: `null` says
 * that the thing is to be turned there.
 *
 * @param on the place as a point that stays on what is there, for what points at something
 */
export function dragMark(own: Own, { name, index }: MarkGrip, to: Vector3, on: PointOn): Own | null {
  if (name === 'aim')
    return (isCamera(own) && own.aim) || (isLight(own) && own.aim) ? ({ ...own, aim: on } as Own) : null
  if (isLight(own)) {
    if (name === 'range') return { ...own, range: Math.max(tidy(own.light === 'point' ? to.length() : -to.z), 0.05) }
    if (name === 'width') return { ...own, width: Math.min(Math.max(tidy(Math.abs(to.x) * 2), 0.01), 1000) }
    if (name === 'height') return { ...own, height: Math.min(Math.max(tidy(Math.abs(to.y) * 2), 0.01), 1000) }
    const outerCone = MathUtils.clamp(
      Math.round(MathUtils.radToDeg(Math.atan2(Math.hypot(to.x, to.y), -to.z)) * 10) / 10,
      1,
      89,
    )
    return { ...own, outerCone, innerCone: Math.min(own.innerCone, Math.max(outerCone - 0.5, 0)) }
  }
  if (isMarker(own) && own.marker === 'walk')
    return { ...own, points: own.points.map((point, i) => (i === index ? (to.toArray().map(tidy) as Vec3) : point)) }
  return isMarker(own) && own.marker === 'note' ? { ...own, arrow: on } : own
}

/** To a tenth of a millimetre. */
const tidy = (value: number) => Math.round(value * 1e4) / 1e4 + 0
