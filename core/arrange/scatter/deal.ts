import { Matrix4, Vector3 } from 'three'
import { multiplyAt } from '../../math/affine'
import { Quick } from '../../math/random'
import { MOST_COPIES } from '../numbers'
import { matrixOfArea } from './anchor'
import { areaOf } from './area'
import type { Cast, CastOptions } from './casting'
import { cast, MARGIN } from './cast'
import { ClumpMiddles } from './clumps'
import type { Facets } from './facets'
import { facetsOf } from './facets'
import { evenDistance } from './levels'
import { limitShare } from './limits'
import type { Around, Spot } from './limits/limit'
import { Mask } from './mask'
import { Region } from './region'
import type { Added, Area, ScatterRule } from './rule'
import type { ScatterSite, Skin, SurfaceAt } from './site'
import { PLANE, PLANE_STREAM } from './site'
import { freshSpot, spotAt } from './spots'
import type { Standing } from './stand'
import { Mix, stand, USES } from './stand'
import { aroundOf, SkinTrees, viewFromAbove } from './nearby'
import { tintOver } from './tint'

/** What came of a scatter, in numbers. */
export type Report = {
  /** Square metres of the surfaces within the areas. */
  area: number
  asked: number
  /** As many as were found a place before limits and paint. */
  placed: number
  obtained: number
  /** How many each limit left out, by its number, and what was painted out. */
  lostTo: { limits: number[]; paint: number }
  /** Whether no more have room. */
  full: boolean
  /** Only the first of them, while the rest are still being worked out. */
  rough: boolean
  /** Shares by weight, and copies obtained, by source. */
  sources: { share: number; obtained: number }[]
  /** What is wrong, and the field of the rule at which. */
  problem: { field: string; message: string } | null
}

/** The copies of a scatter, each where it is dealt. */
export type Dealt = {
  count: number
  /** Three numbers that name each for good. */
  keys: Int32Array
  /** The number of the source each shows. */
  sources: Int32Array
  /** In the arrangement's axes, sixteen numbers each. */
  matrices: Float64Array
  /** Factors along each axis of the source besides, three each; null if all are 1. */
  sizes: Float64Array | null
  /** Degrees of the surface under each. */
  slopes: Float64Array
  report: Report
}

const NOTHING_DEALT: Report = {
  area: 0,
  asked: 0,
  placed: 0,
  obtained: 0,
  lostTo: { limits: [], paint: 0 },
  full: false,
  rough: false,
  sources: [],
  problem: null,
}

/** Copies put down by hand, by the number that follows 0 in their keys. */
export type AddedCopies = Readonly<Record<string, Added>>

/** The first stage: surfaces, and the candidates that were taken on them, whatever limits say. */
type Ground = { facets: Facets; region: Region; area: number; cast: Cast }
/** The second: how much limits let through, and which of them was the first to leave a candidate out; -1 for none. */
type Limited = { through: Float64Array; lostTo: Int8Array; spot: (i: number, target: Spot) => Spot }

/**
 * Copies that a density is measured by on a plane: where they stand freely, as many more as there are fewer that keep
 * each other off.
 */
const [MEASURED, MEASURED_FREELY] = [10_000, 30_000]
/**
 * The same where they are in clumps at the most, and how many clumps there are along each side of that plane, about.
 */
const MOST_MEASURED = 40_000
const CLUMPS_ACROSS = 40
/**
 * Of the squares of a distance on a plane, no more than this share can be taken: saturated random addition covers 0.547
 * with discs.
 */
const SATURATED = (0.547 * 4) / Math.PI
/** Copies of a clump's own size that fit between two of them. */
const CLUMP_GAP = 1.5

class Problem extends Error {
  constructor(
    readonly field: string,
    message: string,
  ) {
    super(message)
  }
}

/**
 * Deals scatters over surfaces. Keeps what it worked out last, stage by stage, so that what is changed late, such as
 * paint, does not begin at the start again.
 */
