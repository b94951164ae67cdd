import { computed } from 'vue'
import { Vector3 } from 'three'
import { useEditor } from '~/stores/editor'

/** The heading of the active view and turning it, for the compass rose. */
export function useCompass() {
  const editor = useEditor()

  /** Which way the view looks, in degrees clockwise from -Z as seen from above. */
  const heading = computed(() => {
    void editor.stats
    const forward = editor.stage?.view.directions().forward
    return forward ? Math.atan2(forward.x, -forward.z) * 180 / Math.PI : 0
  })

  const lookFrom = (direction: [number, number, number]) => editor.stage?.view.lookFromDirection(new Vector3(...direction))

  function orbit(dx: number, dy: number): void {
    const view = editor.stage?.view
    view?.orbit(dx * 2, dy * 2, view.target)
  }

  return { heading, lookFrom, orbit }
}
