import { Matrix4, Quaternion, Vector3 } from 'three'
import { extrasOf, isCamera, isLight } from '../../level/kinds'
import { strengthOf } from '../../level/kinds/part'
import { bakeMesh } from '../../mesh/bake-mesh'
import { mergeMeshes } from '../../mesh/merge-meshes'
import type { Mesh } from '../../mesh/mesh'
import { meshBytes, triangleCount } from '../../mesh/mesh'
import type { LevelView } from '../../scene/level-view'
import { HandOverError } from './hand-over-error'
import type { SceneFile } from './scene-file'
import type { SceneOptions, SceneReport } from './scene-writer'
import { Counted } from './share'
import type { PartSource } from './shapes'
import { shapeNamed, withShare } from './shapes'
import type { ShownShape } from './shown'
import { shownMarks, shownShapes } from './shown'

/** Where a mark stands and how it is turned: it has no shape that a size or a skew would change. */
function at(matrix: Matrix4): { translation: number[]; rotation: number[] } {
  const [translation, rotation] = [new Vector3(), new Quaternion()]
  matrix.decompose(translation, rotation, new Vector3())
  return { translation: translation.toArray(), rotation: rotation.normalize().toArray() }
}

/** Triangles of one square; more would be too much to hold at once. */
const MOST_TRIANGLES = 4_000_000
/** Bytes of all squares together. */
const MOST_BYTES = 1024 ** 3
const FLAT = 1e-15

/** @throws HandOverError with what it would be, if that is more than is merged */
async function refuseTooLong(shown: Iterable<ShownShape>, partOf: PartSource, share: number): Promise<void> {
  let [bytes, triangles] = [0, 0]
  for (const { shape, matrices } of shown) {
    const { mesh } = await shapeNamed(shape, partOf)
    bytes += (meshBytes(mesh) * share * matrices.length) / 16
    triangles += (triangleCount(mesh) * share * matrices.length) / 16
  }
  const megabytes = (of: number) => `${Math.ceil(of / 1024 / 1024).toLocaleString('en')} MB`
  if (bytes > MOST_BYTES)
    throw new HandOverError(
      `Merged, this would be ${Math.round(triangles).toLocaleString('en')} triangles in ${megabytes(bytes)}, and ${megabytes(MOST_BYTES)} are merged at most. Hand over a layer, or instances, which share their shapes.`,
    )
}

/**
 * Writes a level without its tree: what stands in one square of the ground is one mesh, with one primitive for each
 * finish, in the world's axes around the square's corner. A thing is in the square where its own origin is. Cameras,
 * lights and markers stay nodes.
 *
 * @param side of a square in metres
 * @throws HandOverError if one square has too many triangles, or the file would be too long; before it begins
 */
export async function writeMerged(
  file: SceneFile,
  level: LevelView,
  partOf: PartSource,
  { scope, hidden, triangles: share, onShare }: SceneOptions,
  side: number,
): Promise<SceneReport> {
  const report: SceneReport = { nodes: 0, meshes: 0, triangles: 0, leftOut: 0 }
  const squares = new Map<string, { x: number; z: number; shown: Map<string, number[]> }>()
  await refuseTooLong(shownShapes(level, scope, hidden), partOf, share)
  for (const { shape, matrices } of shownShapes(level, scope, hidden)) {
    for (let i = 0; i < matrices.length; i += 16) {
      const [x, z] = [Math.floor(matrices[i + 12]! / side), Math.floor(matrices[i + 14]! / side)]
      const key = `${x} ${z}`
      let square = squares.get(key)
      if (!square) squares.set(key, (square = { x, z, shown: new Map() }))
      const list = square.shown.get(shape)
      if (list) list.push(...matrices.subarray(i, i + 16))
      else square.shown.set(shape, [...matrices.subarray(i, i + 16)])
    }
  }
  const counted = new Counted(squares.size, onShare)
  for (const { x, z, shown } of [...squares.values()].sort((a, b) => a.z - b.z || a.x - b.x)) {
    counted.pass()
    const toSquare = new Matrix4().makeTranslation(-x * side, 0, -z * side)
    const meshes: Mesh[] = []
    let count = 0
    for (const [shape, matrices] of shown) {
      const mesh = await withShare((await shapeNamed(shape, partOf)).mesh, share)
      for (let i = 0; i < matrices.length; i += 16) {
        const matrix = new Matrix4().fromArray(matrices, i).premultiply(toSquare)
        if (!(Math.abs(matrix.determinant()) > FLAT)) {
          report.leftOut++
          continue
        }
        count += triangleCount(mesh)
        if (count > MOST_TRIANGLES)
          throw new HandOverError(
            `A square of ${side} m has more than ${MOST_TRIANGLES.toLocaleString('en')} triangles. Take smaller squares.`,
          )
        meshes.push(bakeMesh(mesh, matrix))
      }
    }
    if (meshes.length === 0) continue
    const name = `Square ${x}, ${z}`
    report.meshes++
    report.triangles += count
    await file.addNode(null, {
      name,
      mesh: await file.addMesh(name, mergeMeshes(meshes)),
      translation: [x * side, 0, z * side],
    })
  }
  for (const { id, matrix } of shownMarks(level, scope, hidden)) {
    const { name, own, partId, kind } = level.need(id)
    if (partId === null)
      await file.addNode(null, {
        name,
        ...at(matrix),
        ...(isCamera(own) ? { camera: own } : isLight(own) ? { light: { own, strength: 1 } } : {}),
        extras: { placement: id, ...extrasOf({ kind, own }) },
      })
    else
      for (const lamp of level.lampsOf(partId))
        await file.addNode(null, {
          name: `${name}, lamp`,
          ...at(
            matrix
              .clone()
              .multiply(
                new Matrix4().makeRotationFromQuaternion(new Quaternion(...lamp.rotation)).setPosition(...lamp.at),
              ),
          ),
          light: { own: lamp.light, strength: strengthOf(own) },
        })
  }
  return { ...report, nodes: file.nodeCount }
}
