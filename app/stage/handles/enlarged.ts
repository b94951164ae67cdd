import type { View } from '../view'

/** What handles ask of a view. */
export type SeenBy = Pick<View, 'eye' | 'project' | 'rayAt' | 'metresPerPixel' | 'sightOf' | 'directions' | 'boxAround'>

/**
 * A view in pixels that are larger than the screen's: what keeps its size in pixels is drawn, and found, so much
 * larger.
 *
 * @param size pixels of the screen for one of these
 */
export function enlarged(view: View, size: number): SeenBy {
  if (size === 1) return view
  const project: View['project'] = point => {
    const seen = view.project(point)
    return seen && { x: seen.x / size, y: seen.y / size }
  }
  return {
    eye: view.eye,
    project,
    rayAt: (at, target) => view.rayAt({ x: at.x * size, y: at.y * size }, target),
    metresPerPixel: point => view.metresPerPixel(point) * size,
    sightOf: point => view.sightOf(point),
    directions: () => view.directions(),
    boxAround: (points, margin) => {
      const box = view.boxAround(points, margin * size)
      return box && { left: box.left / size, right: box.right / size, top: box.top / size, bottom: box.bottom / size }
    },
  }
}
