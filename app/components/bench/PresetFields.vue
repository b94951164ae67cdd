<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ArrangementOwn } from '~~/core/arrange/arrangement'
import { PRESETS } from '~~/core/arrange/presets'
import { useSettings } from '~/stores/settings'

const props = defineProps<{ own: ArrangementOwn }>()
const emit = defineEmits<{ change: [own: ArrangementOwn] }>()
const settings = useSettings()
const name = ref('')
const naming = ref(false)
const presets = computed(() => [...PRESETS, ...settings.kept.presets].filter(({ own }) => own.rule.rule === props.own.rule.rule))

function begin(event: Event): void {
  const select = event.target as HTMLSelectElement
  const preset = presets.value[select.selectedIndex - 1]
  select.selectedIndex = 0
  if (preset) emit('change', { ...structuredClone(JSON.parse(JSON.stringify(preset.own)) as ArrangementOwn), exceptions: props.own.exceptions })
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
    <select class="text-box" aria-label="Begin from" @change="begin">
      <option>Begin from …</option>
      <option v-for="preset in presets" :key="preset.name">{{ preset.name }}</option>
    </select>
    <button v-if="!naming" type="button" class="link" @click="naming = true">Keep as …</button>
  </div>
  <form v-if="naming" class="presets" @submit.prevent="keep">
    <input v-model="name" class="text-box" aria-label="Name of what to keep" placeholder="Name" @keydown.esc.stop="naming = false">
    <button type="submit" class="small-button" :disabled="!name.trim()">Keep</button>
  </form>
</template>

<style scoped>
.presets {
  display: flex;
  gap: 8px;
  align-items: center;
}

.presets .text-box {
  flex: 1;
  min-width: 0;
}
</style>
