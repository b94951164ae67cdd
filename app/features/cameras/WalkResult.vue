<script setup lang="ts">
import { computed } from 'vue'
import { useCameras } from './cameras'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useWalking } from './walking'

/** What came of the last walk: what was in the way, and the way itself. */
const walking = useWalking()
const level = useLevel()
const cameras = useCameras()
const settings = useSettings()
const stops = computed(() =>
  [...walking.walked!.stops]
    .reverse()
    .filter(({ thing }) => level.view.has(thing))
    .slice(0, 5),
)
</script>

<template>
  <section
    class="walked"
    :class="{ raised: cameras.showStrip }"
    data-fixture
    data-test="walked"
    aria-label="The last walk"
  >
    <p>
      Walked
      <span class="mono">{{ settings.lengths([walking.walked!.length], 1) }};</span>
      {{ stops.length === 0 ? 'nothing was in the way.' : 'in the way:' }}
    </p>
    <div v-for="stop in stops" :key="stop.thing" class="line">
      <v-btn class="link" variant="plain" @click="level.pick([stop.thing])">
        {{ level.view.need(stop.thing).name }}
      </v-btn>
      <span class="mono quiet">{{ stop.count }} ×</span>
    </div>
    <div class="line">
      <v-btn @click="walking.keepWay()">Keep as a walking line</v-btn>
      <v-btn @click="walking.forget()">Put away</v-btn>
    </div>
  </section>
</template>

<style scoped>
.walked {
  position: absolute;
  z-index: 3;
  bottom: 46px;
  left: 10px;
  display: flex;
  flex-direction: column;
  gap: 5px;
  padding: 9px 12px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: var(--round);
}

/* Above the picture strip. */
.raised {
  bottom: 158px;
}
</style>
