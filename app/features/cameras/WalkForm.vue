<script setup lang="ts">
import { useSettings } from '~/editor/settings'
import { WALKER_FIELDS } from './own-fields'
import { useWalking } from './walking'
import { useKeys } from '~/editor/keys/keys'
import { WALK_KEYS } from './walk-tool'

const keys = useKeys()

/** Where a walk begins, and what a person is like. */
const walking = useWalking()
const settings = useSettings()
</script>

<template>
  <section class="form-part" aria-label="Walk check">
    <p class="quiet hint">Walk through at eye height: the mouse looks, {{ keys.said(WALK_KEYS) }}.</p>
    <v-btn class="main" color="action" variant="flat" @click="walking.fromView()">Walk from this view</v-btn>
    <v-btn @click="walking.fromClick()">Walk from a click</v-btn>
    <v-btn v-for="spawn in walking.spawns" :key="spawn.id" @click="walking.fromSpawn(spawn.id)">
      Walk from {{ spawn.name }}
    </v-btn>
    <FieldRows
      :fields="WALKER_FIELDS"
      :of="settings.kept.walk"
      @set="(field, value) => Object.assign(settings.kept.walk, { [field.path[0]!]: value })"
    />
  </section>
</template>
