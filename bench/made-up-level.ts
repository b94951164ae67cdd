import type { Matrix4 } from 'three'
import { PerspectiveCamera, Vector3 } from 'three'
import { LevelIndex } from '../core/scene/level-index'
import { Solid } from '../core/mesh/solid'
import { createPlacement } from '../core/level/create'
import type { LevelView } from '../core/scene/level-view'
import { bareView } from '../core/scene/level-view'
import type { Placement } from '../core/level/schema'
import { degreesToQuat } from '../core/math/transform'
import { lanternQuayKit } from '../demo/kit'

/**
 * Numbers that look random and are the same each time (a linear congruential generator; Numerical Recipes, from
 * memory).
 */
export function numbers(seed = 1): () => number {
  let state = seed
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32
}

export type MadeUpLevel = {
  level: LevelView
  index: LevelIndex
  camera: PerspectiveCamera
  projection: Matrix4
  ids: string[]
  /** The meshes of its parts. */
  solids: ReadonlyMap<string, Solid>
}

const kit = lanternQuayKit().filter(part => part.kind === 'prop')
const solids = new Map(kit.map(part => [part.id, new Solid(part.mesh)]))

/**
 * Props of Lantern Quay strewn over a square as large as their number asks for, so that it is as full everywhere
 * whatever the number; in groups of fifty. The camera sees the same at each size: a stretch of it from eye height.
 */
export function madeUpLevel(count: number): MadeUpLevel {
  const next = numbers()
  const side = Math.sqrt(count) * 1.6
  const id = (n: number) => `00000000-0000-7000-8000-${n.toString(16).padStart(12, '0')}`
  const placements: Placement[] = []
  for (let n = 0; n < count; n++) {
    if (n % 50 === 0)
      placements.push(
        createPlacement({ id: id(1e6 + n / 50), name: `Heap ${n / 50}`, kind: 'group', order: n, own: { open: true } }),
      )
    placements.push(
      createPlacement({
        id: id(n),
        name: `Prop ${n}`,
        kind: 'part',
        partId: kit[Math.floor(next() * kit.length)]!.id,
        parentId: id(1e6 + Math.floor(n / 50)),
        order: n,
        translation: [(next() - 0.5) * side, 0, (next() - 0.5) * side],
        rotation: degreesToQuat([0, next() * 360, 0]),
      }),
    )
  }
  const level = bareView(placements)
  const index = new LevelIndex(level, shape => solids.get(shape))
  const camera = new PerspectiveCamera(60, 1.5, 0.05, 60)
  camera.position.set(0, 6, 12)
  camera.lookAt(new Vector3(0, 0, 0))
  camera.updateMatrixWorld()
  const projection = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse)
  return { level, index, camera, projection, ids: placements.map(placement => placement.id), solids }
}

/** Median time of one run, in milliseconds, after a warm-up. */
export function median(runs: number, run: (i: number) => void): number {
  for (let i = 0; i < Math.min(runs, 50); i++) run(i)
  const times: number[] = []
  for (let i = 0; i < runs; i++) {
    const start = performance.now()
    run(i)
    times.push(performance.now() - start)
  }
  return times.sort((a, b) => a - b)[Math.floor(runs / 2)]!
}
