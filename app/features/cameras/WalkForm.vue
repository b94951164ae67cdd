<script setup lang="ts">
import { useSettings } from '~/editor/settings'
import { useWalking } from './walking'

/** Where a walk begins, and what a person is like. */
const walking = useWalking()
const settings = useSettings()
const between = (least: number, most: number) => (value: number) =>
  value < least ? `This must be at least ${least}.` : value > most ? `This must be at most ${most}.` : null
const rows = [
  { key: 'eye', label: 'Eye height', quantity: 'length', least: 0.3, most: 3 },
  { key: 'radius', label: 'Half as wide', quantity: 'length', least: 0.1, most: 1 },
  { key: 'step', label: 'Highest step', quantity: 'length', least: 0, most: 1 },
  { key: 'slope', label: 'Steepest slope', quantity: 'angle', least: 0, most: 89 },
  { key: 'speed', label: 'Walks', quantity: 'factor', suffix: 'm/s', least: 0.1, most: 20 },
  { key: 'runSpeed', label: 'Runs', quantity: 'factor', suffix: 'm/s', least: 0.1, most: 40 },
  { key: 'jump', label: 'Jumps', quantity: 'length', least: 0, most: 5 },
  { key: 'crouch', label: 'Eye while crouching', quantity: 'length', least: 0.3, most: 3 },
] as const
</script>

<template>
  <section class="form-part" aria-label="Walk check">
    <p class="quiet hint">
      Walk through at eye height: the mouse looks, W A S D walk, Shift runs, Space jumps, C crouches, Esc leaves.
    </p>
    <v-btn class="main" color="action" variant="flat" @click="walking.fromView()">Walk from this view</v-btn>
    <v-btn @click="walking.fromClick()">Walk from a click</v-btn>
    <v-btn v-for="spawn in walking.spawns" :key="spawn.id" @click="walking.fromSpawn(spawn.id)">
      Walk from {{ spawn.name }}
    </v-btn>
    <NumberLine
      v-for="row in rows"
      :key="row.key"
      :label="row.label"
      :quantity="row.quantity"
      :suffix="'suffix' in row ? row.suffix : ''"
      :decimals="1"
      :value="settings.kept.walk[row.key]"
      :check="between(row.least, row.most)"
      @commit="settings.kept.walk[row.key] = $event"
    />
  </section>
</template>
