import { Box3, Matrix3, Matrix4, Triangle, Vector3 } from 'three'
import { multiplyAt } from '../../math/affine'
import type { Mesh } from '../../mesh/mesh'
import { meshBounds, triangleCount } from '../../mesh/mesh'
import type { LevelView } from '../../scene/level-view'
import { boxCorners } from '../../scene/shown'
import { layersOf } from '../out/layer-of'
import type { Scope } from '../out/scope'
import type { OnShare } from '../out/share'
import { Counted } from '../out/share'
import type { PartSource } from '../out/shapes'
import { shapeNamed } from '../out/shapes'
import { shownShapes } from '../out/shown'
import { DepthBuffer } from './depth-buffer'
import type { FoundLine } from './found-lines'
import { FoundLines } from './found-lines'
import { edgesOf } from './shape-edges'
import type { PlanView } from './view'
import { viewMatrix } from './view'

/** How lines are drawn, by what they are: cut, or seen nearer to or farther from who looks. */
export const WEIGHTS = ['cut', 'near', 'middle', 'far'] as const
export type Weight = (typeof WEIGHTS)[number]

/** Lines in the drawing's metres: four numbers each, by layer (null for none) and by weight. */
export type Lines = Map<string | null, Record<Weight, Float64Array>>

/** Something drawn, for its name: where its middle and its box are in the drawing's metres, and the nearest of it. */
export type PlanOutline = {
  id: string
  box: Box3
  /** Whether something of it is seen in its middle. */ isSeen: boolean
}

export type Drawing = { lines: Lines; outlines: PlanOutline[]; bounds: Box3 }

/** Points of the picture in which it is found what hides what; and how many there are to a metre at most. */
const MOST_POINTS = 8_000_000
/** Edges and triangles that are looked at; of more the drawing would not be read any more. */
const MOST_EDGES = 12_000_000
const MOST_TRIANGLES = 20_000_000

/**
 * Points along edges that are looked at, and points of triangles that are filled: each a quarter of a minute's work on
 * a small machine.
 */
const MOST_LOOKED_AT = 500_000_000
const MOST_FILLED = 2_000_000_000

/** One shape wherever it is shown: sixteen numbers each, to the drawing, and which outline each belongs to. */
type Batch = { mesh: Mesh; /** Of its box. */ corners: readonly Vector3[]; matrices: number[]; owners: number[] }

/** A drawing is too much to be worked out, with what to do instead. */
export class TooMuchToDraw extends Error {}

const tooMuch = () => new TooMuchToDraw('This has more edges than can be drawn. Hand over a layer, or what is picked.')

/**
 * Metres of the sharp edges of a shape wherever it is shown, and square metres of its triangles; more than that where
 * it is not sized evenly.
 */
function workOf({ mesh, matrices, owners }: Batch): { length: number; area: number } {
  const { numbers, sharp } = edgesOf(mesh)
  let length = 0
  for (let i = 0; i < sharp.length; i++)
    if (sharp[i])
      length += Math.hypot(
        numbers[i * 12 + 3]! - numbers[i * 12]!,
        numbers[i * 12 + 4]! - numbers[i * 12 + 1]!,
        numbers[i * 12 + 5]! - numbers[i * 12 + 2]!,
      )
  let area = 0
  const triangle = new Triangle()
  for (const { positions, indices } of mesh.primitives) {
    for (let i = 0; i < indices.length; i += 3) {
      triangle.a.fromArray(positions, indices[i]! * 3)
      triangle.b.fromArray(positions, indices[i + 1]! * 3)
      triangle.c.fromArray(positions, indices[i + 2]! * 3)
      area += triangle.getArea()
    }
  }
  const matrix = new Matrix4()
  const [first, second] = owners.reduce(
    ([one, two], _, copy) => {
      const size = matrix.fromArray(matrices, copy * 16).getMaxScaleOnAxis()
      return [one + size, two + size ** 2]
    },
    [0, 0],
  )
  return { length: length * first!, area: area * second! }
}

/**
 * A level as it is seen straight from one side: the edges of its shapes and the outlines of round ones, without what is
 * hidden behind something. That is found in a picture of depths (Catmull 1974), so an edge may reach a point of it
 * behind what hides it.
 *
 * @param cut depth beyond which things are cut away; lines are drawn where they are cut
 * @param finest metres that a point of the picture need not be smaller than
 * @throws RangeError if a part is not there; TooMuchToDraw
 */
