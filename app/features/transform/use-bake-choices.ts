import { computed, ref } from 'vue'
import type { BakeWhat } from '~~/core/edit/bake'
import { quatToDegrees } from '~~/core/math/transform'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useBaking } from '~/editor/baking'
import { instancesOf } from '~~/core/level/find'

/** What baking or resetting would do, in words, before it is done. */
export function useBakeChoices() {
  const level = useLevel()
  const kit = useKit()
  const edits = useEdits()
  const handling = useHandling()
  const baking = useBaking()
  const settings = useSettings()
  const what = ref<BakeWhat>('both')
  const all = ref(false)

  const isReset = computed(() => baking.bakeQuestion?.what.startsWith('reset') ?? false)
  const lead = computed(() => {
    return level.selection.last === null ? null : handling.lead()
  })
  const part = computed(() => {
    const partId = lead.value === null ? null : level.view.need(lead.value).partId
    return partId === null ? undefined : kit.part(partId)
  })
  const others = computed(() => (part.value ? instancesOf(level.view, part.value.id).length - 1 : 0))
  const canAll = computed(() => others.value > 0)
  const possible = computed(() =>
    isReset.value ? edits.picked().length > 0 : lead.value !== null && level.view.shapeOf(lead.value) !== null,
  )

  const says = computed((): string[] => {
    if (baking.bakeQuestion === null) return []
    if (isReset.value) return resetSays(baking.bakeQuestion.what === 'reset-size' ? 'size' : 'turn')
    if (!possible.value)
      return ['Only something that shows a shape of its own can be baked. Pick one thing of the kit or a block.']
    const { name, scale, rotation } = level.view.need(lead.value!)
    const size = scale.map(value => Number(value.toFixed(3))).join(' × ')
    const turn = quatToDegrees(rotation)
      .map(value => settings.angle(value))
      .join(', ')
    const folded =
      what.value === 'size'
        ? `The size of ${size}`
        : what.value === 'turn'
          ? `The turn of ${turn}`
          : `The size of ${size} and the turn of ${turn}`
    return [
      `${folded} of ${name} goes into its shape; the numbers go to rest. It looks and stands as before.`,
      all.value && canAll.value
        ? `A new part takes the place of ${part.value!.name} for all ${others.value + 1} instances in this level; the numbers of the others change so that nothing moves.`
        : `${name} gets a shape of its own and is no longer an instance. Nothing else changes.`,
      ...(scale.some(value => value < 0) && what.value !== 'turn'
        ? ['It is mirrored: its faces are turned over, so that they look outwards again.']
        : []),
    ]
  })

  function resetSays(row: 'size' | 'turn'): string[] {
    const ids = edits.picked()
    const changed = ids.filter(id =>
      row === 'size' ? level.view.need(id).scale.some(value => value !== 1) : level.view.need(id).rotation[3] !== 1,
    )
    const first = ids.length === 1 ? level.view.need(ids[0]!) : null
    const now =
      first
      && (row === 'size'
        ? first.scale.map(value => Number(value.toFixed(3))).join(' × ')
        : quatToDegrees(first.rotation)
            .map(value => settings.angle(value))
            .join(', '))
    return [
      first
        ? `The ${row} of ${first.name} goes from ${now} to ${row === 'size' ? '1 × 1 × 1' : '0°, 0°, 0°'}.`
        : `The ${row} of ${changed.length} of ${ids.length} picked things is thrown away.`,
      'They stay where their pivots are; what hangs from them goes along.',
    ]
  }

  return { isReset, what, all, canAll, says, possible }
}
