import { Matrix4, Vector3 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import { definitionOf } from '../arrange/rules'
import type { AddedCopies, Dealt } from '../arrange/scatter/deal'
import { Dealer, dealNow } from '../arrange/scatter/deal'
import type { Limit } from '../arrange/scatter/limits'
import type { ScatterRule } from '../arrange/scatter/rule'
import type { ScatterSite, SourceAt, SurfaceAt, ThingAt } from '../arrange/scatter/site'
import { localMatrix } from '../math/transform'
import { copyId } from './copy-id'
import type { LevelView } from './level-view'
import type { ShapeLibrary } from './shapes'

/** More surfaces than this are not looked at. */
const MOST_SURFACES = 20_000

/** What has to be known of parts. */
export type PartsKnown = {
  shapes: Pick<ShapeLibrary, 'solid' | 'solidBy' | 'keyOf'>
  tagsOf: (partId: string) => readonly string[]
}

/** The scatter that an arrangement is; null if it is none. */
export function scatterOf(level: LevelView, id: string): ScatterRule | null {
  const own = level.get(id)?.own
  return own && isArrangement(own) ? definitionOf(own.rule).scattered(own.rule) : null
}

/**
 * What a scatter finds where it is: its surfaces, what it keeps its distance to, and its sources. Shapes are called by
 * what their meshes are known by.
 */
export function siteOf(
  level: LevelView,
  { shapes, tagsOf }: PartsKnown,
  id: string,
  rule: ScatterRule,
  toWorld: Matrix4 = level.worldMatrix(id),
): ScatterSite {
  return {
    toWorld: toWorld.toArray(),
    surfaces: known(surfacesOf(level, id, rule), shapes),
    things: rule.limits.map(limit => known(thingsOf(level, tagsOf, id, rule, limit), shapes)),
    // Of one that is not there yet, placements or parts that would become its sources.
    sources: (level.has(id) ? level.children(id) : rule.mix.map(({ source }) => source)).map(
      (source): SourceAt => ({
        id: source,
        reach: level.has(source) ? reachOf(level, shapes, source) : reachOfPart(shapes, source),
      }),
    ),
  }
}

/** Those whose meshes are here, by what these are known by. */
const known = <T extends { shape: string }>(all: readonly T[], shapes: PartsKnown['shapes']): T[] =>
  all.flatMap(each => {
    const shape = shapes.keyOf(each.shape)
    return shape === undefined ? [] : [{ ...each, shape }]
  })

/** The surfaces that a scatter is on, as they stand. */
export function surfacesOf(level: LevelView, id: string, rule: ScatterRule): SurfaceAt[] {
  return rule.on
    .flatMap(({ id: top, stream }) => shownAt(level, top, id).map((each): SurfaceAt => ({ ...each, stream })))
    .slice(0, MOST_SURFACES)
}

/** The copies that were put down by hand, by their keys. */
export function addedTo(level: LevelView, id: string): AddedCopies {
  const { exceptions = {} } = level.arranged(id).own
  return Object.fromEntries(Object.entries(exceptions).flatMap(([key, { added }]) => (added ? [[key, added]] : [])))
}

/** A dealer over meshes that are at hand. */
export const dealerOver = (shapes: PartsKnown['shapes']): Dealer =>
  new Dealer(key => shapes.solidBy(key)?.mesh.primitives)

/**
 * Deals a scatter at once, for where nobody waits for a frame.
 *
 * @param goesOn is asked now and then
 * @throws RangeError when it does not
 */
export function dealAtOnce(
  level: LevelView,
  parts: PartsKnown,
  dealer: Dealer,
  id: string,
  goesOn?: () => boolean,
): Dealt | null {
  const rule = scatterOf(level, id)
  return rule && dealNow(dealer.deal(id, rule, siteOf(level, parts, id, rule), addedTo(level, id)), goesOn)
}

type Named = { below: number; owner: string; shape: string; matrix: number[] }

/**
 * The shapes of a thing and all below it but a scatter's own, also of what arrangements repeat. Scatters are left out:
 * they might wait for each other.
 */
function shownAt(level: LevelView, top: string, except: string): Named[] {
  if (!level.has(top)) return []
  const found: Named[] = []
  const waiting = [top]
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    if (at === except || scatterOf(level, at)) continue
    const name = at === top ? 0 : nameOf(at)
    const matrix = level.worldMatrix(at)
    const isLive = level.arrangementIds.has(at)
    if (isLive) {
      const keys = level.copies(at)?.keys
      for (const { shape, matrices, indices } of level.shapes(at)) {
        for (let i = 0; i < indices.length && found.length < MOST_SURFACES; i++) {
          found.push({
            shape,
            owner: keys ? copyId(at, keys.keyAt(indices[i]!)) : at,
            below: nameOf(`${name} ${shape.length > 36 ? '' : shape} ${keys?.keyAt(indices[i]!) ?? i}`),
            matrix: new Matrix4()
              .fromArray(matrices, i * 16)
              .premultiply(matrix)
              .toArray(),
          })
        }
      }
    }
    const shape = level.shapeOf(at)
    if (shape !== null) found.push({ shape, owner: at, below: name, matrix: matrix.toArray() })
    const { own } = level.need(at)
    if (!isLive || (isArrangement(own) && definitionOf(own.rule).keepsSources))
      for (const child of level.children(at).toReversed()) waiting.push(child)
  }
  return found
}

