import { defineStore } from 'pinia'
import { ref, watch } from 'vue'
import type { Relation } from '~~/core/level/schema'
import { relationOf } from '~~/core/relate/aims'
import { holdersOf } from '~~/core/relate/graph'
import { useLevel } from '~/editor/level'
import { useStageSession } from '~/editor/stage-session'
import type { PointerAt } from '~/editor/tools/gesture'
import { useTools } from '~/editor/tools'
import { ruleProblem, useKeeping } from '~/editor/keeping'

/** The link on the stage that was clicked: its number can be typed, and Delete means it. */
export const useChosenLink = defineStore('chosen-link', () => {
  const level = useLevel()
  const session = useStageSession()
  const keeping = useKeeping()
  const showPreview = useTools().claimPreview()
  /** The relation, while something that it ties is picked. */
  const chosen = ref<string | null>(null)

  /** Takes a link; clicked again, its number can be typed. */
  function choose(id: string, at: PointerAt): void {
    const relation = relationOf(level.view, id)
    if (!relation) return
    const hasNumber = keeping.numbersOf(relation).length > 0
    if (chosen.value === id && hasNumber) return typeNumber(relation, at)
    chosen.value = id
    session.readout = {
      at,
      title: keeping.nameOf(relation.held),
      value: keeping.say(relation),
      notes: [...(hasNumber ? ['click again to type its number'] : []), 'Delete lets go'],
    }
  }

  function leave(): void {
    chosen.value = null
    session.readout = null
  }

  /** Lets go of it for good. @returns whether there was one */
  function letGo(): boolean {
    const relation = chosen.value === null ? null : relationOf(level.view, chosen.value)
    if (!relation) return false
    leave()
    keeping.letGo([relation])
    return true
  }

  /** Types another number in its place; what that comes to is shown meanwhile. */
  function typeNumber(relation: Relation, at: PointerAt): void {
    const [number] = keeping.numbersOf(relation)
    if (!number) return
    const end = () => {
      showPreview(null)
      session.typed = null
    }
    let latest = number.value
    leave()
    session.typed = {
      at,
      title: `${keeping.nameOf(relation.held)}: ${keeping.say(relation)}`,
      fields: [{ label: number.label, quantity: number.quantity, value: number.value }],
      check: ([next]) => {
        latest = next!
        return ruleProblem(number.ruleWith(latest))
      },
      change: ([next]) =>
        showPreview([{ do: 'put-relation', id: relation.id, fields: { rule: number.ruleWith(next!) } }]),
      commit: () => {
        end()
        number.set(latest)
      },
      cancel: end,
    }
  }

  function leaveIfGone(): void {
    if (chosen.value === null) return
    const relation = relationOf(level.view, chosen.value)
    const isTied = relation && [relation.held, ...holdersOf(relation)].some(id => level.selection.ids.has(id))
    if (!isTied) leave()
  }
  watch(() => level.selection, leaveIfGone)
  level.onTouched(leaveIfGone)

  return { chosen, choose, letGo }
})
