import { baseOfShape } from '../../arrange/path/bent-key'
import { isBlockKey } from '../../mesh/block-key'
import type { Mesh } from '../../mesh/mesh'
import { triangleCount } from '../../mesh/mesh'
import { reduceMesh } from '../../mesh/reduce'
import type { Part } from '../../level/part'
import { meshOfShape } from '../../scene/shapes'

/** What is needed of a part to hand it over; its facts, if it is to be known again where it comes back. */
export type PartToHandOver = { name: string; mesh: Mesh; facts?: PartFacts }

/** What is said of a part beside its mesh. */
export type PartFacts = Pick<Part, 'id' | 'kit' | 'kind' | 'tags' | 'pivot' | 'sockets' | 'lamps' | 'settlesAs'>

/** A part by its id; asked for whenever its mesh is needed. */
export type PartSource = (id: string) => PartToHandOver | undefined | Promise<PartToHandOver | undefined>

/**
 * What a shape's name stands for: a part, a block, or a piece bent along a path.
 *
 * @throws RangeError if there is no such part
 */
export async function shapeNamed(shape: string, partOf: PartSource): Promise<PartToHandOver> {
  const base = baseOfShape(shape)
  const part = isBlockKey(base) ? null : await partOf(base)
  if (part === undefined) throw new RangeError(`there is no part ${base}`)
  if (part && base === shape) return part
  return { name: base === shape ? 'Block' : 'Bent', mesh: meshOfShape(shape, () => part?.mesh)! }
}

/** A mesh with fewer triangles would not be known again. */
const FEW = 24

/** A mesh with a share of its triangles; as it is if it has few, or nothing would be left of it. */
export async function withShare(mesh: Mesh, share: number): Promise<Mesh> {
  const wanted = Math.max(FEW, Math.ceil(triangleCount(mesh) * share))
  if (share >= 1 || wanted >= triangleCount(mesh)) return mesh
  const { mesh: reduced } = await reduceMesh(mesh, wanted)
  return triangleCount(reduced) > 0 ? reduced : mesh
}
