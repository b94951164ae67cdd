import { computed, reactive } from 'vue'
import { nameSchema } from '~~/core/level/fields'
import type { Part } from '~~/core/level/part'
import { readTags } from '~~/core/level/part'

/** What a person says of a part, as it is typed. */
export type PartFields = { name: string; kind: Part['kind']; tags: string }

/** The form that says what a part is called and found by. */
export function usePartFields() {
  const fields = reactive<PartFields>({ name: '', kind: 'prop', tags: '' })
  const wrong = computed(() => {
    const name = nameSchema.safeParse(fields.name).error?.issues[0]?.message
    if (name !== undefined) return `The name ${name}.`
    return readTags(fields.tags) === null ? 'At most 20 tags, with commas between them.' : null
  })
  const ready = computed(() => ({ name: fields.name.trim(), kind: fields.kind, tags: readTags(fields.tags) ?? [] }))
  return { fields, wrong, ready }
}
