import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { Vector3 } from 'three'
import { UP } from '~~/core/edit/handles/axes'
import { movePlacements } from '~~/core/edit/handles/move'
import type { NudgeWay } from '~~/core/edit/handles/nudge'
import { nudgeDirection } from '~~/core/edit/handles/nudge'
import { turnAbout, turnPlacements } from '~~/core/edit/handles/turn'
import type { Placement } from '~~/core/level/schema'
import { useStageSession } from '~/editor/stage-session'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

/** A transform that was copied, to be given to other things. */
export type CopiedTransform = Pick<Placement, 'translation' | 'rotation' | 'scale'> & { from: string }

/** What changes where things stand and how they are turned, without a drag. */
export const useShaping = defineStore('shaping', () => {
  const level = useLevel()
  const session = useStageSession()
  const edits = useEdits()
  const handling = useHandling()
  const settings = useSettings()
  const copied = shallowRef<CopiedTransform | null>(null)

  const { picked, label } = edits

  /** Moves what is picked by grid steps along what is right, away or up on the screen. */
  function nudge(way: NudgeWay, steps: number): void {
    const view = session.stage?.view
    const ids = handling.movable()
    if (!view || ids.length === 0) return
    const { size } = settings.kept.steps.grid
    const direction = nudgeDirection(way, view.kind, view.directions(), handling.axes(view.directions()))
    level.change(
      label('Nudge', ids),
      movePlacements(level.view, ids, direction.multiplyScalar(size * steps)),
      `nudge ${ids.join()}`,
    )
  }

  /** Turns what is picked by one turn step around the vertical. */
  function quickTurn(steps: number): void {
    const ids = handling.movable()
    const around = handling.around()
    if (ids.length === 0) return
    const turn = turnAbout(UP.clone(), settings.kept.steps.turn.size * steps)
    level.change(
      label('Turn', ids),
      turnPlacements(level.view, ids, turn, around && new Vector3(...around)),
      `turn ${ids.join()}`,
    )
  }

  function copyTransform(): void {
    const last = handling.lead()
    if (last === null) return
    const { translation, rotation, scale, name } = level.view.need(last)
    copied.value = { translation, rotation, scale, from: name }
  }

  function pasteTransform(): void {
    if (!copied.value) return
    const { from: _from, ...fields } = copied.value
    const ids = picked()
    level.change(
      label('Give a transform to', ids),
      ids.map(id => ({ do: 'put', id, fields })),
    )
  }

  return { copied, nudge, quickTurn, copyTransform, pasteTransform }
})
