<script setup lang="ts">
import { computed } from 'vue'
import { HAND_OVER_FIELDS } from './hand-over-fields'
import { useHandingOver } from './handing-over'

/** The choices of the format that is chosen. */
const handing = useHandingOver()
const fields = computed(() => HAND_OVER_FIELDS[handing.format])
const ticks = computed(() => fields.value.filter(field => field.type === 'tick'))
const others = computed(() => fields.value.filter(field => field.type !== 'tick'))
const isOn = (key: string, first: boolean) => (handing.options[key] ?? String(first)) === 'true'
const someOf = (key: string) => handing.options[key]?.split(',') ?? []
const metresOf = (key: string) => (handing.options[key] === undefined ? null : Number(handing.options[key]))
</script>

<template>
  <template v-for="field in others" :key="field.key">
    <FormLine v-if="field.type === 'choice'" :label="field.label">
      <Choice
        :model-value="handing.options[field.key] ?? field.first"
        :options="field.options"
        :label="field.label"
        @update:model-value="handing.set(field.key, $event === field.first ? null : $event)"
      />
    </FormLine>
    <FormLine v-else-if="field.type === 'some'" :label="field.label">
      <v-select
        class="choice"
        multiple
        :model-value="someOf(field.key)"
        :items="[...field.options]"
        :aria-label="field.label"
        :placeholder="field.empty"
        persistent-placeholder
        @update:model-value="
          handing.set(
            field.key,
            $event.length > 0 ? field.options.filter(each => $event.includes(each)).join(',') : null,
          )
        "
      />
    </FormLine>
    <div v-else class="metres">
      <NumberLine
        :label="field.label"
        quantity="length"
        :value="metresOf(field.key)"
        :empty="field.empty"
        @commit="handing.set(field.key, String($event))"
      />
      <v-btn v-if="metresOf(field.key) !== null" variant="text" @click="handing.set(field.key, null)">
        {{ field.empty }}
      </v-btn>
    </div>
  </template>
  <div class="ticks">
    <Tick
      v-for="field in ticks"
      :key="field.key"
      :model-value="isOn(field.key, field.first)"
      :label="field.label"
      @update:model-value="handing.set(field.key, $event === field.first ? null : String($event))"
    />
  </div>
</template>

<style scoped>
.ticks {
  display: grid;
  grid-template-columns: 1fr 1fr;
}

.metres {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
}
</style>
