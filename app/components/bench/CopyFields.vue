<script setup lang="ts">
import { computed } from 'vue'
import type { ArrangementOwn, Exception } from '~~/core/arrange/arrangement'
import { copyId, copyName } from '~~/core/arrange/copy'
import { CopyPlaces } from '~~/core/arrange/count'
import { useLevel } from '~/stores/level'
import { useRepeating } from '~/stores/repeating'

const props = defineProps<{ own: ArrangementOwn }>()
const level = useLevel()
const repeating = useRepeating()
/** As many as the list shows; the rest are counted. */
const MOST_LISTED = 40

const places = computed(() => new CopyPlaces(props.own.rule))
const exceptions = computed(() => Object.entries(props.own.exceptions ?? {}))
const picked = computed(() => repeating.copyKey)
const pickedException = computed(() => picked.value === null ? undefined : props.own.exceptions?.[picked.value])

function nameOf(key: string): string {
  const [a = 0, b = 0, c = 0] = key.split(',').map(Number)
  return copyName(props.own.rule, key.includes(',') ? [a, b, c] : [0, a, 0])
}

const about = (exception: Exception) => [
  ...exception.hidden ? ['hidden'] : [], ...exception.move ? ['moved'] : [], ...exception.turn ? ['turned'] : [], ...exception.size ? ['sized'] : [],
  ...exception.source === undefined ? [] : [`shows ${repeating.names[exception.source] ?? 'another source'}`],
].join(', ')

function pick(key: string, exception: Exception): void {
  if (repeating.current !== null && !exception.hidden) level.pick([copyId(repeating.current, key)])
}

function resetAll(): void {
  repeating.setOwn({ ...props.own, exceptions: {} })
}

function hidePicked(): void {
  if (picked.value !== null) repeating.setException(picked.value, { ...pickedException.value, hidden: true })
}

function setSource(event: Event): void {
  const index = (event.target as HTMLSelectElement).selectedIndex
  if (picked.value === null) return
  const { source: _old, ...others } = pickedException.value ?? {}
  const next = index === 0 ? others : { ...others, source: index - 1 }
  repeating.setException(picked.value, Object.keys(next).length > 0 ? next : null)
}
</script>

<template>
  <div v-if="picked !== null" class="copy" data-test="picked-copy">
    <p class="line"><span>Picked</span><strong>{{ nameOf(picked) }}</strong></p>
    <p class="quiet hint">Move, turn or size it alone: it stays an exception of its row and column, whatever the counts.</p>
    <label v-if="repeating.names.length > 1" class="line"><span>Shows</span>
      <select class="text-box" aria-label="Source of this copy" :value="(pickedException?.source ?? -1) + 1" @change="setSource">
        <option :value="0">what its turn says</option>
        <option v-for="(name, i) in repeating.names" :key="i" :value="i + 1">{{ name }}</option>
      </select>
    </label>
    <div class="line">
      <button type="button" class="small-button" @click="hidePicked">Hide it</button>
      <button type="button" class="small-button" @click="repeating.releasePickedCopy()">Release it</button>
    </div>
  </div>
  <p v-else class="quiet hint">Click once more on a copy to pick it alone.</p>
  <template v-if="exceptions.length > 0">
    <h3>{{ exceptions.length }} {{ exceptions.length === 1 ? 'exception' : 'exceptions' }}</h3>
    <ul class="list" aria-label="Exceptions">
      <li v-for="[key, exception] in exceptions.slice(0, MOST_LISTED)" :key="key" :class="{ current: key === picked }">
        <button type="button" class="link name" @click="pick(key, exception)">{{ nameOf(key) }}</button>
        <span class="quiet">{{ about(exception) }}{{ places.indexOf(key) === null ? ' (not there now)' : '' }}</span>
        <button type="button" class="link" :aria-label="`Reset ${nameOf(key)}`" @click="repeating.setException(key, null)">Reset</button>
      </li>
    </ul>
    <p v-if="exceptions.length > MOST_LISTED" class="quiet hint">and {{ exceptions.length - MOST_LISTED }} more</p>
    <button type="button" class="small-button" @click="resetAll">Reset all</button>
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
  font-size: 13px;
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