export class Dealer {
  private readonly trees: SkinTrees
  private readonly kept = new Map<string, { key: string; value: unknown }>()
  /** Of the lists of sites, which are long: what is in each, as a text. */
  private readonly texts = new WeakMap<object, string>()

  /**
   * @param skinOf the triangles a shape of a site names, which are always the same; undefined while they are not there
   */
  constructor(private readonly skinOf: (shape: string) => Skin | undefined) {
    this.trees = new SkinTrees(skinOf)
  }

  /**
   * Deals one scatter. Yields how far it is, from 0 to 1.
   *
   * @param id whose earlier results may be used again
   * @param roughly stop after the first so many
   */
  *deal(
    id: string,
    rule: ScatterRule,
    site: ScatterSite,
    added: AddedCopies = {},
    roughly = Infinity,
  ): Generator<number, Dealt> {
    const mix = new Mix(rule, site.sources)
    try {
      check(rule, site, mix)
      const ground = yield* this.ground(id, rule, site, mix, roughly)
      const around = this.keep(id, 'around', [...this.groundKey(rule, site), site.things], roughly, () =>
        aroundOf(site, ground.facets, ground.region, this.trees),
      )
      const limited = yield* this.limited(id, rule, site, mix, ground, around, roughly)
      const standing = this.keep(
        id,
        'standing',
        [...this.groundKey(rule, site), rule.mix, site.sources, site.toWorld],
        roughly,
        () => stand(ground.cast, ground.facets, mix, ownAxes(site.toWorld)),
      )
      return yield* gather(rule, site, mix, ground, limited, standing, added, roughly)
    } catch (error) {
      if (!(error instanceof Problem)) throw error
      return { ...nothing(), report: { ...NOTHING_DEALT, problem: { field: error.field, message: error.message } } }
    }
  }

  /**
   * Colours for a limit, or for all together and the paint: triangles over the surfaces, and how much is let through at
   * each corner.
   *
   * @param limit its number; -1 for all
   */
  tint(rule: ScatterRule, site: ScatterSite, limit: number): { positions: Float32Array; through: Float32Array } {
    const region = regionOf(rule, site)
    const facets = facetsOf(
      surfacesOf(rule, site),
      this.skinOf,
      rule.seed,
      rule.facing === 'above',
      planBox(rule, region, 0),
    )
    const around = aroundOf(site, facets, region, this.trees)
    const masks = masksOf(rule, facets)
    const share = (spot: Spot, facet: number) => {
      if (!region.isEmpty && region.inwards(spot.x, spot.y, spot.z) < 0) return -1
      if (limit >= 0) return limitShare(rule.limits[limit]!, limit, spot, around)
      return rule.limits.reduce(
        (product, each, number) => product * limitShare(each, number, spot, around),
        masks[facets.surface[facet]!]?.at(...spot.own) ?? 1,
      )
    }
    return tintOver(facets, region, share)
  }

  /** Lets go of what is kept of all other shapes. */
  keepOnly(shapes: ReadonlySet<string>): void {
    this.trees.keepOnly(shapes)
  }

  forget(id: string): void {
    for (const name of [...this.kept.keys()]) if (name.startsWith(id)) this.kept.delete(name)
  }

  /** A text for what something depends on: plain data, and lists of a site. */
  private textOf(parts: readonly unknown[]): string {
    return parts
      .map(part => {
        if (typeof part !== 'object' || part === null) return JSON.stringify(part)
        let text = this.texts.get(part)
        if (text === undefined) this.texts.set(part, (text = JSON.stringify(part)))
        return text
      })
      .join('\n')
  }

  private keep<T>(id: string, stage: string, parts: readonly unknown[], roughly: number, make: () => T): T {
    if (roughly !== Infinity) return make()
    const [name, key] = [`${id} ${stage}`, this.textOf(parts)]
    const found = this.kept.get(name)
    if (found?.key === key) return found.value as T
    const value = make()
    this.kept.set(name, { key, value })
    return value
  }