export async function drawLevel(
  level: LevelView,
  scope: Scope,
  partOf: PartSource,
  view: PlanView,
  cut: number,
  finest: number,
  onShare?: OnShare,
): Promise<Drawing> {
  const { batches, outlines } = await gather(level, scope, partOf, viewMatrix(view))
  const bounds = new Box3()
  for (const { box } of outlines) if (box.min.z < cut) bounds.union(box)
  if (bounds.isEmpty()) return { lines: new Map(), outlines: [], bounds }
  const size = bounds.getSize(new Vector3())
  const step = Math.max(finest, Math.sqrt((size.x * size.y) / MOST_POINTS), Math.max(size.x, size.y) / 8000) || finest
  const work = batches.map(workOf)
  if (
    work.reduce((sum, { length }) => sum + length, 0) / step > MOST_LOOKED_AT
    || work.reduce((sum, { area }) => sum + area, 0) / step ** 2 > MOST_FILLED
  )
    throw tooMuch()
  const hidden = new HiddenLines(bounds, step, cut)
  // Every shape is gone over twice: for its depths, and for its lines.
  const counted = new Counted(2 * work.reduce((sum, { length }) => sum + length, 0), onShare)
  batches.forEach((batch, i) => {
    hidden.fill(batch)
    counted.pass(work[i]!.length)
  })
  const layerOf = layersOf(level)
  batches.forEach((batch, i) => {
    hidden.draw(batch, outline => layerOf(outlines[outline]!.id))
    counted.pass(work[i]!.length)
  })
  return {
    lines: hidden.lines(),
    outlines: outlines
      .filter(({ box }) => box.min.z < cut)
      .map(outline => ({ ...outline, isSeen: hidden.isInFront(outline.box) })),
    bounds,
  }
}

async function gather(
  level: LevelView,
  scope: Scope,
  partOf: PartSource,
  toDrawing: Matrix4,
): Promise<{ batches: Batch[]; outlines: PlanOutline[] }> {
  const batches = new Map<string, Batch>()
  const outlines: PlanOutline[] = []
  const to = Float64Array.from(toDrawing.elements)
  const numberOf = new Map<string, number>()
  const corner = new Vector3()
  let [edges, triangles] = [0, 0]
  for (const { id, shape, matrices } of shownShapes(level, scope, false)) {
    let batch = batches.get(shape)
    const mesh = batch?.mesh ?? (await shapeNamed(shape, partOf)).mesh
    // Said before anything is drawn.
    edges += (edgesOf(mesh).sharp.length * matrices.length) / 16
    triangles += (triangleCount(mesh) * matrices.length) / 16
    if (edges > MOST_EDGES || triangles > MOST_TRIANGLES) throw tooMuch()
    if (!batch) {
      batches.set(shape, (batch = { mesh, corners: boxCorners(meshBounds(mesh)), matrices: [], owners: [] }))
    }
    let outline = numberOf.get(id)
    if (outline === undefined) numberOf.set(id, (outline = outlines.push({ id, box: new Box3(), isSeen: false }) - 1))
    const moved = new Float64Array(16)
    const matrix = new Matrix4()
    for (let i = 0; i < matrices.length; i += 16) {
      multiplyAt(moved, 0, to, 0, matrices, i)
      for (const value of moved) batch.matrices.push(value)
      batch.owners.push(outline)
      matrix.fromArray(moved)
      for (const point of batch.corners) outlines[outline]!.box.expandByPoint(corner.copy(point).applyMatrix4(matrix))
    }
  }
  return { batches: [...batches.values()], outlines }
}

class HiddenLines {
  private readonly depths: DepthBuffer
  private readonly found: FoundLines
  /** Layers by the order in which they were met. */
  private readonly layers = new Map<string | null, number>()
  /** By how much an edge may lie behind what is drawn there and still be what is seen. */
  private readonly slack: number

  constructor(
    private readonly bounds: Box3,
    private readonly step: number,
    private readonly cut: number,
  ) {
    const size = bounds.getSize(new Vector3())
    this.depths = new DepthBuffer(Math.ceil(size.x / step) + 2, Math.ceil(size.y / step) + 2)
    this.slack = Math.max(step * 0.5, 1e-4)
    this.found = new FoundLines(step)
  }

  private x(at: number): number {
    return (at - this.bounds.min.x) / this.step + 1
  }

  private y(at: number): number {
    return (at - this.bounds.min.y) / this.step + 1
  }

  /** Whether nothing is before the nearest of a box, in its middle. */
  isInFront({ min, max }: Box3): boolean {
    return (
      this.depths.at(this.x((min.x + max.x) / 2), this.y((min.y + max.y) / 2)) <= Math.min(max.z, this.cut) + this.slack
    )
  }

