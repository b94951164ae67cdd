import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { v7 } from 'uuid'
import type { Swap, SwapRule, SwapShape } from '~~/core/edit/swap-part'
import { showingPart, swapParts } from '~~/core/edit/swap-part'
import { useEdits } from '~/editor/edits'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useSteps } from '~/editor/steps'
import { useTools } from '~/editor/tools'
import { counted } from '~~/core/units/plural'

export type SwapScope = 'picked' | 'instances' | 'found'

/** Another part in the place of what is picked, of all instances of its part, or of what a text finds. */
export const useSwapping = defineStore('swapping', () => {
  const level = useLevel()
  const kit = useKit()
  const edits = useEdits()
  const tools = useTools()
  const showPreview = tools.claimPreview()
  const steps = useSteps()
  const isOn = ref(false)
  const scope = ref<SwapScope>('picked')
  const text = ref('')
  const rule = shallowRef<SwapRule>({ fit: false, by: 'pivot' })

  const partId = computed(() =>
    level.selection.last === null ? null : (level.view.get(level.selection.last)?.partId ?? null),
  )

  /** What would be swapped. */
  const ids = computed((): string[] => {
    if (scope.value === 'found')
      return edits.find(text.value).filter(id => level.view.need(id).partId !== null && !level.view.isLocked(id))
    if (scope.value === 'instances') return partId.value === null ? [] : showingPart(level.view, partId.value)
    return edits.picked().filter(id => !level.view.isLocked(id))
  })

  function start(): void {
    scope.value = 'picked'
    isOn.value = true
    steps.open('kit')
  }

  function stop(): void {
    isOn.value = false
    showPreview(null)
  }

  function swap(to: string): Swap | null {
    const part = kit.part(to)
    const box = kit.solid(to)?.bounds
    if (!part || !box || ids.value.length === 0) return null
    return swapParts(level.view, ids.value, to, { box, pivot: part.pivot }, rule.value, shapeOf, v7)
  }

  function shapeOf(id: string): SwapShape | undefined {
    const shape = level.view.shapeOf(id)
    const solid = shape === null ? undefined : kit.solid(shape)
    return solid && { box: solid.bounds, pivot: kit.part(shape!)?.pivot ?? [0, 0, 0] }
  }

  /** Shows how it would be with a part; null ends that. */
  function preview(to: string | null): void {
    showPreview(to === null ? null : (swap(to)?.operations ?? null))
  }

  function commit(to: string): void {
    const made = swap(to)
    showPreview(null)
    if (!made) return
    const count = ids.value.length
    const name = kit.part(to)?.name ?? ''
    if (made.operations.length > 0 && level.change(`Swap ${counted(count, 'thing')} for ${name}`, made.operations))
      isOn.value = false
    if (made.left.length > 0)
      level.notify(
        `${made.left.length === 1 ? 'One was' : `${made.left.length} were`} not swapped`,
        made.left.slice(0, 4).map(each => `${each.name} ${each.why}.`),
      )
  }

  return { isOn, scope, text, rule, ids, partId, start, stop, preview, commit }
})