  private groundKey(
    {
      seed,
      on,
      plane,
      facing,
      areas,
      measure,
      count,
      density,
      apart,
      keepRoom,
      spread,
      clump,
      mix: ingredients,
      paint,
    }: ScatterRule,
    { surfaces, toWorld, sources }: ScatterSite,
  ): unknown[] {
    const bounds = plane && areas.length === 0 ? paint : null
    return [
      seed,
      on,
      plane,
      facing,
      areas,
      areas.length > 0 ? toWorld : null,
      measure,
      measure === 'count' ? count : density,
      apart,
      keepRoom,
      keepRoom ? ingredients : null,
      keepRoom ? sources : null,
      spread,
      spread === 'clumps' && clump,
      surfaces,
      bounds,
    ]
  }

  private *ground(
    id: string,
    rule: ScatterRule,
    site: ScatterSite,
    mix: Mix,
    roughly: number,
  ): Generator<number, Ground> {
    const key = this.textOf(this.groundKey(rule, site))
    const found = this.kept.get(`${id} ground`)
    if (found?.key === key) return found.value as Ground
    const { facing, seed, spread, clump } = rule
    const fromAbove = facing === 'above'
    const region = regionOf(rule, site)
    const rooms = rule.keepRoom ? mix.rooms : ([0, 0] as const)
    const keptOff = spread === 'clumps' ? clump.size * (1 + CLUMP_GAP) : 0
    const widest = Math.max(rule.apart, 2 * rooms[1], keptOff, spread === 'even' ? evenDistance(Infinity, 0) : 0)
    const plan = planBox(rule, region, widest * MARGIN)
    const facets = facetsOf(surfacesOf(rule, site), this.skinOf, seed, fromAbove, plan)
    const seen = fromAbove && mayHide(facets) ? viewFromAbove({ ...site, surfaces: facets.surfaces }, this.trees) : null
    const area = this.keep(
      id,
      'area',
      [facing, rule.areas, site.toWorld, rule.plane, site.surfaces, plan],
      Infinity,
      () => areaOf(facets, region, seen),
    )
    if (!(area > 0)) throw withoutArea(rule)
    const asked = rule.measure === 'count' ? rule.count : rule.density * area
    const most = mostOf(rule, mix, area)
    if (most > MOST_COPIES)
      throw new Problem(
        'density',
        `It would make ${Math.round(most).toLocaleString('en')} copies; a million is the most.`,
      )
    const inside = region.isEmpty ? null : (x: number, y: number, z: number) => region.inwards(x, y, z) >= 0
    const options: CastOptions = {
      until: Infinity,
      apart: rule.apart,
      even: spread === 'even',
      rooms,
      keptOff,
      reach: region.isBounded ? reachOf(region) : null,
      around: region.isBounded ? margin => region.plan(margin) : null,
      most: Math.min(asked, MOST_COPIES, roughly),
      roomOf: rule.keepRoom ? (_facet, first, second) => mix.roomOf(first, second) : null,
      accept: seen,
      counts: inside,
    }
    if (spread === 'clumps') {
      options.accept = thinnedBy(yield* this.clumps(rule, facets, options), seen)
    }
    if (rule.measure === 'density') {
      options.until = yield* this.untilFor(rule, mix, options)
      options.most = Math.min(MOST_COPIES, roughly)
    }
    const all = yield* cast(facets, options)
    const within = inside
      ? only(all, i => inside(all.places[i * 3]!, all.places[i * 3 + 1]!, all.places[i * 3 + 2]!))
      : all
    const filled =
      inside && within.full && within.count < options.most
        ? yield* this.fill(facets, options, within, region, inside)
        : within
    const ground = { facets, region, area, cast: filled }
    if (roughly === Infinity) this.kept.set(`${id} ground`, { key, value: ground })
    return ground
  }

