<script setup lang="ts">
import type { PartFields } from './use-part-fields'

/** What a part is called and found by. */
withDefaults(defineProps<{ /** Not where several parts keep the names they have. */ named?: boolean }>(), {
  named: true,
})
const fields = defineModel<PartFields>({ required: true })
const emit = defineEmits<{ enter: [] }>()
const kinds = [
  { value: 'prop', name: 'Prop' },
  { value: 'piece', name: 'Piece' },
] as const
</script>

<template>
  <FormLine v-if="named" label="Name">
    <v-text-field v-model="fields.name" aria-label="Name of the part" @keydown.enter="emit('enter')" />
  </FormLine>
  <slot />
  <FormLine label="Kind"><Segments v-model="fields.kind" :options="kinds" label="Kind of part" /></FormLine>
  <FormLine label="Tags">
    <v-text-field v-model="fields.tags" aria-label="Tags" placeholder="market, wood" @keydown.enter="emit('enter')" />
  </FormLine>
</template>
