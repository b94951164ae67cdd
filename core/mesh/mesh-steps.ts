import type { Mesh } from './mesh'
import { triangleCount } from './mesh'
import { reduceMesh } from './reduce'

/** A mesh with fewer triangles, and how far it lies from the whole one at most, in metres. */
export type MeshStep = { mesh: Mesh; error: number }

/** Shares of the triangles; a mesh with few is not reduced any further. */
const SHARES = [0.25, 0.06]
const FEW = 24

/** The meshes that stand for one at a distance, the nearer first. None of a mesh that has few triangles already. */
export async function meshSteps(mesh: Mesh): Promise<MeshStep[]> {
  const all = triangleCount(mesh)
  const steps: MeshStep[] = []
  let before = all
  for (const share of SHARES) {
    const wanted = Math.max(FEW, Math.floor(all * share))
    if (wanted > before * 0.7) continue
    const step = await reduceMesh(mesh, wanted)
    const after = triangleCount(step.mesh)
    // What could hardly be reduced is not worth another mesh.
    if (after === 0 || after > before * 0.7 || !Number.isFinite(step.error)) continue
    steps.push(step)
    before = after
  }
  return steps
}