  /**
   * Where no more have room beside what stands outside of the areas, as if that were there, others find it: it is not.
   */
  private *fill(
    facets: Facets,
    options: CastOptions,
    standing: Cast,
    region: Region,
    inside: (x: number, y: number, z: number) => boolean,
  ): Generator<number, Cast> {
    const others = { ...facets, names: facets.names.map(name => (name ^ 0x2f6b1d37) >>> 0) }
    return yield* cast(others, {
      ...options,
      standing,
      until: Infinity,
      even: false,
      around: () => region.plan(0),
      reach: (x, y, z, size) => reachOf(region)!(x, y, z, size, 0),
      accept: (x, y, z, facet, chance) => inside(x, y, z) && (options.accept?.(x, y, z, facet, chance) ?? true),
    })
  }

  /**
   * The birth up to which there are so many for each square metre: by the same scatter on a plane, so that it does not
   * depend on the surfaces.
   */
  private *untilFor(rule: ScatterRule, mix: Mix, options: CastOptions): Generator<number, number> {
    const { density, spread, clump, apart, keepRoom } = rule
    if (spread === 'free' && apart === 0 && !keepRoom) return density
    const key = JSON.stringify([
      density,
      spread,
      spread === 'clumps' && clump,
      apart,
      keepRoom && [rule.mix, mix.sources.map(({ reach }) => reach)],
    ])
    const found = measured.get(key)
    if (found !== undefined) return found
    const widest = Math.max(apart, 2 * options.rooms[1], spread === 'even' ? Math.sqrt(0.5 / density) : 0)
    // More than can be there is all that can be there.
    const least = Math.max(apart, keepRoom ? 2 * options.rooms[0] : 0)
    const filled = (density * least ** 2) / SATURATED
    if (filled >= 1) return Infinity
    // What keeps its distance differs less from place to place.
    const copies = MEASURED + (spread === 'even' ? 0 : MEASURED_FREELY * (1 - filled) ** 2)
    // Clumps differ among each other more than copies do: there have to be many of them.
    const side =
      spread === 'clumps'
        ? Math.max(
            Math.sqrt(MEASURED / density),
            Math.min(clump.size * CLUMPS_ACROSS, Math.sqrt(MOST_MEASURED / density)),
          )
        : Math.sqrt(copies / density)
    const margin = widest * 3
    const half = side / 2
    const middle = (x: number, _y: number, z: number) => Math.abs(x) <= half && Math.abs(z) <= half
    const wide = half + margin
    const matrix = new Matrix4()
      .makeTranslation(-wide, 0, -wide)
      .scale(new Vector3(2 * wide, 1, 2 * wide))
      .toArray()
    const square = facetsOf([{ stream: 1, below: 0, owner: '', shape: 'square', matrix }], () => SQUARE, 7, true, null)
    const alone = { ...options, until: Infinity, accept: null, reach: null, around: null, counts: middle }
    const accept = spread === 'clumps' ? thinnedBy(yield* this.clumps({ ...rule, seed: 7 }, square, alone), null) : null
    const { count, births, full } = yield* cast(square, { ...alone, accept, most: Math.round(density * side * side) })
    const until = full && count > 0 ? Infinity : (births.at(-1) ?? Infinity)
    if (measured.size >= MOST_KEPT) measured.clear()
    measured.set(key, until)
    return until
  }

