import { Matrix3, Matrix4, Vector3 } from 'three'
import type { PointOn } from '../level/fields'
import type { Operation, Placement } from '../level/schema'
import { localMatrix } from '../math/transform'
import type { Vec3 } from '../math/vectors'
import type { Solid } from '../mesh/solid'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'
import { previewMatrices } from '../scene/preview'

/** The thing that an id means among things: of a copy its arrangement. */
export const thingOf = (id: string) => copyOf(id)?.arrangementId ?? id

/** What a holder is made of, and, if that is not much, each with where it would stand. */
export type Surfaces = {
  of: ReadonlySet<string>
  shown: readonly { id: string; solid: Solid; matrix: Matrix4 }[] | null
}

/** Treat it as read-only. */
const OF_WORLD = new Matrix4()

/** Where things stand after operations that were not done yet, and what follows from them, one after the other. */
export class Standing {
  /** Those that stand elsewhere than in the level, or were put: where that is. */
  private readonly matrices: Map<string, Matrix4>
  private readonly puts = new Map<string, Placement>()
  private readonly ways = new Map<string, Matrix4>()
  /** By what holds things, its surfaces as they would stand; until something of them is put otherwise. */
  private readonly surfaces = new Map<string, Surfaces>()
  private readonly surfacesWith = new Map<string, string[]>()

  /** @param operations all that they name is there, or comes with them */
  constructor(
    readonly level: LevelView,
    operations: readonly Operation[],
  ) {
    const own = operations.filter(({ id }) => !copyOf(id))
    this.matrices = previewMatrices(level, own)
    for (const operation of own)
      if (operation.do === 'put')
        this.puts.set(operation.id, {
          ...(this.puts.get(operation.id) ?? level.get(operation.id))!,
          id: operation.id,
          ...operation.fields,
        })
  }

  /** All that stand elsewhere, or were put. */
  get moved(): IterableIterator<string> {
    return this.matrices.keys()
  }

  has(id: string): boolean {
    return this.puts.has(id) || this.level.has(id)
  }

  isMoved(id: string): boolean {
    return this.matrices.has(thingOf(id))
  }

  placement(id: string): Placement {
    return this.puts.get(id) ?? this.level.need(id)
  }

  parentOf(id: string): string | null {
    return this.placement(thingOf(id)).parentId
  }

  /** From a thing's axes, or a copy's, to the world. Treat it as read-only. */
  matrixOf(id: string): Matrix4 {
    const moved = this.matrices.get(id)
    if (moved) return moved
    const thing = thingOf(id)
    return thing !== id && this.matrices.has(thing)
      ? this.wayOf(thing).clone().multiply(this.level.worldMatrix(id))
      : this.level.worldMatrix(id)
  }

  /** From the axes that a thing's numbers are in to the world. Treat it as read-only. */
  parentMatrix(id: string): Matrix4 {
    const parentId = this.parentOf(id)
    return parentId === null ? OF_WORLD : this.matrixOf(parentId)
  }

  /** What is worked out of a holder's surfaces once for all that rests on it. */
  surfacesOf(holder: string, workOut: () => Surfaces): Surfaces {
    let known = this.surfaces.get(holder)
    if (known) return known
    this.surfaces.set(holder, (known = workOut()))
    for (const id of known.of) this.surfacesWith.set(id, [...(this.surfacesWith.get(id) ?? []), holder])
    return known
  }

  /** From where a thing stands in the level to where it would. Treat it as read-only. */
  wayOf(id: string): Matrix4 {
    const thing = thingOf(id)
    let way = this.ways.get(thing)
    if (!way) {
      way =
        this.matrices.has(thing) && this.level.has(thing)
          ? this.level.worldMatrix(thing).clone().invert().premultiply(this.matrices.get(thing)!)
          : new Matrix4()
      this.ways.set(thing, way)
    }
    return way
  }

  /** Where a thing's pivot stands, in the world. */
  pivotOf(id: string): Vector3 {
    return new Vector3(...this.placement(id).translation).applyMatrix4(this.parentMatrix(id))
  }

  /** Where a point on something is; one whose thing is not there is where it was last. */
  placeOf({ at, on, point }: PointOn): Vector3 {
    return on === null || !this.has(on) ? new Vector3(...at) : new Vector3(...point).applyMatrix4(this.matrixOf(on))
  }

  /** The way a face of something looks, in the world: across its plane, however its thing is sized. */
  lookOf(on: string | null, look: readonly [number, number, number]): Vector3 {
    const way = new Vector3(...look)
    if (on === null || !this.has(on)) return way
    return way.applyMatrix3(new Matrix3().getNormalMatrix(this.matrixOf(on))).normalize()
  }

  /** Puts a thing otherwise than it stands by now, and all that hangs from it with it. */
  put(id: string, fields: Pick<Partial<Placement>, 'translation' | 'rotation' | 'scale'>): void {
    const placement = { ...this.placement(id), ...fields }
    const before = this.matrixOf(id)
    this.puts.set(id, placement)
    const after = localMatrix(placement, new Matrix4())
    if (placement.parentId !== null) after.premultiply(this.matrixOf(placement.parentId))
    if (this.level.has(id) && this.level.hasChildren(id)) {
      const way = before.clone().invert().premultiply(after)
      for (const below of this.level.subtree(id).slice(1)) this.set(below, way.clone().multiply(this.matrixOf(below)))
    }
    this.set(id, after)
  }

  private set(id: string, matrix: Matrix4): void {
    this.matrices.set(id, matrix)
    this.ways.delete(id)
    for (const holder of this.surfacesWith.get(id) ?? []) this.surfaces.delete(holder)
    this.surfacesWith.delete(id)
  }
}

/** A place of the world in a thing's own axes. @param matrix from these to the world */
export const pointIn = (matrix: Matrix4, at: Vector3): Vec3 =>
  at.clone().applyMatrix4(matrix.clone().invert()).toArray()

/** The way something looks in a thing's own axes: what `lookOf` brings back. @param matrix from these to the world */
export const lookIn = (matrix: Matrix4, look: Vector3): Vec3 =>
  look.clone().applyMatrix3(new Matrix3().setFromMatrix4(matrix).transpose()).normalize().toArray()
