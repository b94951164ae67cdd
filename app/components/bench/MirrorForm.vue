<script setup lang="ts">
import { computed } from 'vue'
import { useMirroring } from '~/stores/mirroring'
import { useLevel } from '~/stores/level'

const mirroring = useMirroring()
const level = useLevel()
const results = [{ as: 'live', name: 'Live' }, { as: 'instance', name: 'Instance' }, { as: 'copy', name: 'Copy' }, { as: 'move', name: 'Move' }] as const
const ABOUT = {
  live: 'An edit on one side shows on the other at once.',
  instance: 'Mirrored instances that share parts and blocks.',
  copy: 'Mirrored copies with block numbers of their own.',
  move: 'The things themselves go to the other side.',
}
const count = computed(() => level.selection.ids.size)
</script>

<template>
  <p class="quiet hint">Mirrors what is picked across a plane. {{ ABOUT[mirroring.as] }}</p>
  <div class="segments" role="group" aria-label="Mirror as">
    <button v-for="entry in results" :key="entry.as" type="button" :aria-pressed="mirroring.as === entry.as" @click="mirroring.as = entry.as">{{ entry.name }}</button>
  </div>
  <div class="segments" role="group" aria-label="Across">
    <button v-for="axis in [0, 1, 2] as const" :key="axis" type="button" :aria-pressed="mirroring.axis === axis" @click="mirroring.axis = axis">Across {{ 'XYZ'[axis] }}</button>
  </div>
  <label class="line"><span>Through</span>
    <select v-model="mirroring.through" class="text-box" aria-label="Plane through">
      <option value="pivot">the pivot</option><option value="middle">the middle of the box</option><option value="world">the world's origin</option><option value="touched">a point touched</option>
    </select>
  </label>
  <button v-if="mirroring.through === 'touched'" type="button" class="small-button" @click="mirroring.touchPoint()">{{ mirroring.point ? 'Touch another point …' : 'Touch the point …' }}</button>
  <label class="line"><span>Source side</span>
    <select v-model="mirroring.side" class="text-box" aria-label="Source side">
      <option value="both">all that is picked</option><option value="plus">beyond the plane (+)</option><option value="minus">before the plane (−)</option>
    </select>
  </label>
  <p v-if="mirroring.side !== 'both'" class="quiet hint">What is picked on the other side is replaced.</p>
  <p v-if="count === 0" class="quiet hint">Pick what is to be mirrored first.</p>
  <button type="button" class="main-button" :disabled="!mirroring.possible" @click="mirroring.mirrorPicked()">Mirror</button>
</template>

<style scoped>
.line > .text-box {
  max-width: 140px;
}
</style>
