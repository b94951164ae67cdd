import { Frustum, Matrix4 } from 'three'
import type { ChunkView } from './choose-chunks'
import type { View } from './view'

const [frustum, matrix] = [new Frustum(), new Matrix4()]

/** How a view sees chunks. It holds for the frame that is drawn next. */
export function chunkView(view: View): ChunkView {
  const { camera } = view
  camera.updateMatrixWorld()
  frustum.setFromProjectionMatrix(matrix.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse))
  const fixed = 1 / view.metresPerPixel(view.target)
  const pixels = view.rect.height / (2 * Math.tan((view.fieldOfView * Math.PI) / 360))
  return {
    isSeen: box => frustum.intersectsBox(box),
    distanceTo: box => (view.kind === 'walkaround' ? box.distanceToPoint(view.eye) : 1),
    pixelsAt: distance => (view.kind === 'walkaround' ? pixels / Math.max(distance, 0.05) : fixed),
  }
}
