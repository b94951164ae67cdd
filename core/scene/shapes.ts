import { baseOfShape, isBentKey, meshOfBentKey, withBase } from '../arrange/path/bent-key'
import { isBlockKey, meshOfBlockKey } from '../mesh/block-key'
import type { Mesh } from '../mesh/mesh'
import { Solid } from '../mesh/solid'

/**
 * The mesh a shape names, as `Level.shapeOf` does: a part's, a block's, or one that is bent.
 *
 * @param partMesh undefined while it is not there
 */
export function meshOfShape(shape: string, partMesh: (part: string) => Mesh | undefined): Mesh | undefined {
  const plain = (other: string) => (isBlockKey(other) ? meshOfBlockKey(other) : partMesh(other))
  return isBentKey(shape) ? meshOfBentKey(shape, plain) : plain(shape)
}

/** A part's mesh, made ready for rays when that is first asked for. */
type PartMesh = { hash: string; mesh: Mesh; solid: Solid | null }
const solidOf = (part: PartMesh): Solid => (part.solid ??= new Solid(part.mesh))

/** Bytes of blocks and bent shapes that are kept, and what each counts for beside its arrays. */
const [MOST_MADE_BYTES, BYTES_EACH] = [256 * 1024 * 1024, 16 * 1024]
/** Names of bent shapes of which it is kept what they are made of. */
const MOST_NAMES = 20_000

/**
 * The meshes that shapes name. Those of parts are kept as they were put last; those of blocks and of what is bent are
 * made when they are asked for, and kept for a while. What is made of a mesh is known by that mesh's hash: nothing of a
 * part as it was is ever shown for the part as it is, and nobody has to be told to forget.
 */
export class ShapeLibrary {
  private readonly parts = new Map<string, PartMesh>()
  /** One of the parts that have each mesh. */
  private readonly byHash = new Map<string, PartMesh>()
  /** By their keys, the oldest first. */
  private readonly made = new Map<string, Solid>()
  private bytes = 0
  private readonly names = new Map<string, { base: string; hash?: string; key?: string }>()

  constructor(private readonly mostBytes = MOST_MADE_BYTES) {}

  /**
   * Takes a part's mesh, in place of the one before.
   *
   * @param hash of the mesh; or anything else that nothing else is known by
   */
  put(part: string, hash: string, mesh: Mesh): void {
    if (this.parts.get(part)?.hash === hash) return
    this.drop(part)
    const entry = { hash, mesh, solid: null }
    this.parts.set(part, entry)
    if (!this.byHash.has(hash)) this.byHash.set(hash, entry)
  }

  /** Lets a part go. */
  drop(part: string): void {
    const entry = this.parts.get(part)
    this.parts.delete(part)
    if (!entry || this.byHash.get(entry.hash) !== entry) return
    const other = [...this.parts.values()].find(({ hash }) => hash === entry.hash)
    if (other) this.byHash.set(entry.hash, other)
    else this.byHash.delete(entry.hash)
  }

  /** Whether a part's mesh is here. */
  has(part: string): boolean {
    return this.parts.has(part)
  }

  /**
   * What a shape's mesh is known by: the same mesh has the same key, another one another. Undefined while the part it
   * is of is not here.
   */
  keyOf(shape: string): string | undefined {
    if (isBlockKey(shape)) return shape
    if (!isBentKey(shape)) return this.parts.get(shape)?.hash
    let known = this.names.get(shape)
    if (!known) {
      if (this.names.size >= MOST_NAMES) this.names.clear()
      this.names.set(shape, (known = { base: baseOfShape(shape) }))
    }
    if (isBlockKey(known.base)) return shape
    const hash = this.parts.get(known.base)?.hash
    if (hash === undefined) return undefined
    if (known.hash !== hash) Object.assign(known, { hash, key: withBase(shape, hash) })
    return known.key
  }

  /**
   * What a shape names; undefined while the part it is of is not here. Each part has its own, also of equal meshes:
   * things are told apart by them.
   */
  readonly solid = (shape: string): Solid | undefined => {
    const part = this.parts.get(shape)
    if (part) return solidOf(part)
    const key = this.keyOf(shape)
    return key === undefined ? undefined : this.solidBy(key)
  }

  /** What is known by a key. */
  solidBy(key: string): Solid | undefined {
    const part = this.byHash.get(key)
    if (part) return solidOf(part)
    const found = this.made.get(key)
    if (found) return found
    const mesh = meshOfShape(key, hash => this.byHash.get(hash)?.mesh)
    return mesh && this.keep(key, new Solid(mesh))
  }

  private keep(key: string, solid: Solid): Solid {
    this.made.set(key, solid)
    this.bytes += solid.bytes + BYTES_EACH
    for (const [oldest, { bytes }] of this.made) {
      if (this.bytes <= this.mostBytes || this.made.size === 1) break
      this.made.delete(oldest)
      this.bytes -= bytes + BYTES_EACH
    }
    return solid
  }
}