  /**
   * How thickly copies stand at a place, from 0 to 1, by the middle of the nearest clump. Middles are dealt over the
   * same surfaces, evenly.
   */
  private *clumps(
    { seed, clump: { size, share } }: ScatterRule,
    facets: Facets,
    options: CastOptions,
  ): Generator<number, (x: number, y: number, z: number) => number> {
    const radius = size / 2
    const other = { ...facets, names: facets.names.map(name => (name ^ 0x51ed270b ^ seed) >>> 0) }
    const middles = yield* cast(other, {
      ...options,
      until: Infinity,
      apart: size * CLUMP_GAP,
      keptOff: 0,
      even: false,
      roomOf: null,
      rooms: [0, 0],
      accept: null,
      counts: null,
      most: MOST_COPIES,
    })
    const near = new ClumpMiddles(middles, radius)
    const [beside, most] = [1 - share, thickest({ clump: { size, share } })]
    return (x, y, z) => {
      const inside = near.inside(x, y, z)
      return (beside + (share / CLUMPED) * inside) / most
    }
  }

  private *limited(
    id: string,
    rule: ScatterRule,
    site: ScatterSite,
    mix: Mix,
    { facets, cast: { count, places, facets: on, names } }: Ground,
    around: Around,
    roughly: number,
  ): Generator<number, Limited> {
    const spot = (i: number, target: Spot) =>
      spotAt(facets, on[i]!, places[i * 3]!, places[i * 3 + 1]!, places[i * 3 + 2]!, target)
    const key = this.textOf([
      ...this.groundKey(rule, site),
      rule.limits,
      rule.limits.some(({ type }) => type === 'things') && site.things,
    ])
    const found = this.kept.get(`${id} limited`)
    if (roughly === Infinity && found?.key === key) return found.value as Limited
    const through = new Float64Array(count).fill(1)
    const lostTo = new Int8Array(count).fill(-1)
    const target = freshSpot()
    const random = new Quick()
    for (let i = 0; i < count; i++) {
      random.begin(names[i * 2]!, names[i * 2 + 1]!, USES.limits)
      const chance = random.share()
      if (rule.limits.length > 0) spot(i, target)
      for (let number = 0; number < rule.limits.length && lostTo[i] === -1; number++) {
        through[i]! *= limitShare(rule.limits[number]!, number, target, around)
        if (chance >= through[i]!) lostTo[i] = number
      }
      if (i % 4096 === 4095) yield i / count
    }
    const limited = { through, lostTo, spot }
    if (roughly === Infinity) this.kept.set(`${id} limited`, { key, value: limited })
    return limited
  }
}

/** What densities were measured on a plane: the same whatever the surfaces. */
const measured = new Map<string, number>()
const MOST_KEPT = 100

/** Deals at once. @param goesOn is asked now and then @throws RangeError when it does not */
export function dealNow(dealing: Generator<number, Dealt>, goesOn: () => boolean = () => true): Dealt {
  for (;;) {
    const { done, value } = dealing.next()
    if (done) return value
    if (!goesOn()) throw new RangeError('this scatter takes too long to work out')
  }
}

/** Fresh each time: what is dealt may be given away to another thread. */
const nothing = (): Omit<Dealt, 'report'> => ({
  count: 0,
  keys: new Int32Array(0),
  sources: new Int32Array(0),
  matrices: new Float64Array(0),
  sizes: null,
  slopes: new Float64Array(0),
})
const SQUARE: Skin = [{ positions: [0, 0, 0, 0, 0, 1, 1, 0, 0, 1, 0, 1], indices: [0, 1, 2, 3, 2, 1] }]
/**
 * The share of a plane that clumps cover, weighted by how thick they are there: their middles are as far apart as
 * casting leaves them.
 */
const CLUMPED = ((0.64 / (2 * CLUMP_GAP) ** 2) * Math.PI) / 2

/** How many times the mean the middle of a clump has. */
const thickest = ({ clump: { share } }: Pick<ScatterRule, 'clump'>) => 1 - share + share / CLUMPED

/**
 * No fewer than a scatter makes of an area: no more than so many fit at a distance (saturated random addition leaves
 * 0.547 of a plane covered by discs).
 */
