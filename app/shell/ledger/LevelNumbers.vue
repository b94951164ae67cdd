<script setup lang="ts">
import { computed } from 'vue'
import { printCensus } from '~~/core/scene/census'
import { KINDS } from '~~/core/level/kinds'
import { useLevelNumbers } from '../use-level-numbers'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

const level = useLevel()
const settings = useSettings()
const { counts, census, triangles, size, lastChanges } = useLevelNumbers()
const measures = computed(() => size.value && settings.sizes(size.value, 2))
const many = (count: number) => count.toLocaleString('en')
</script>

<template>
  <div class="level" data-test="level-numbers">
    <div class="name">
      <h2>{{ level.summary?.name }}</h2>
      <p class="quiet">Nothing is picked: click a thing on the stage or in the roster.</p>
    </div>
    <p
      class="census"
      title="Things as the roster lists them, and the copies that arrangements make of some"
      data-test="census"
    >
      {{ printCensus(census) }}
    </p>
    <ul class="counts" aria-label="Placements by kind">
      <li
        v-for="{ kind, count } in counts"
        :key="kind"
        :title="`${many(count)} of the kind ${KINDS[kind].name.toLowerCase()}`"
      >
        <PathIcon :path="KINDS[kind].icon" :size="15" />
        <span class="mono">{{ many(count) }}</span>
        <span class="sr">{{ KINDS[kind].name }}</span>
      </li>
    </ul>
    <div class="facts">
      <p v-if="measures" title="Of the box around everything">
        <span class="quiet">Extent</span>
        {{ ' ' }}
        <span class="mono">{{ measures }}</span>
      </p>
      <p>
        <span class="quiet">Triangles</span>
        {{ ' ' }}
        <span class="mono">{{ many(triangles) }}</span>
      </p>
    </div>
    <div class="facts last">
      <p class="quiet">Done last</p>
      <p v-if="lastChanges.length === 0">nothing yet in this window</p>
      <p v-else :title="lastChanges.join('\n')">{{ lastChanges[0] }}</p>
    </div>
  </div>
</template>

<style scoped>
.level {
  display: flex;
  align-items: center;
  gap: 22px;
  width: 100%;
  min-width: 0;
}

.name {
  flex: 0 1 220px;
  min-width: 0;
}

.level :is(h2, p) {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

h2 {
  font-size: var(--heading);
}

p,
.counts {
  font-size: var(--small);
}

.counts {
  display: flex;
  flex: none;
  gap: 4px 14px;
  padding: 0;
  list-style: none;
}

.counts li {
  display: flex;
  align-items: center;
  gap: 4px;
}

.census,
.facts {
  flex: none;
  min-width: 0;
}

.facts .mono {
  font-size: var(--note);
}

.last {
  flex: 0 1 200px;
  margin-left: auto;
}

@container ledger (max-width: 66.2em) {
  .last {
    display: none;
  }
}

@container ledger (max-width: 58.5em) {
  .name p {
    display: none;
  }
}
</style>
