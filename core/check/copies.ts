import type { Box3 } from 'three'
import { Matrix4, Vector3 } from 'three'
import type { Vec3 } from '../math/vectors'
import { overlapOf } from '../mesh/overlap'
import { Placed } from '../mesh/placed'
import type { Solid } from '../mesh/solid'
import type { CheckSite } from './site'
import { LET_IN } from './site'

/** Copies of one arrangement that are looked at, spread evenly over all. */
export const MOST_COPIES = 2000
/** And of the ways in which two of them stand to each other, so many are worked out. */
export const MOST_WAYS = 400

/** Pairs of arrangements of which it is kept how their copies meet. */
const MOST_KNOWN = 2000

/** Two copies that are in each other, and by how many metres. */
export type CopiesMeet = { depth: number; at: Vec3 }

/** What an arrangement shows and where: as long as it is the same, nothing is worked out anew. */
type Standing = { solids: Solid[]; matrices: Float64Array[]; toWorld: Matrix4 }

const bySite = new WeakMap<CheckSite, CopiesTogether>()

/**
 * The pairs of a copy of one arrangement with one of another, or of the same, that are in each other by a millimetre.
 * They are kept until one of the two arrangements comes out otherwise.
 */
export function meetingCopies(site: CheckSite, id: string, other: string): readonly CopiesMeet[] {
  let together = bySite.get(site)
  if (!together) bySite.set(site, (together = new CopiesTogether(site)))
  return together.meeting(id, other)
}

class CopiesTogether {
  private readonly known = new Map<string, { of: [Standing, Standing]; meet: readonly CopiesMeet[] }>()

  constructor(private readonly site: CheckSite) {}

  meeting(id: string, other: string): readonly CopiesMeet[] {
    const key = `${id} ${other}`
    const of: [Standing, Standing] = [this.standing(id), this.standing(other)]
    const before = this.known.get(key)
    if (before && of.every((standing, i) => isSame(standing, before.of[i]!))) return before.meet
    if (this.known.size >= MOST_KNOWN) this.known.clear()
    const meet = this.lookFor(id, other)
    this.known.set(key, { of, meet })
    return meet
  }

  private lookFor(id: string, other: string): CopiesMeet[] {
    const { index } = this.site
    const ways = new Map<string, number>()
    const numbers = new Map<Solid, number>()
    const numberOf = (solid: Solid) => {
      const number = numbers.get(solid) ?? numbers.size
      numbers.set(solid, number)
      return number
    }
    const found: CopiesMeet[] = []
    for (const { copy, solid, matrix } of index.someShownBy(id, MOST_COPIES)) {
      if (copy === undefined) continue
      const own = new Placed(solid, matrix)
      const box = own.bounds()
      for (const { thing, placed } of this.site.within(box, '', each => each === other)) {
        // Of two copies of one arrangement the one with the smaller id speaks for both.
        if (id === other && thing <= copy) continue
        const way = `${numberOf(solid)} ${numberOf(placed.solid)} ${wayBetween(matrix, placed.matrix)}`
        let depth = ways.get(way)
        if (depth === undefined) {
          if (ways.size >= MOST_WAYS) return found
          ways.set(way, (depth = overlapOf(own, placed, LET_IN)?.depth ?? 0))
        }
        if (depth > 0) found.push({ depth, at: middleOf(box.intersect(placed.bounds())) })
      }
    }
    return found
  }

  private standing(id: string): Standing {
    const { level, kit } = this.site
    const shapes = level.shapes(id)
    return {
      solids: shapes.flatMap(({ shape }) => kit.solidOf(shape) ?? []),
      matrices: shapes.map(({ matrices }) => matrices),
      toWorld: level.worldMatrix(id),
    }
  }
}

const isSame = (a: Standing, b: Standing) =>
  a.toWorld.equals(b.toWorld)
  && sameItems(a.solids, b.solids)
  && a.matrices.length === b.matrices.length
  && a.matrices.every((matrices, i) => matrices === b.matrices[i] || sameItems(matrices, b.matrices[i]!))

function sameItems(a: ArrayLike<unknown>, b: ArrayLike<unknown>): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}

/**
 * How one thing stands to another, whatever place and turn both have in the world: two pairs of the same shapes for
 * which it is the same are as deep in each other. To a hundredth of a millimetre.
 */
function wayBetween(a: Matrix4, b: Matrix4): string {
  const axes = [new Vector3(), new Vector3(), new Vector3()] as const
  a.extractBasis(...axes)
  const sizes = axes.flatMap((axis, i) => axes.slice(i).map(other => axis.dot(other)))
  between.copy(a).invert().multiply(b)
  return [...sizes, ...between.elements].map(value => Math.round(value * 1e5)).join(' ')
}

const between = new Matrix4()
const middleOf = (box: Box3): Vec3 => box.getCenter(new Vector3()).toArray()
