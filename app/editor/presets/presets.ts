import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { computed, ref } from 'vue'
import { z } from 'zod'
import { presetFieldsSchema } from '~~/core/level/preset'
import type { PresetFields } from '~~/core/level/preset'
import type { Preset } from '~~/core/level/schema'
import { firstIssue } from '~~/core/units/issue'
import { asName } from '~~/core/units/text'
import { orNothing } from '~/errors/or-nothing'
import { readJsonAs, readTextFile } from '../json-file'
import { useLevel } from '../level'
import { sameList } from '../same-list'
import { useSettings } from '../settings'
import { MOST_PRESETS } from '../settings-schema'
import { useStageSession } from '../stage-session'

/** Ours, which come with the program; of this person; or of the level, by its id. */
export type Kept = PresetFields & ({ of: 'us' } | { of: 'me' } | { of: 'level'; id: string })

const FORMAT = 'handy-grid preset'
const fileSchema = z.strictObject({ format: z.literal(FORMAT), version: z.literal(1), preset: presetFieldsSchema })
/** Bytes of a file with a preset, at most. */
const LARGEST = 200_000
/** Pixels of a small picture. */
const [WIDTH, HEIGHT] = [96, 60]
const LONGEST_PICTURE = 30_000

/** The numbers of forms, kept: with this person or with the level. */
export const usePresets = defineStore('presets', () => {
  const level = useLevel()
  const session = useStageSession()
  const { kept: mine } = useSettings()
  /** Of each form the one that was applied last, by its key. */
  const chosen = ref<Record<string, string>>({})

  const keyOf = (each: Kept) => (each.of === 'level' ? `level ${each.id}` : `${each.of} ${each.name}`)

  const ofLevel = computed((before?: readonly Preset[]) => sameList(before, [...level.view.presets.values()]))
  const levels = computed(() => ofLevel.value.map((each): Kept => ({ ...each, of: 'level' })))

  /** Those of a form: ours, one's own, the level's. */
  const allOf = (form: string, ours: readonly Kept[] = []): Kept[] => [
    ...ours,
    ...mine.presets.filter(each => each.form === form).map((each): Kept => ({ ...each, of: 'me' })),
    ...levels.value.filter(each => each.form === form),
  ]

  /** A small picture of what is on the stage now; null where there is none. */
  async function pictureNow(): Promise<string | null> {
    const blob = await session.stage?.picture(WIDTH, HEIGHT).catch(orNothing)
    if (!blob) return null
    const bytes = new Uint8Array(await blob.arrayBuffer())
    const text = `data:${blob.type};base64,${btoa(String.fromCharCode(...bytes))}`
    return text.length <= LONGEST_PICTURE && presetFieldsSchema.shape.picture.safeParse(text).success ? text : null
  }

  /**
   * Keeps the numbers of a form under a name; one of that name is replaced.
   *
   * @returns what is wrong, if they cannot be kept
   */
  async function keep(form: string, name: string, values: object, of: 'me' | 'level'): Promise<string | null> {
    const read = presetFieldsSchema.safeParse({
      form,
      name,
      values: JSON.parse(JSON.stringify(values)) as unknown,
      picture: await pictureNow(),
    })
    if (!read.success) return `This ${firstIssue(read.error).message}.`
    return put(read.data, of)
  }

  function put(given: PresetFields, of: 'me' | 'level'): string | null {
    // As plain values: what is reactive cannot be stored with a change.
    const preset = JSON.parse(JSON.stringify(given)) as PresetFields
    const isSame = (each: PresetFields) => each.form === preset.form && each.name === preset.name
    if (of === 'level') {
      const before = [...level.view.presets.values()].find(isSame)
      const id = before?.id ?? v7()
      if (!level.change(asName(`Keep the preset “${preset.name}”`), [{ do: 'put-preset', id, fields: preset }]))
        return 'It could not be kept with the level.'
      choose(preset.form, `level ${id}`)
      return null
    }
    const others = mine.presets.filter(each => !isSame(each))
    if (others.length >= MOST_PRESETS) return `There are ${MOST_PRESETS} presets; delete one first.`
    mine.presets = [...others, preset]
    choose(preset.form, `me ${preset.name}`)
    return null
  }

  function choose(form: string, key: string): void {
    chosen.value = { ...chosen.value, [form]: key }
  }

  function remove(each: Kept): void {
    const { [each.form]: _gone, ...others } = chosen.value
    chosen.value = others
    if (each.of === 'level')
      level.change(asName(`Delete the preset “${each.name}”`), [{ do: 'remove-preset', id: each.id }])
    else {
      mine.presets = mine.presets.filter(({ form, name }) => form !== each.form || name !== each.name)
      const { form, name, values, picture } = each
      level.notify(`The preset “${name}” was deleted`, [], {
        label: 'Bring it back',
        run: () => void put({ form, name, values, picture }, 'me'),
      })
    }
  }

  const asFile = ({ form, name, values, picture }: Kept) =>
    `${JSON.stringify({ format: FORMAT, version: 1, preset: { form, name, values, picture } }, null, 2)}\n`

  /** Takes one for a form from a file. @returns what is wrong with it; then nothing is taken */
  async function takeFile(file: Blob, form: string): Promise<string | null> {
    const given = await readTextFile(file, LARGEST, 'a preset')
    if (!given.ok) return given.error
    const read = readJsonAs(given.text, fileSchema)
    if (!read.ok) return read.error
    const { preset } = read.value
    if (preset.form !== form) return `It is for another form: “${preset.form}”.`
    return put(preset, 'me')
  }

  return { chosen, keyOf, allOf, keep, put, choose, remove, asFile, takeFile }
})
