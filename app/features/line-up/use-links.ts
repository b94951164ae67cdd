import { Vector3 } from 'three'
import { watch } from 'vue'
import type { Operation, Relation } from '~~/core/level/schema'
import { placeOfEnd } from '~~/core/measure/definition'
import { relationOf } from '~~/core/relate/aims'
import { holdersOf, relationsIn } from '~~/core/relate/graph'
import { thingOf } from '~~/core/relate/standing'
import { PreviewedPlaces } from '~~/core/scene/preview'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useKeeping } from '~/editor/keeping'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useChosenLink } from './chosen-link'
import type { Gesture } from '~/editor/tools/gesture'
import type { Link } from './relation-marks'
import { RelationMarks } from './relation-marks'

/** A link is clicked, not dragged: what it ties is. */
const NOTHING: Gesture = { move: () => {}, end: () => {}, cancel: () => {} }
/** Names the link of what would be kept. */
const POINTED = 'pointed'
/** Links that are drawn at a time. */
const MOST = 200

/** Ties what is picked to what holds it, and to what it holds, on the stage, also while something is dragged. */
export function useLinks(): void {
  const level = useLevel()
  const session = useStageSession()
  const { kept } = useSettings()
  const link = useChosenLink()
  const keeping = useKeeping()
  const modes = useModes()
  const show = () => {
    const { stage } = session
    if (!stage) return
    stage.layer(RelationMarks).set(kept.show.links ? links() : [])
    stage.requestOverlay()
  }
  watch(
    [
      () => session.stage,
      () => level.view,
      () => level.selection,
      () => level.previewed,
      () => kept.show.links,
      () => link.chosen,
      () => keeping.pointed,
    ],
    show,
  )
  modes.onGrasp(key => relationOf(level.view, key) && { drag: NOTHING, click: to => link.choose(key, to) })
  level.onTouched(show)

  /** What is shown of a drag; of thousands that it moves as much as tells where some relations lead. */
  function previewedOf(relations: readonly Relation[]): Operation[] {
    const { previewed, view } = level
    const ids = new Set<string>(previewed.size <= MOST ? previewed.keys() : [])
    for (const relation of previewed.size > MOST ? relations : [])
      for (const end of [relation.held, ...holdersOf(relation)])
        for (let at: string | null = end; at !== null && !ids.has(at); at = view.get(at)?.parentId ?? null) ids.add(at)
    return [...ids].flatMap((id): Operation[] => {
      const fields = previewed.get(id)
      return fields ? [{ do: 'put', id, fields }] : []
    })
  }

  function links(): Link[] {
    const { byHeld, heldBy } = relationsIn(level.view)
    const { pointed } = keeping
    if (byHeld.size === 0 && !pointed) return []
    const tied = (id: string) => [
      ...(byHeld.get(id) ?? []),
      ...[...(heldBy.get(thingOf(id)) ?? [])]
        .slice(0, MOST)
        .flatMap(held => byHeld.get(held)!.filter(relation => holdersOf(relation).includes(thingOf(id)))),
    ]
    const found = new Set<Relation>([...level.selection.ids].slice(0, MOST).flatMap(tied))
    if (pointed) found.add({ ...pointed, id: POINTED })
    if (found.size === 0) return []
    const shown = [...found].slice(0, MOST)
    const places = new PreviewedPlaces(level.view, previewedOf(shown))
    const where = { level: level.view, matrixOf: places.matrixOf }
    return shown.flatMap(({ id, held, point, holders, rule }) => {
      if (!level.view.has(held)) return []
      const own = new Vector3(...point).applyMatrix4(places.matrixOf(held))
      return holders.map(
        (holder): Link => ({
          key: id,
          held: own,
          // What it rests on is below it, wherever on that it was put.
          holder: rule.kind === 'on' ? own : placeOfEnd(holder, where).at,
          isChosen: id === link.chosen || id === POINTED,
        }),
      )
    })
  }
}
