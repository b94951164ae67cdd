import { Box3, Matrix4, Vector3 } from 'three'
import type { MiddleBox } from '../math/affine'
import { boxAt, multiplyAt } from '../math/affine'
import type { Shown } from './shown'
import type { Solid } from '../mesh/solid'

/** The copies of one shape of an arrangement, and what names each; shared by all runs of them. */
export class CopySet {
  readonly toWorld: Float64Array
  readonly box: MiddleBox

  /** @param own the arrangement's own axes, in the world */
  constructor(
    readonly id: string,
    readonly solid: Solid,
    readonly own: Matrix4,
    readonly matrices: Float64Array,
    readonly indices: Int32Array,
    readonly idOf: (index: number) => string | undefined,
  ) {
    this.toWorld = Float64Array.from(own.elements)
    this.box = {
      middle: solid.bounds.getCenter(new Vector3()).toArray(),
      half: solid.bounds.getSize(new Vector3()).divideScalar(2).toArray(),
    }
  }
}

/**
 * Copies of an arrangement that come one after the other, with one box around all of them: of very many, single things
 * are made only where somebody looks.
 */
export class CopyRun {
  /** The box around all of them in the world, once it was asked for. */
  private inWorld: Box3 | null = null

  /** @param from the first of the set's copies @param to the one after the last */
  constructor(
    private readonly set: CopySet,
    private readonly from: number,
    private readonly to: number,
  ) {}

  get id(): string {
    return this.set.id
  }

  get count(): number {
    return this.to - this.from
  }

  /** The box around all of them, in the axes that `toAxes` leads to from the world; in the world without it. */
  box(target: Box3, toAxes?: Matrix4): Box3 {
    if (!toAxes) return target.copy((this.inWorld ??= this.around(new Box3())))
    return this.around(target, toAxes)
  }

  private around(target: Box3, toAxes?: Matrix4): Box3 {
    const within = toAxes ? Float64Array.from(toAxes.clone().multiply(this.set.own).elements) : this.set.toWorld
    target.makeEmpty()
    for (let i = this.from; i < this.to; i++) {
      this.sides(i, within)
      target.min.set(
        Math.min(target.min.x, sides[0]!),
        Math.min(target.min.y, sides[1]!),
        Math.min(target.min.z, sides[2]!),
      )
      target.max.set(
        Math.max(target.max.x, sides[3]!),
        Math.max(target.max.y, sides[4]!),
        Math.max(target.max.z, sides[5]!),
      )
    }
    return target
  }

  /** Those whose boxes are accepted. */
  *where(accept: (box: Box3) => boolean): Generator<Shown> {
    for (let i = this.from; i < this.to; i++) {
      this.sides(i, this.set.toWorld)
      one.min.set(sides[0]!, sides[1]!, sides[2]!)
      one.max.set(sides[3]!, sides[4]!, sides[5]!)
      if (accept(one)) yield this.shown(i)
    }
  }

  /** One of them, by its place in the run. */
  at(place: number): Shown {
    return this.shown(this.from + place)
  }

  /** What belongs to a copy of the arrangement. */
  *ofCopy(index: number): Generator<Shown> {
    const { indices } = this.set
    if (indices[this.from]! > index || indices[this.to - 1]! < index) return
    for (let i = this.from; i < this.to; i++) if (indices[i] === index) yield this.shown(i)
  }

  private shown(i: number): Shown {
    const { id, solid, own, matrices, indices, idOf } = this.set
    return { id, copy: idOf(indices[i]!), solid, matrix: new Matrix4().fromArray(matrices, i * 16).premultiply(own) }
  }

  private sides(i: number, within: Float64Array): void {
    multiplyAt(placed, 0, within, 0, this.set.matrices, i * 16)
    boxAt(sides, placed, this.set.box)
  }
}

const [sides, placed, one] = [new Float64Array(6), new Float64Array(16), new Box3()]
