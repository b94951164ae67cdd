import type { Matrix4 } from 'three'
import { bakeMesh } from '../mesh/bake-mesh'
import { mergeMeshes } from '../mesh/merge-meshes'
import type { Mesh } from '../mesh/mesh'
import { MOST_TRIANGLES, triangleCount } from '../mesh/mesh'
import type { Solid } from '../mesh/solid'
import { entriesOf, within } from './entries'
import type { LevelView } from './level-view'

/** A level cannot become one mesh, with what to do instead. */
export class LevelMeshError extends Error {
  override name = 'LevelMeshError'
}

/**
 * All that a level shows as one mesh in the level's own axes: one primitive for each finish. What is hidden is left
 * out, and so are cameras, lights and markers, which have no shape. The same level always gives the same mesh.
 *
 * @param solidOf the mesh a shape names
 * @throws LevelMeshError if nothing is shown, or more than a part may have
 */
export function levelMesh(level: LevelView, solidOf: (shape: string) => Solid | undefined): Mesh {
  const shown: { solid: Solid; matrix: Matrix4 }[] = []
  let triangles = 0
  for (const id of inOrder(level)) {
    if (level.isHidden(id)) continue
    for (const entry of entriesOf(level, solidOf, id)) {
      for (const each of within(entry, () => true)) {
        triangles += triangleCount(each.solid.mesh)
        if (triangles > MOST_TRIANGLES)
          throw new LevelMeshError(
            `This has more than ${MOST_TRIANGLES.toLocaleString('en')} triangles, which is more than a part may have.`,
          )
        // A matrix that takes all size away leaves nothing to be seen.
        if (Math.abs(each.matrix.determinant()) > FLAT) shown.push(each)
      }
    }
  }
  if (shown.length === 0) throw new LevelMeshError('Nothing of this has a shape that is shown.')
  return mergeMeshes(shown.map(({ solid, matrix }) => bakeMesh(solid.mesh, matrix)))
}

const FLAT = 1e-15

/** All placements as they are listed: what a database answers has no order. */
function inOrder(level: LevelView): string[] {
  return level.children(null).flatMap(id => level.subtree(id))
}
