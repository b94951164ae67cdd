import { defineStore } from 'pinia'
import { computed } from 'vue'
import { v7 } from 'uuid'
import type { Operation, Placement } from '~~/core/level/schema'
import type { SkyFields } from '~~/core/level/sky'
import { FIRST_SKIES } from '~~/core/level/sky'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

/** The light around the level, and its parts' lamps all at once. */
export const useLighting = defineStore('lighting', () => {
  const level = useLevel()
  const settings = useSettings()
  const kit = useKit()

  /** Under which of the level's skies this person looks at it. */
  const shownUnder = computed({
    get: () => settings.lookAt(level.summary?.id).sky,
    set: sky => settings.setLook(level.summary?.id, { sky }),
  })
  const of = computed(() => (shownUnder.value === 'board' ? settings.board : shownUnder.value))
  const recordOf = (which: SkyFields['of']) => [...level.view.skies.values()].find(sky => sky.of === which)
  /** The sky in force. */
  const sky = computed((): SkyFields => recordOf(of.value) ?? FIRST_SKIES[of.value])

  function changeSky(fields: Partial<SkyFields>): void {
    const record = recordOf(of.value)
    const label = `Change the light of the ${of.value}`
    level.change(
      label,
      [{ do: 'put-sky', id: record?.id ?? v7(), fields: record ? fields : { ...FIRST_SKIES[of.value], ...fields } }],
      `sky ${of.value} ${Object.keys(fields).join()}`,
    )
  }

  /** Placements whose part brings lamps. */
  const withLamps = computed(() =>
    [...level.view.placements()].filter(({ partId }) => partId !== null && (kit.part(partId)?.lamps.length ?? 0) > 0),
  )

  /** Those of a tag, of a layer, or that are picked; all without a choice. */
  function lampsOf(by: { tag?: string; layerId?: string; picked?: true }): Placement[] {
    const { ids } = level.selection
    return withLamps.value.filter(
      ({ id, partId, layerId }) =>
        (by.tag === undefined || kit.tagsOf(partId!).includes(by.tag))
        && (by.layerId === undefined || layerId === by.layerId)
        && (!by.picked || [...ids].some(picked => level.view.isWithin(id, picked))),
    )
  }

  /** How strong these lamps shine, together; null if they differ. */
  function strengthOf(lamps: readonly Placement[]): number | null {
    const strengths = new Set(lamps.map(({ own }) => ('lamp' in own && own.lamp !== undefined ? own.lamp : 1)))
    return strengths.size === 1 ? [...strengths][0]! : null
  }

  function setLamps(lamps: readonly Placement[], strength: number): void {
    const operations = lamps.map(
      ({ id }): Operation => ({ do: 'put', id, fields: { own: strength === 1 ? {} : { lamp: strength } } }),
    )
    level.change(
      strength === 0
        ? `Switch off ${lamps.length} lamps`
        : `Set ${lamps.length} lamps to ${Math.round(strength * 100)} %`,
      operations,
    )
  }

  return { shownUnder, of, sky, changeSky, withLamps, lampsOf, strengthOf, setLamps }
})
