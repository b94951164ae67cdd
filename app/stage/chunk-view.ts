import { Box3, Frustum, Matrix4 } from 'three'
import type { ChunkView } from './choose-chunks'
import type { View } from './view'

const [frustum, matrix, moved] = [new Frustum(), new Matrix4(), new Box3()]

/**
 * How a view sees chunks. It holds for the frame that is drawn next.
 *
 * @param toWorld from the axes that the chunks' boxes are in
 */
export function chunkView(view: View, toWorld: Matrix4): ChunkView {
  const { camera } = view
  camera.updateMatrixWorld()
  frustum.setFromProjectionMatrix(matrix.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse))
  const fixed = 1 / view.metresPerPixel(view.target)
  const pixels = view.rect.height / (2 * Math.tan((view.fieldOfView * Math.PI) / 360))
  return {
    isSeen: box => frustum.intersectsBox(moved.copy(box).applyMatrix4(toWorld)),
    distanceTo: box =>
      view.kind === 'walkaround' ? moved.copy(box).applyMatrix4(toWorld).distanceToPoint(view.eye) : 1,
    pixelsAt: distance => (view.kind === 'walkaround' ? pixels / Math.max(distance, 0.05) : fixed),
  }
}