function mostOf(
  { measure, count, density, apart, keepRoom }: ScatterRule,
  mix: Pick<Mix, 'rooms'>,
  area: number,
): number {
  const distance = Math.max(apart, keepRoom ? 2 * mix.rooms[0] : 0)
  return Math.min(
    measure === 'count' ? count : density * area,
    distance > 0 ? (0.75 * area) / distance ** 2 + 100 : Infinity,
  )
}

function check(rule: ScatterRule, { surfaces, sources }: ScatterSite, mix: Mix): void {
  if (surfaces.length === 0 && !rule.plane)
    throw new Problem(
      'on',
      rule.on.length === 0
        ? 'Choose a surface, or draw an area on the ground plane.'
        : 'None of its surfaces is there any more.',
    )
  if (sources.length === 0) throw new Problem('mix', 'Add a part to scatter.')
  if (mix.sources.length === 0) throw new Problem('mix', 'All weights are 0.')
  if (rule.keepRoom && mix.rooms[1] === 0)
    throw new Problem('keepRoom', 'No source needs any room. Give one a room above 0, or a smallest distance.')
}

function surfacesOf({ plane }: ScatterRule, { surfaces }: ScatterSite): SurfaceAt[] {
  return plane
    ? [...surfaces, { stream: PLANE_STREAM, below: 0, owner: '', shape: PLANE, matrix: new Matrix4().toArray() }]
    : [...surfaces]
}

/** How much of the ground plane is needed. */
function planBox({ plane }: ScatterRule, region: Region, margin: number) {
  return plane ? region.plan(margin) : null
}

/**
 * Where a scatter is wanted: in what was drawn or, where it is on the ground plane alone and stands only where that is
 * painted, around the paint.
 */
function regionOf({ plane, areas, facing, paint }: ScatterRule, site: ScatterSite): Region {
  const { surfaces } = site
  const placed = areas.map(area => ({ area, toWorld: matrixOfArea(area, site) }))
  const region = new Region(placed, facing === 'above')
  if (!plane || region.isBounded) return region
  const strokes = paint.strokes.filter(({ on }) => on === PLANE_STREAM)
  if (paint.begins === 'everywhere' || surfaces.length > 0 || strokes.length === 0)
    throw new Problem(
      'areas',
      paint.begins === 'nowhere' && surfaces.length === 0
        ? 'Paint on the ground plane, or draw an area there.'
        : 'The ground plane has no end. Draw an area on it.',
    )
  const around = strokes.map(
    ({ points, radius }): Area => ({
      type: 'band',
      hole: false,
      width: 2 * radius,
      points: points.length > 1 ? points.slice(0, 500) : [points[0]!, points[0]!],
    }),
  )
  return new Region(
    [...around.map(area => ({ area, toWorld: new Matrix4() })), ...placed.filter(({ area }) => area.hole)],
    true,
  )
}

/** Lets candidates through by chance, as thickly as they are to stand. */
function thinnedBy(
  thick: (x: number, y: number, z: number) => number,
  seen: ((x: number, y: number, z: number) => boolean) | null,
): CastOptions['accept'] {
  return (x, y, z, _facet, chance) => chance.share() < thick(x, y, z) && (!seen || seen(x, y, z))
}

/** Whether anything may lie over anything: not where all that looks up is level and of one height. */
function mayHide({ count, normals, corners, frames, surface }: Facets): boolean {
  let height: number | null = null
  for (let f = 0; f < count; f++) {
    if (normals[f * 3 + 1]! < 1 - 1e-9) return true
    const e = frames[surface[f]!]!.rigid
    const y = e[1]! * corners[f * 9]! + e[5]! * corners[f * 9 + 1]! + e[9]! * corners[f * 9 + 2]! + e[13]!
    if (height !== null && Math.abs(y - height) > 1e-6) return true
    height = y
  }
  return false
}

const reachOf =
  (region: Region): CastOptions['reach'] =>
  (x, y, z, radius, margin) => {
    const inwards = region.inwards(x, y, z)
    return inwards < -radius - margin ? 'out' : inwards > radius ? 'in' : 'across'
  }