function thingsOf(
  level: LevelView,
  tagsOf: PartsKnown['tagsOf'],
  id: string,
  rule: ScatterRule,
  limit: Limit,
): ThingAt[] {
  if (limit.type !== 'things' || limit.off) return []
  const { which } = limit
  const surfaces = new Set(rule.on.flatMap(({ id: top }) => (level.has(top) ? level.subtree(top) : [])))
  const bare = ({ shape, matrix }: Named): ThingAt => ({ shape, matrix })
  if (which.by === 'chosen') return which.ids.flatMap(top => shownAt(level, top, id).map(bare))
  const found: ThingAt[] = []
  for (const { id: at, layerId, partId } of level.placements()) {
    if (surfaces.has(at) || level.isWithin(at, id) || level.isSource(at)) continue
    if (which.by === 'layer') {
      if (layerId === which.layer) for (const each of shownAt(level, at, id)) found.push(bare(each))
    } else if (partId !== null) {
      if (tagsOf(partId).includes(which.tag)) found.push({ shape: partId, matrix: level.worldMatrix(at).toArray() })
    } else if (level.arrangementIds.has(at) && !scatterOf(level, at)) {
      for (const each of shownAt(level, at, id)) if (tagsOf(each.shape).includes(which.tag)) found.push(bare(each))
    }
  }
  return found
}

/** How far a source at its size reaches from its pivot in plan, by its real points. */
function reachOf(level: LevelView, { solid }: PartsKnown['shapes'], id: string): number {
  const { pivot } = level.need(id)
  const place = localMatrix(level.need(id), new Matrix4())
  const at = new Vector3(...pivot).applyMatrix4(place)
  const back = level.parentMatrix(id).clone().invert()
  const point = new Vector3()
  let most = 0
  for (const { shape, matrix } of shownAt(level, id, '')) {
    const toParent = new Matrix4().fromArray(matrix).premultiply(back)
    solid(shape)?.eachPlace((x, y, z) => {
      point.set(x, y, z).applyMatrix4(toParent).sub(at)
      most = Math.max(most, point.x * point.x + point.z * point.z)
    })
  }
  return Math.sqrt(most)
}

function reachOfPart({ solid }: PartsKnown['shapes'], partId: string): number {
  let most = 0
  solid(partId)?.eachPlace((x, _y, z) => {
    most = Math.max(most, x * x + z * z)
  })
  return Math.sqrt(most)
}

/** What names a string in 32 bits (FNV-1a). */
export function nameOf(text: string): number {
  let hash = 0x811c9dc5
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193)
  return hash >>> 0 || 1
}
