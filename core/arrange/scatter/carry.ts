import { Matrix4 } from 'three'
import { multiplyAt } from '../../math/affine'
import type { AddedCopies, Dealt } from './deal'
import type { ScatterSite } from './site'

/** From where surfaces stood to where they stand, in the world, by their streams; of those that went nowhere none. */
export type Ways = ReadonlyMap<number, Matrix4>

/**
 * The way from one place to another, for something that is only moved and turned; null if it is sized or mirrored as
 * well: then what stands on it does not simply go along.
 */
export function wayBetween(before: Matrix4, after: Matrix4): Matrix4 | null {
  const way = before.clone().invert().premultiply(after)
  const e = way.elements
  for (const [a, b] of PAIRS) {
    const dot = e[a]! * e[b]! + e[a + 1]! * e[b + 1]! + e[a + 2]! * e[b + 2]!
    // Also what cannot be turned back, of which nothing is a number.
    if (!(Math.abs(dot - (a === b ? 1 : 0)) < RIGID)) return null
  }
  return way.determinant() > 0 ? way : null
}

const PAIRS = [
  [0, 0],
  [4, 4],
  [8, 8],
  [0, 4],
  [4, 8],
  [8, 0],
] as const
/** What rounding may make of axes that are at right angles and a metre long. */
const RIGID = 1e-6

/** Whether two ways are the same but for rounding. */
export const isSameWay = (a: Matrix4, b: Matrix4): boolean =>
  a.elements.every((value, i) => Math.abs(value - b.elements[i]!) <= 1e-9 * (1 + Math.abs(value)))

/** The ways that the surfaces of a scatter went; all of one stream have to have gone the same. */
export function waysBetween(before: ScatterSite, after: ScatterSite): Ways {
  const places = new Map(before.surfaces.map(({ stream, below, matrix }) => [`${stream} ${below}`, matrix]))
  const ways = new Map<number, Matrix4 | null>()
  for (const { stream, below, matrix } of after.surfaces) {
    const from = places.get(`${stream} ${below}`)
    const way = from ? wayBetween(matrixOf(from), matrixOf(matrix)) : null
    const other = ways.get(stream)
    ways.set(stream, way && (other === undefined || (other && isSameWay(way, other))) ? way : null)
  }
  return new Map([...ways].flatMap(([stream, way]) => (way && !isSameWay(way, STAYS) ? [[stream, way]] : [])))
}

const STAYS = new Matrix4()
const matrixOf = (elements: readonly number[]) => new Matrix4().fromArray(elements as number[])

/**
 * What was dealt, each copy gone as its surface went: what is shown until it is dealt anew, so that copies do not stay
 * behind.
 *
 * @param before from the axes of the arrangement to the world, as it was dealt
 * @param after the same now
 */
export function carried(dealt: Dealt, added: AddedCopies, ways: Ways, before: Matrix4, after: Matrix4): Dealt {
  const back = after.clone().invert()
  const inOwn = (way: Matrix4) => Float64Array.from(back.clone().multiply(way).multiply(before).elements)
  const own = new Map([...ways].map(([stream, way]) => [stream, inOwn(way)]))
  const stays = inOwn(STAYS)
  const matrices = new Float64Array(dealt.matrices.length)
  for (let i = 0; i < dealt.count; i++) {
    const stream = dealt.keys[i * 3]! || (added[`0,${dealt.keys[i * 3 + 1]},0`]?.on ?? 0)
    multiplyAt(matrices, i * 16, own.get(stream) ?? stays, 0, dealt.matrices, i * 16)
  }
  return { ...dealt, matrices }
}
