<script setup lang="ts">
import type { Field } from '~~/core/units/field'
import { useSettings } from '~/editor/settings'
import type { Settings } from '~/editor/settings-schema'
import { readSettings } from '~/editor/settings-schema'
import { WALKER_FIELDS } from './own-fields'
import { useWalking } from './walking'

/** Where a walk begins, and what a person is like. */
const walking = useWalking()
const settings = useSettings()
/** What the settings would not keep as it is typed is refused. */
const check = (field: Field, value: unknown) => {
  const key = field.path[0] as keyof Settings['walk']
  return readSettings({ walk: { ...settings.kept.walk, [key]: value } }).walk[key] === value
    ? null
    : 'This is too small or too large.'
}
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
    <FieldRows
      :fields="WALKER_FIELDS"
      :of="settings.kept.walk"
      :check="check"
      @set="(field, value) => Object.assign(settings.kept.walk, { [field.path[0]!]: value })"
    />
  </section>
</template>
