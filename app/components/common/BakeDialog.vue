<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useBakeChoices } from '~/composables/use-bake-choices'
import { useShaping } from '~/stores/shaping'

const shaping = useShaping()
const { isReset, what, all, canAll, says, possible } = useBakeChoices()
const busy = ref(false)
const title = computed(() => isReset.value ? (shaping.bakeQuestion?.what === 'reset-size' ? 'Reset size' : 'Reset turn') : 'Bake into the shape')
const choices = [{ what: 'size', name: 'Size' }, { what: 'turn', name: 'Turn' }, { what: 'both', name: 'Both' }] as const
watch(() => shaping.bakeQuestion, () => (busy.value = false))

async function go(): Promise<void> {
  busy.value = true
  if (shaping.bakeQuestion?.what === 'reset-size') shaping.resetPicked('size')
  else if (shaping.bakeQuestion?.what === 'reset-turn') shaping.resetPicked('turn')
  else await shaping.bakeLast(what.value, all.value)
  shaping.bakeQuestion = null
}
</script>

<template>
  <v-dialog :model-value="shaping.bakeQuestion !== null" max-width="440" @update:model-value="shaping.bakeQuestion = null">
    <section v-if="shaping.bakeQuestion" class="sheet" :aria-label="title">
      <h2>{{ title }}</h2>
      <template v-if="!isReset">
        <div class="segments" role="group" aria-label="What to bake"><button v-for="entry in choices" :key="entry.what" type="button" :aria-pressed="what === entry.what" @click="what = entry.what">{{ entry.name }}</button></div>
        <div v-if="canAll" class="segments" role="group" aria-label="For whom">
          <button type="button" :aria-pressed="!all" @click="all = false">This one alone</button>
          <button type="button" :aria-pressed="all" @click="all = true">All instances</button>
        </div>
      </template>
      <p v-for="line in says" :key="line" data-test="bake-says">{{ line }}</p>
      <div class="buttons">
        <v-btn variant="text" @click="shaping.bakeQuestion = null">Cancel</v-btn>
        <button type="button" class="main-button" :disabled="!possible || busy" @click="go">{{ isReset ? 'Reset' : 'Bake' }}</button>
      </div>
    </section>
  </v-dialog>
</template>

<style scoped>
h2 {
  font-size: 19px;
}

.buttons {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