  /** Draws the depths of what is not cut away. */
  fill({ mesh, matrices, owners }: Batch): void {
    const matrix = new Matrix4()
    for (let copy = 0; copy < owners.length; copy++) {
      matrix.fromArray(matrices, copy * 16)
      for (const { positions, indices } of mesh.primitives) {
        const moved = transformed(positions, matrix)
        for (let i = 0; i < indices.length; i += 3)
          this.fillTriangle(moved, indices[i]! * 3, indices[i + 1]! * 3, indices[i + 2]! * 3)
      }
    }
  }

  private fillTriangle(p: Float64Array, a: number, b: number, c: number): void {
    const above = Number(p[a + 2]! > this.cut) + Number(p[b + 2]! > this.cut) + Number(p[c + 2]! > this.cut)
    if (above === 3) return
    if (above === 0)
      return this.triangle(p[a]!, p[a + 1]!, p[a + 2]!, p[b]!, p[b + 1]!, p[b + 2]!, p[c]!, p[c + 1]!, p[c + 2]!)
    const kept: number[][] = []
    const corners = [a, b, c].map(at => [p[at]!, p[at + 1]!, p[at + 2]!])
    corners.forEach((from, i) => {
      const to = corners[(i + 1) % 3]!
      if (from[2]! <= this.cut) kept.push(from)
      if (from[2]! > this.cut !== to[2]! > this.cut) kept.push(between(from, to, this.cut))
    })
    for (let i = 2; i < kept.length; i++)
      this.triangle(...(kept[0] as Point), ...(kept[i - 1] as Point), ...(kept[i] as Point))
  }

  private triangle(
    ax: number,
    ay: number,
    az: number,
    bx: number,
    by: number,
    bz: number,
    cx: number,
    cy: number,
    cz: number,
  ): void {
    this.depths.triangle(this.x(ax), this.y(ay), az, this.x(bx), this.y(by), bz, this.x(cx), this.y(cy), cz)
  }

  /** Finds the lines of one shape wherever it stands. */
  draw(batch: Batch, layerNamed: (outline: number) => string | null): void {
    const { numbers, sharp } = edgesOf(batch.mesh)
    const [matrix, normals] = [new Matrix4(), new Matrix3()]
    const [from, to, one, other] = [new Vector3(), new Vector3(), new Vector3(), new Vector3()]
    for (let copy = 0; copy < batch.owners.length; copy++) {
      matrix.fromArray(batch.matrices, copy * 16)
      normals.getNormalMatrix(matrix)
      const layer = this.layerIndex(layerNamed(batch.owners[copy]!))
      for (let i = 0; i < sharp.length; i++) {
        if (!sharp[i]) {
          // Round: an outline is where one side is seen and the other is not.
          const [a, b] = [
            one.fromArray(numbers, i * 12 + 6).applyMatrix3(normals).z,
            other.fromArray(numbers, i * 12 + 9).applyMatrix3(normals).z,
          ]
          if (a > 0 === b > 0) continue
        }
        from.fromArray(numbers, i * 12).applyMatrix4(matrix)
        to.fromArray(numbers, i * 12 + 3).applyMatrix4(matrix)
        this.edge(from, to, layer)
      }
      if (Number.isFinite(this.cut)) this.section(batch.mesh, matrix, layer)
    }
  }

  /** The parts of an edge that are seen. */
  private edge(from: Vector3, to: Vector3, layer: number): void {
    if (from.z > this.cut && to.z > this.cut) return
    const [a, b] = [
      from.z > this.cut ? new Vector3(...(between(to.toArray(), from.toArray(), this.cut) as Point)) : from,
      to.z > this.cut ? new Vector3(...(between(from.toArray(), to.toArray(), this.cut) as Point)) : to,
    ]
    const [dx, dy] = [b.x - a.x, b.y - a.y]
    const length = Math.hypot(dx, dy)
    // Smaller than a point of the picture, it would be a dot.
    if (length < this.step) return
    const count = Math.max(2, Math.ceil(length / this.step))
    const [nx, ny] = [(-dy / length) * this.step, (dx / length) * this.step]
    let begun = -1
    for (let i = 0; i <= count; i++) {
      // At its very ends an edge meets others: what is looked at is the middle of each piece.
      const share = (i + 0.5) / count
      const isSeen = i < count && this.isSeen(a.x + dx * share, a.y + dy * share, a.z + (b.z - a.z) * share, nx, ny)
      if (isSeen && begun < 0) begun = i
      if (!isSeen && begun >= 0) {
        const [start, end] = [begun / count, i / count]
        this.put(a.x + dx * start, a.y + dy * start, a.x + dx * end, a.y + dy * end, Math.max(a.z, b.z), false, layer)
        begun = -1
      }
    }
  }

