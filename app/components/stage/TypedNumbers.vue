<script setup lang="ts">
import { useElementSize, useParentElement } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { parseQuantity, printQuantity, tidy } from '~~/core/units/quantity'
import type { TypedNumbers } from '~/tools/gesture'
import { useSettings } from '~/stores/settings'

const props = defineProps<{ numbers: TypedNumbers }>()
const settings = useSettings()
const { width, height } = useElementSize(useParentElement())
/** Beside the pointer, where there is room. */
const place = computed(() => {
  const { x, y } = props.numbers.at
  return { left: `${x > width.value - 270 ? Math.max(x - 254, 4) : x + 18}px`, top: `${Math.min(Math.max(y, 90), height.value - 90)}px` }
})
const form = ref<HTMLFormElement>()
const unitOf = (quantity: string) => quantity === 'length' ? settings.kept.unit : undefined
const print = (value: number, quantity: TypedNumbers['fields'][number]['quantity']) => {
  const decimals = quantity === 'length' ? settings.decimals : quantity === 'angle' ? 2 : 3
  return String(Number(printQuantity(tidy(value), quantity, unitOf(quantity), decimals)))
}
const texts = ref(props.numbers.fields.map(field => print(field.value, field.quantity)))
/** A field that was not typed into keeps its number to the last digit. */
const typed = ref(props.numbers.fields.map(() => false))
const error = ref<string | null>(null)

onMounted(async () => {
  await nextTick()
  form.value?.querySelector('input')?.select()
})
watch(texts, read, { deep: true })

function read(): void {
  const values: number[] = []
  error.value = null
  props.numbers.fields.forEach((field, i) => {
    if (!typed.value[i]) {
      values.push(field.value)
      return
    }
    const parsed = parseQuantity(texts.value[i]!, field.quantity, unitOf(field.quantity))
    if (parsed.ok) values.push(parsed.value)
    else error.value = parsed.error
  })
  if (error.value === null) props.numbers.change(values)
}

function commit(): void {
  read()
  if (error.value === null) props.numbers.commit()
}
</script>

<template>
  <form ref="form" class="typed" :style="place" data-test="typed-numbers" @submit.prevent="commit" @keydown.esc.stop.prevent="numbers.cancel()">
    <p><strong>{{ numbers.title }}</strong></p>
    <label v-for="(field, i) in numbers.fields" :key="field.label" class="line" :class="field.axis === undefined ? '' : `axis-${'xyz'[field.axis]}`">
      <span>{{ field.label }}</span>
      <input v-model="texts[i]" class="mono" :aria-label="`Type ${field.label}`" autocomplete="off" spellcheck="false" inputmode="decimal" @input="typed[i] = true" @focus="($event.target as HTMLInputElement).select()">
      <span class="mono unit">{{ field.quantity === 'length' ? settings.kept.unit : field.quantity === 'angle' ? '°' : '×' }}</span>
    </label>
    <p v-if="error" role="alert" class="error">{{ error }}</p>
    <p class="note">Tab: next number · Enter: done · Esc: as it was</p>
    <button type="submit" class="sr">Done</button>
  </form>
</template>

<style scoped>
.typed {
  position: absolute;
  z-index: 6;
  display: flex;
  flex-direction: column;
  gap: 5px;
  width: 236px;
  padding: 8px 11px;
  transform: translateY(-50%);
  border-radius: 6px;
  background: #22303a;
  color: #fbf8f1;
  font-size: 13px;
}

input {
  width: 110px;
  height: 26px;
  padding: 0 7px;
  border-radius: 4px;
  background: #fbf8f1;
  color: #22303a;
  text-align: right;
}

.line {
  padding-left: 6px;
  border-left: 3px solid transparent;
}

.axis-x { border-color: rgb(var(--v-theme-axis-x)); }
.axis-y { border-color: rgb(var(--v-theme-axis-y)); }
.axis-z { border-color: rgb(var(--v-theme-axis-z)); }

.unit {
  width: 20px;
  color: #c9d2d4;
}

.error {
  color: #f2b441;
}

.note {
  font-size: 12px;
  color: #c9d2d4;
}
</style>
