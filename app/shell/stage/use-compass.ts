import { computed } from 'vue'
import { Vector3 } from 'three'
import { useStageSession } from '~/editor/stage-session'

/** The heading of the active view and turning it, for the compass rose. */
export function useCompass() {
  const session = useStageSession()

  /** Which way the view looks, in degrees clockwise from -Z as seen from above. */
  const heading = computed(() => {
    void session.stats
    const forward = session.stage?.view.directions().forward
    return forward ? (Math.atan2(forward.x, -forward.z) * 180) / Math.PI : 0
  })

  const lookFrom = (direction: [number, number, number]) =>
    session.stage?.view.lookFromDirection(new Vector3(...direction))

  function orbit(dx: number, dy: number): void {
    const view = session.stage?.view
    view?.orbit(dx * 2, dy * 2, view.target)
  }

  return { heading, lookFrom, orbit }
}
