<script setup lang="ts">
import { computed } from 'vue'
import { useMirroring } from '~/stores/mirroring'
import { useLevel } from '~/stores/level'

const mirroring = useMirroring()
const level = useLevel()
const results = [{ value: 'live', name: 'Live' }, { value: 'instance', name: 'Instance' }, { value: 'copy', name: 'Copy' }, { value: 'move', name: 'Move' }] as const
const throughs = [{ value: 'pivot', name: 'the pivot' }, { value: 'middle', name: 'the middle of the box' }, { value: 'world', name: 'the world\'s origin' }, { value: 'touched', name: 'a point touched' }] as const
const sides = [{ value: 'both', name: 'all that is picked' }, { value: 'plus', name: 'beyond the plane (+)' }, { value: 'minus', name: 'before the plane (−)' }] as const
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
  <Segments v-model="mirroring.as" :options="results" label="Mirror as" />
  <Segments v-model="mirroring.axis" :options="([0, 1, 2] as const).map(value => ({ value, name: `Across ${'XYZ'[value]}` }))" label="Across" />
  <FormLine label="Through">
    <Choice v-model="mirroring.through" :options="throughs" label="Plane through" />
  </FormLine>
  <v-btn v-if="mirroring.through === 'touched'" @click="mirroring.touchPoint()">{{ mirroring.point ? 'Touch another point …' : 'Touch the point …' }}</v-btn>
  <FormLine label="Source side">
    <Choice v-model="mirroring.side" :options="sides" label="Source side" />
  </FormLine>
  <p v-if="mirroring.side !== 'both'" class="quiet hint">What is picked on the other side is replaced.</p>
  <p v-if="count === 0" class="quiet hint">Pick what is to be mirrored first.</p>
  <v-btn class="main" color="action" variant="flat" :disabled="!mirroring.possible" @click="mirroring.mirrorPicked()">Mirror</v-btn>
</template>
