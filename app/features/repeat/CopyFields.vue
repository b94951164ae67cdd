<script setup lang="ts">
import { computed } from 'vue'
import type { ArrangementOwn, Exception } from '~~/core/arrange/arrangement'
import { placeOfKey } from '~~/core/arrange/keys'
import { definitionOf } from '~~/core/arrange/rules'
import { useLevel } from '~/editor/level'
import { useRepeating } from './repeating'
import { copyId, copyOf } from '~~/core/scene/copy-id'
import { counted } from '~~/core/units/plural'

const props = defineProps<{ own: ArrangementOwn }>()
const level = useLevel()
const repeating = useRepeating()
/** As many as the list shows; the rest are counted. */
const MOST_LISTED = 40

const places = computed(() =>
  repeating.current === null ? null : (level.view.copies(repeating.current)?.keys ?? null),
)
const exceptions = computed(() => Object.entries(props.own.exceptions ?? {}))
const picked = computed(() => repeating.copyKey)
const many = computed(() => repeating.pickedCopies.length > 1)
const pickedException = computed(() => (picked.value === null ? undefined : props.own.exceptions?.[picked.value]))

const nameOf = (key: string) => definitionOf(props.own.rule).nameOf(props.own.rule, placeOfKey(key))

const about = (exception: Exception) =>
  [
    ...(exception.added ? ['put down by hand'] : []),
    ...(exception.hidden ? ['hidden'] : []),
    ...(exception.move ? ['moved'] : []),
    ...(exception.turn ? ['turned'] : []),
    ...(exception.size ? ['sized'] : []),
    ...(exception.source === undefined ? [] : [`shows ${repeating.names[exception.source] ?? 'another source'}`]),
  ].join(', ')

function pick(key: string, exception: Exception): void {
  if (repeating.current !== null && !exception.hidden) level.pick([copyId(repeating.current, key)])
}

/** As it would be without what differs; what was put down by hand stays down. */
const without = ({ added }: Exception): Exception | null => (added ? { added } : null)

function resetAll(): void {
  repeating.setOwn({
    ...props.own,
    exceptions: Object.fromEntries(
      exceptions.value.flatMap(([key, exception]) => (without(exception) ? [[key, without(exception)!]] : [])),
    ),
  })
}

function resetPicked(): void {
  const keys = new Set(repeating.pickedCopies.map(id => copyOf(id)!.key))
  repeating.setOwn({
    ...props.own,
    exceptions: Object.fromEntries(
      exceptions.value.flatMap(([key, exception]) =>
        !keys.has(key) ? [[key, exception]] : without(exception) ? [[key, without(exception)!]] : [],
      ),
    ),
  })
}

function hidePicked(): void {
  const ids = repeating.pickedCopies
  level.change(
    ids.length === 1 ? 'Hide one copy' : `Hide ${ids.length} copies`,
    ids.map(id => ({ do: 'remove' as const, id })),
  )
}

function setSource(index: number): void {
  if (picked.value === null) return
  const { source: _old, ...others } = pickedException.value ?? {}
  const next = index < 0 ? others : { ...others, source: index }
  repeating.setException(picked.value, Object.keys(next).length > 0 ? next : null)
}
</script>

<template>
  <div v-if="picked !== null" class="copy" data-test="picked-copy">
    <p class="line">
      <span>Picked</span>
      <strong>{{ many ? `${repeating.pickedCopies.length} copies` : nameOf(picked) }}</strong>
    </p>
    <p class="quiet hint">
      Move, turn or size it alone: it stays an exception, whatever the counts. A frame drawn now picks further copies.
    </p>
    <FormLine v-if="repeating.names.length > 1" label="Shows">
      <Choice
        :model-value="pickedException?.source ?? -1"
        :options="[
          { value: -1, name: 'what its turn says' },
          ...repeating.names.map((name, value) => ({ value, name })),
        ]"
        label="Source of this copy"
        @update:model-value="setSource"
      />
    </FormLine>
    <div class="line">
      <v-btn @click="hidePicked">Hide {{ many ? 'them' : 'it' }}</v-btn>
      <v-btn @click="resetPicked">Reset {{ many ? 'them' : 'it' }}</v-btn>
      <v-btn @click="repeating.releasePickedCopy()">Release {{ many ? 'them' : 'it' }}</v-btn>
    </div>
  </div>
  <p v-else class="quiet hint">Click once more on a copy to pick it alone.</p>
  <template v-if="exceptions.length > 0">
    <h3>{{ counted(exceptions.length, 'exception') }}</h3>
    <ul class="list" aria-label="Exceptions">
      <li v-for="[key, exception] in exceptions.slice(0, MOST_LISTED)" :key="key" :class="{ current: key === picked }">
        <v-btn class="link name" variant="plain" @click="pick(key, exception)">{{ nameOf(key) }}</v-btn>
        <span class="quiet">{{ about(exception) }}{{ places?.indexOf(key) == null ? ' (has no place now)' : '' }}</span>
        <v-btn
          class="link"
          variant="plain"
          :aria-label="`Reset ${nameOf(key)}`"
          @click="repeating.setException(key, without(exception))"
        >
          Reset
        </v-btn>
      </li>
    </ul>
    <p v-if="exceptions.length > MOST_LISTED" class="quiet hint">and {{ exceptions.length - MOST_LISTED }} more</p>
    <v-btn @click="resetAll">Reset all</v-btn>
  </template>
</template>

<style scoped>
.copy {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px;
  border: 1px solid var(--line);
  border-left: 3px solid rgb(var(--v-theme-picked));
  border-radius: 6px;
}

.list {
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding: 0;
  list-style: none;
}

.list li {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 6px;
  align-items: baseline;
}

.current .name {
  color: rgb(var(--v-theme-picked));
}
</style>
