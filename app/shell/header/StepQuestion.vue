<script setup lang="ts">
import { computed } from 'vue'
import { fieldWord } from '~~/core/level/field-words'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

/** Asks before something is taken back, or done again, that others have changed since. */
const level = useLevel()
const settings = useSettings()
/** Lines for which there is room. */
const SHOWN = 6
const isOpen = computed({
  get: () => level.question !== null,
  set: () => (level.question = null),
})
const lines = computed(() =>
  (level.question?.found ?? []).slice(0, SHOWN).map(({ id, name, field, is, back, by }) => ({
    key: `${id} ${field}`,
    what: `${fieldWord(field)}${name ? ` of ${name}` : ''}`,
    is: inWords(is, field),
    back: back === undefined ? 'gone' : inWords(back, field),
    by: by ?? 'somebody else',
  })),
)
const more = computed(() => (level.question?.found.length ?? 0) - lines.value.length)

/** A value as it can be read at a glance; of what is larger only that it is another. */
function inWords(value: unknown, field: string): string {
  if (Array.isArray(value) && value.every(each => typeof each === 'number'))
    return written(value, field)
      .map(each => Number(each.toFixed(3)))
      .join(', ')
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  if (typeof value === 'number' || (typeof value === 'string' && value.length < 40)) return String(value)
  return value === null ? 'nothing' : 'otherwise'
}

/** Places and sizes as axes are written here. */
const written = (value: readonly number[], field: string) =>
  field === 'translation' || field === 'pivot'
    ? settings.axes.numbers(value)
    : field === 'scale'
      ? settings.axes.sorted(value)
      : value
</script>

<template>
  <FormDialog
    page="going-back"
    v-model="isOpen"
    title="Others have changed this since"
    max-width="560"
    data-test="step-question"
  >
    <p>&quot;{{ level.question?.label }}&quot; is yours. Of what it was about, others have changed meanwhile:</p>
    <ul class="lines">
      <li v-for="line in lines" :key="line.key">
        {{ line.what }}: now
        <strong class="mono">{{ line.is }}</strong>
        by {{ line.by }}, would be
        <strong class="mono">{{ line.back }}</strong>
      </li>
      <li v-if="more > 0">and {{ more }} more</li>
    </ul>
    <template #buttons>
      <v-btn @click="isOpen = false">Leave all as it is</v-btn>
      <v-btn v-if="level.question?.rest" @click="level.question.rest()">Keep theirs, the rest of mine</v-btn>
      <v-btn color="action" variant="flat" @click="level.question?.all()">Put it back all the same</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.lines {
  margin: 0 0 8px;
  padding-left: 20px;
  overflow-wrap: anywhere;
}
</style>
