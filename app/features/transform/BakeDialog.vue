<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useBakeChoices } from './use-bake-choices'
import { useBaking } from '~/editor/baking'

const baking = useBaking()
const { isReset, what, all, canAll, says, possible } = useBakeChoices()
const busy = ref(false)
const title = computed(() =>
  isReset.value ? (baking.bakeQuestion?.what === 'reset-size' ? 'Reset size' : 'Reset turn') : 'Bake into the shape',
)
const choices = [
  { value: 'size', name: 'Size' },
  { value: 'turn', name: 'Turn' },
  { value: 'both', name: 'Both' },
] as const
const whom = [
  { value: false, name: 'This one alone' },
  { value: true, name: 'All instances' },
]
watch(
  () => baking.bakeQuestion,
  () => (busy.value = false),
)

async function go(): Promise<void> {
  busy.value = true
  if (baking.bakeQuestion?.what === 'reset-size') baking.resetPicked('size')
  else if (baking.bakeQuestion?.what === 'reset-turn') baking.resetPicked('turn')
  else await baking.bakeLast(what.value, all.value)
  baking.bakeQuestion = null
}
</script>

<template>
  <FormDialog
    page="turning-and-pivots"
    :model-value="baking.bakeQuestion !== null"
    :title="title"
    max-width="440"
    @update:model-value="baking.bakeQuestion = null"
  >
    <template v-if="!isReset">
      <Segments v-model="what" :options="choices" label="What to bake" />
      <Segments v-if="canAll" v-model="all" :options="whom" label="For whom" />
    </template>
    <p v-for="line in says" :key="line" data-test="bake-says">{{ line }}</p>
    <template #buttons>
      <v-btn @click="baking.bakeQuestion = null">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="!possible || busy" @click="go">
        {{ isReset ? 'Reset' : 'Bake' }}
      </v-btn>
    </template>
  </FormDialog>
</template>