  /** Whether nothing is before a point of an edge, on one side of it at least. */
  private isSeen(x: number, y: number, z: number, nx: number, ny: number): boolean {
    const here = z + this.slack
    return (
      this.depths.at(this.x(x), this.y(y)) <= here
      || this.depths.at(this.x(x + nx), this.y(y + ny)) <= here
      || this.depths.at(this.x(x - nx), this.y(y - ny)) <= here
    )
  }

  /** The lines in which a shape is cut. */
  private section({ primitives }: Mesh, matrix: Matrix4, layer: number): void {
    for (const { positions, indices } of primitives) {
      const moved = transformed(positions, matrix)
      for (let i = 0; i < indices.length; i += 3) {
        const corners = [0, 1, 2].map(k => [...moved.subarray(indices[i + k]! * 3, indices[i + k]! * 3 + 3)])
        const ends: number[][] = []
        corners.forEach((from, k) => {
          const to = corners[(k + 1) % 3]!
          if (from[2]! > this.cut !== to[2]! > this.cut) ends.push(between(from, to, this.cut))
        })
        if (ends.length === 2) this.put(ends[0]![0]!, ends[0]![1]!, ends[1]![0]!, ends[1]![1]!, this.cut, true, layer)
      }
    }
  }

  private put(x0: number, y0: number, x1: number, y1: number, depth: number, isCut: boolean, layer: number): void {
    this.found.put({ x0, y0, x1, y1, depth, isCut, layer })
  }

  private layerIndex(layer: string | null): number {
    const known = this.layers.get(layer) ?? this.layers.size
    this.layers.set(layer, known)
    return known
  }

  /** What was found, by layer and weight: thirds of the depth from the nearest to the farthest. */
  lines(): Lines {
    const { found } = this
    const line: FoundLine = { x0: 0, y0: 0, x1: 0, y1: 0, depth: 0, isCut: false, layer: 0 }
    const layers = [...this.layers.keys()]
    let [least, most] = [Infinity, -Infinity]
    for (let i = 0; i < found.count; i++) {
      const { depth } = found.read(i, line)
      if (depth < least) least = depth
      if (depth > most) most = depth
    }
    const weightOf = ({ depth, isCut }: FoundLine): number => {
      const share = most > least ? (depth - least) / (most - least) : 1
      return WEIGHTS.indexOf(isCut ? 'cut' : share > 2 / 3 ? 'near' : share > 1 / 3 ? 'middle' : 'far')
    }
    const counts = layers.map(() => WEIGHTS.map(() => 0))
    for (let i = 0; i < found.count; i++) counts[found.read(i, line).layer]![weightOf(line)]!++
    const groups = counts.map(each => each.map(count => new Float64Array(count * 4)))
    for (const each of counts) each.fill(0)
    for (let i = 0; i < found.count; i++) {
      const { layer, x0, y0, x1, y1 } = found.read(i, line)
      const weight = weightOf(line)
      groups[layer]![weight]!.set([x0, y0, x1, y1], counts[layer]![weight]!++ * 4)
    }
    return new Map(
      layers.flatMap((layer, i) =>
        groups[i]!.every(({ length }) => length === 0)
          ? []
          : [
              [
                layer,
                Object.fromEntries(WEIGHTS.map((weight, k) => [weight, groups[i]![k]!])) as Record<
                  Weight,
                  Float64Array
                >,
              ] as const,
            ],
      ),
    )
  }
}

type Point = [number, number, number]

function transformed(positions: ArrayLike<number>, matrix: Matrix4): Float64Array {
  const out = new Float64Array(positions.length)
  const e = matrix.elements
  for (let i = 0; i < positions.length; i += 3) {
    const [x, y, z] = [positions[i]!, positions[i + 1]!, positions[i + 2]!]
    out[i] = e[0]! * x + e[4]! * y + e[8]! * z + e[12]!
    out[i + 1] = e[1]! * x + e[5]! * y + e[9]! * z + e[13]!
    out[i + 2] = e[2]! * x + e[6]! * y + e[10]! * z + e[14]!
  }
  return out
}

/** Where the way between two points is at a depth. */
function between(from: readonly number[], to: readonly number[], depth: number): number[] {
  const share = (depth - from[2]!) / (to[2]! - from[2]!)
  return [from[0]! + (to[0]! - from[0]!) * share, from[1]! + (to[1]! - from[1]!) * share, depth]
}