function only(all: Cast, wanted: (i: number) => boolean): Cast {
  const which = Int32Array.from({ length: all.count }, (_, i) => i).filter(wanted)
  const places = new Float64Array(which.length * 3)
  const names = new Int32Array(which.length * 2)
  which.forEach((from, i) => {
    places.set(all.places.subarray(from * 3, from * 3 + 3), i * 3)
    names.set(all.names.subarray(from * 2, from * 2 + 2), i * 2)
  })
  return {
    ...all,
    count: which.length,
    places,
    names,
    facets: which.map(i => all.facets[i]!),
    births: Float64Array.from(which, i => all.births[i]!),
  }
}

/** What is painted on each surface, by its number; none where nothing is and all is let through. */
function masksOf({ paint }: ScatterRule, { surfaces }: Facets): (Mask | null)[] {
  const begins = paint.begins === 'everywhere' ? 1 : 0
  return surfaces.map(({ stream, below }) => {
    const strokes = paint.strokes.filter(stroke => stroke.on === stream && stroke.below === below)
    return strokes.length === 0 && begins === 1 ? null : new Mask(strokes, begins)
  })
}

const ownAxes = (toWorld: readonly number[]): [number[], number[]] => {
  const unit = (column: number) =>
    new Vector3()
      .fromArray(toWorld as number[], column * 4)
      .normalize()
      .toArray()
  return [unit(0), unit(2)]
}

/** What is wrong where nothing can stand. */
function withoutArea({ areas, facing }: ScatterRule): Problem {
  if (areas.length > 0) return new Problem('areas', 'The areas lie beside all surfaces.')
  return new Problem(
    'on',
    facing === 'above' ? 'Nothing of these surfaces is seen from above.' : 'These surfaces have no area.',
  )
}

/** The copies that limits and paint let stand, by their numbers, and how many were lost to what. */
function* letStand(
  rule: ScatterRule,
  { facets, cast: taken }: Ground,
  { through, lostTo, spot }: Limited,
): Generator<number, { kept: Int32Array; lost: Report['lostTo'] }> {
  const masks = masksOf(rule, facets)
  const target = freshSpot()
  const random = new Quick()
  const lost = { limits: rule.limits.map(() => 0), paint: 0 }
  const kept = new Int32Array(taken.count)
  let count = 0
  for (let i = 0; i < taken.count; i++) {
    if (i % 4096 === 4095) yield i / taken.count
    if (lostTo[i]! >= 0) {
      lost.limits[lostTo[i]!]!++
      continue
    }
    const mask = masks[facets.surface[taken.facets[i]!]!]
    if (mask) {
      random.begin(taken.names[i * 2]!, taken.names[i * 2 + 1]!, USES.limits)
      if (random.share() >= through[i]! * mask.at(...spot(i, target).own)) {
        lost.paint++
        continue
      }
    }
    kept[count++] = i
  }
  return { kept: kept.subarray(0, count), lost }
}

