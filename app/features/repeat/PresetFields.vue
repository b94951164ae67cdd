<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ArrangementOwn } from '~~/core/arrange/arrangement'
import { PRESETS } from '~~/core/arrange/presets'
import { useSettings } from '~/editor/settings'

const props = defineProps<{ own: ArrangementOwn }>()
const emit = defineEmits<{ change: [own: ArrangementOwn] }>()
const settings = useSettings()
const name = ref('')
const naming = ref(false)
const presets = computed(() =>
  [...PRESETS, ...settings.kept.presets].filter(({ own }) => own.rule.type === props.own.rule.type),
)

function begin(chosen: string | null): void {
  const preset = presets.value.find(each => each.name === chosen)
  if (preset)
    emit('change', {
      ...structuredClone(JSON.parse(JSON.stringify(preset.own)) as ArrangementOwn),
      exceptions: props.own.exceptions,
    })
}

/** One of the same name is replaced. */
function keep(): void {
  const text = name.value.trim()
  if (!text) return
  const { exceptions: _own, ...kept } = props.own
  settings.kept.presets = [...settings.kept.presets.filter(preset => preset.name !== text), { name: text, own: kept }]
  name.value = ''
  naming.value = false
}
</script>

<template>
  <div class="presets">
    <Choice
      class="from"
      :model-value="null"
      :options="presets.map(({ name: text }) => ({ value: text, name: text }))"
      label="Begin from"
      placeholder="Begin from …"
      @update:model-value="begin"
    />
    <v-btn v-if="!naming" class="link" variant="plain" @click="naming = true">Keep as …</v-btn>
  </div>
  <form v-if="naming" class="presets" @submit.prevent="keep">
    <v-text-field
      v-model="name"
      autofocus
      aria-label="Name of what to keep"
      placeholder="Name"
      @keydown.esc.stop="naming = false"
    />
    <v-btn type="submit" :disabled="!name.trim()">Keep</v-btn>
  </form>
</template>

<style scoped>
.presets {
  display: flex;
  gap: 8px;
  align-items: center;
}

.from {
  flex: 1;
  min-width: 0;
}
</style>
