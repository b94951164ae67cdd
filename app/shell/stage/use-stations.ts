import { computed, ref } from 'vue'
import { Vector3 } from 'three'
import type { Station } from '~~/core/level/schema'
import { useStageSession } from '~/editor/stage-session'
import { useLevel } from '~/editor/level'

const current = ref<string | null>(null)

/** The level's saved viewpoints in their order, and jumping between them. */
export function useStations() {
  const level = useLevel()
  const session = useStageSession()

  const stations = computed(() => {
    return [...level.view.stations.values()].sort((a, b) => a.order - b.order)
  })

  function jump({ id, eye, target, fieldOfView }: Station): void {
    const { stage } = session
    if (!stage) return
    current.value = id
    const pane =
      session.panes.find(entry => entry.active && entry.kind === 'walkaround')
      ?? session.panes.find(entry => entry.kind === 'walkaround')
    const number = pane?.pane ?? stage.panes.activePane
    session.changePane({ kind: 'walkaround', fieldOfView }, number)
    stage.panes.views[number]!.lookFrom(new Vector3(...eye), new Vector3(...target), true)
  }

  /** To the next station, or with -1 to the one before, round and round. */
  function step(by: 1 | -1): void {
    const list = stations.value
    if (list.length === 0) return
    const at = list.findIndex(station => station.id === current.value)
    jump(list[(Math.max(at, by === 1 ? -1 : 0) + by + list.length) % list.length]!)
  }

  return { stations, current, jump, step }
}
