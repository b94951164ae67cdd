<script setup lang="ts">
import { computed } from 'vue'
import { useMarking } from './marking'

/** The presets of a camera or a light: what it has of its own, but for where it is turned and when it is shown. */
const props = defineProps<{
  id: string
  form: string
  own: object
  /** Fields that are no preset's. */
  without: readonly string[]
}>()
const marking = useMarking()
const values = computed(() =>
  Object.fromEntries(Object.entries(props.own).filter(([key]) => !props.without.includes(key))),
)
const check = (given: object) => marking.check(props.id, given)
</script>

<template>
  <PresetBar :form="form" :values="values" :check="check" @apply="marking.change($event, 'Use a preset for')" />
</template>
