<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Quantity } from '~~/core/units/quantity'
import { parseQuantity, printQuantity } from '~~/core/units/quantity'

const props = defineProps<{
  /** In the quantity's base unit; null while several things differ. */
  value: number | null
  quantity: Quantity
  unit?: string
  decimals: number
  label: string
  suffix?: string
  /** 0, 1 or 2: colours the edge as that axis. */
  axis?: number
  /** Says what is wrong with a value, or nothing. */
  check?: (value: number) => string | null
  disabled?: boolean
  /** A plus first means: more by that much. */
  relative?: boolean
}>()
const emit = defineEmits<{ commit: [value: number, isRelative: boolean] }>()

const shown = computed(() => props.value === null ? '' : printQuantity(props.value, props.quantity, props.unit, props.decimals))
const text = ref(shown.value)
const error = ref<string | null>(null)
/** The text as it was when typing began. */
let before = shown.value
const input = ref<HTMLInputElement>()
// What is being typed is not overwritten by what moves on behind it.
watch(shown, () => {
  if (document.activeElement !== input.value) restore()
})

function restore(): void {
  text.value = shown.value
  before = shown.value
  error.value = null
}

function commit(): void {
  // Leaving a field as it was must not round the number behind it to the decimals shown.
  if (text.value === before) return restore()
  const parsed = parseQuantity(text.value, props.quantity, props.unit)
  error.value = parsed.ok ? props.check?.(parsed.value) ?? null : parsed.error
  if (!parsed.ok || error.value) return
  emit('commit', parsed.value, props.relative === true && text.value.trim().startsWith('+'))
  restore()
}

/** Enter takes the number and gives the keys back to the stage; what is wrong keeps the focus. */
function enter(event: KeyboardEvent): void {
  commit()
  if (!error.value) (event.target as HTMLInputElement).blur()
}

function focus(): void {
  before = text.value
  input.value?.select()
}

/** Leaving the field takes what is right and lets go of what is not. */
function leave(): void {
  commit()
  if (error.value) restore()
}
</script>

<template>
  <label class="field" :class="[axis === undefined ? '' : `axis-${'xyz'[axis]}`, { wrong: error }]">
    <input
      ref="input" v-model="text" class="mono" inputmode="decimal" autocomplete="off" spellcheck="false"
      :aria-label="label" :aria-invalid="error !== null" :placeholder="value === null ? 'mixed' : ''" :disabled="disabled"
      @focus="focus" @blur="leave"
      @keydown.enter.stop="enter" @keydown.esc.stop="restore(); ($event.target as HTMLInputElement).blur()"
    >
    <span v-if="suffix" class="suffix mono" aria-hidden="true">{{ suffix }}</span>
    <span v-if="error" role="alert" class="bubble">{{ error }}</span>
  </label>
</template>

<style scoped>
.field {
  position: relative;
  display: flex;
  align-items: center;
  height: 30px;
  background: rgb(var(--v-theme-field));
  border: 1px solid var(--line);
  border-radius: 5px;
}

.axis-x { border-left: 3px solid rgb(var(--v-theme-axis-x)); }
.axis-y { border-left: 3px solid rgb(var(--v-theme-axis-y)); }
.axis-z { border-left: 3px solid rgb(var(--v-theme-axis-z)); }

.field:focus-within {
  border-color: var(--petrol);
}

.wrong,
.wrong:focus-within {
  border-color: rgb(var(--v-theme-error));
}

input {
  width: 100%;
  min-width: 0;
  padding: 0 8px;
  font-size: 13px;
  text-align: right;
  color: var(--ink);
  outline: none;
}

input::placeholder {
  color: var(--quiet);
  opacity: 1;
}

.suffix {
  padding-right: 8px;
  margin-left: -4px;
  font-size: 12px;
  color: var(--quiet);
}

.bubble {
  position: absolute;
  z-index: 20;
  right: 0;
  bottom: calc(100% + 4px);
  width: max-content;
  max-width: 260px;
  padding: 5px 9px;
  border-radius: 5px;
  font-size: 12.5px;
  background: rgb(var(--v-theme-error));
  color: rgb(var(--v-theme-surface));
}
</style>