/** The copies that limits and paint let stand, and those put down by hand. */
function* gather(
  rule: ScatterRule,
  site: ScatterSite,
  mix: Mix,
  ground: Ground,
  limited: Limited,
  { chosen, matrices: standing, sizes: stretched }: Standing,
  added: AddedCopies,
  roughly: number,
): Generator<number, Dealt> {
  const { facets, area, cast: taken } = ground
  const { kept, lost } = yield* letStand(rule, ground, limited)
  const count = kept.length
  const hand = putDown(added, facets, mix, site)
  const all = count + hand.length
  const [keys, sources, matrices, slopes] = [
    new Int32Array(all * 3),
    new Int32Array(all),
    new Float64Array(all * 16),
    new Float64Array(all),
  ]
  const sizes = stretched ? new Float64Array(all * 3).fill(1) : null
  const obtained = site.sources.map(() => 0)
  for (let i = 0; i < count; i++) {
    const from = kept[i]!
    keys[i * 3] = facets.surfaces[facets.surface[taken.facets[from]!]!]!.stream
    keys[i * 3 + 1] = taken.names[from * 2]!
    keys[i * 3 + 2] = taken.names[from * 2 + 1]!
    sources[i] = mix.sources[chosen[from]!]!.number
    for (let k = 0; k < 16; k++) matrices[i * 16 + k] = standing[from * 16 + k]!
    if (sizes) for (let k = 0; k < 3; k++) sizes[i * 3 + k] = stretched![from * 3 + k]!
    obtained[sources[i]!]!++
    slopes[i] = (Math.acos(Math.min(Math.max(facets.normals[taken.facets[from]! * 3 + 1]!, -1), 1)) * 180) / Math.PI
  }
  hand.forEach(({ number, source, matrix }, k) => {
    keys.set([0, number, 0], (count + k) * 3)
    sources[count + k] = source
    obtained[source]!++
    matrix.toArray(matrices, (count + k) * 16)
  })
  const toOwn = new Matrix4().fromArray(site.toWorld as number[]).invert()
  if (!toOwn.equals(IDENTITY)) {
    const by = Float64Array.from(toOwn.elements)
    // Each column is read before it is written.
    for (let i = 0; i < matrices.length; i += 16) multiplyAt(matrices, i, by, 0, matrices, i)
  }
  const weights = mix.sources.reduce((sum, { weight }) => sum + weight, 0)
  const asked = rule.measure === 'count' ? rule.count : rule.density * area
  return {
    count: all,
    keys,
    sources,
    matrices,
    sizes,
    slopes,
    report: {
      area,
      asked,
      placed: taken.count,
      obtained: all,
      lostTo: lost,
      full: taken.full,
      rough: roughly !== Infinity && taken.count >= roughly,
      problem: null,
      sources: site.sources.map((_, number) => ({
        share: (mix.sources.find(each => each.number === number)?.weight ?? 0) / weights,
        obtained: obtained[number]!,
      })),
    },
  }
}

const IDENTITY = new Matrix4()

/** Copies put down by hand, where their surfaces are now; those whose surface or source is gone are left out. */
function putDown(
  added: AddedCopies,
  { surfaces, frames }: Facets,
  mix: Mix,
  site: ScatterSite,
): { number: number; source: number; matrix: Matrix4 }[] {
  return Object.entries(added).flatMap(([key, { on, below, at, up, source: id }]) => {
    const s = surfaces.findIndex(({ stream, below: other }) => stream === on && other === below)
    const number = site.sources.findIndex(each => each.id === id)
    if (s < 0 || number < 0) return []
    const rigid = new Matrix4().fromArray(frames[s]!.rigid)
    const [place, normal] = [new Vector3(...at).applyMatrix4(rigid), new Vector3(...up).transformDirection(rigid)]
    const alone: Cast = {
      count: 1,
      places: Float64Array.from(place.toArray()),
      facets: Int32Array.of(0),
      names: Int32Array.of(Number(key.split(',')[1]), 0),
      births: Float64Array.of(0),
      full: false,
    }
    const flat: Facets = {
      count: 1,
      corners: new Float64Array(9),
      areas: Float64Array.of(0),
      normals: Float64Array.from(normal.toArray()),
      names: new Uint32Array(2),
      surface: Int32Array.of(0),
      frames: [frames[s]!],
      surfaces: [surfaces[s]!],
    }
    const { matrices } = stand(
      alone,
      flat,
      new Mix({ mix: mix.sources.filter(each => each.number === number) }, [site.sources[number]!]),
      ownAxes(site.toWorld),
    )
    return [{ number: Number(key.split(',')[1]), source: number, matrix: new Matrix4().fromArray(matrices) }]
  })
}
