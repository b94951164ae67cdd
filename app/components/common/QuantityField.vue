<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Quantity } from '~~/core/units/quantity'
import { printQuantity } from '~~/core/units/quantity'
import type { Entry } from '~~/core/units/entry'
import { parseEntry } from '~~/core/units/entry'

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
  /** Operators that, typed first, change the number that is there: some of plus, times and divided by. */
  operators?: string
  /** Whether arrow keys and the wheel step the number while it has the focus. */
  steps?: boolean
}>()
const emit = defineEmits<{ commit: [value: number, entry: Entry], step: [steps: number] }>()

const shown = computed(() => props.value === null ? '' : printQuantity(props.value, props.quantity, props.unit, props.decimals))
const text = ref(shown.value)
const error = ref<string | null>(null)
/** The text as it was when typing began. */
let before = shown.value
const input = ref<HTMLInputElement>()
// What is being typed is not overwritten by what moves on behind it.
watch(shown, () => {
  if (document.activeElement !== input.value || text.value === before) restore()
})

function restore(): void {
  text.value = shown.value
  before = shown.value
  error.value = null
}

function commit(): void {
  // Leaving a field as it was must not round the number behind it to the decimals shown.
  if (text.value === before) return restore()
  const parsed = parseEntry(text.value, props.quantity, props.unit, props.operators ?? '')
  error.value = parsed.ok ? (parsed.entry.operator === '' ? props.check?.(parsed.entry.value) ?? null : null) : parsed.error
  if (!parsed.ok || error.value) return
  emit('commit', parsed.entry.value, parsed.entry)
  restore()
}

/** Shift steps ten times as far, Ctrl a tenth. */
function stepBy(direction: number, event: KeyboardEvent | WheelEvent): void {
  if (!props.steps || direction === 0) return
  event.preventDefault()
  if (text.value !== before) commit()
  emit('step', direction * (event.shiftKey ? 10 : event.ctrlKey || event.metaKey ? 0.1 : 1))
}

function wheel(event: WheelEvent): void {
  if (document.activeElement === input.value) stepBy(-Math.sign(event.deltaY || event.deltaX), event)
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
      @focus="focus" @blur="leave" @wheel="wheel"
      @keydown.up="stepBy(1, $event)" @keydown.down="stepBy(-1, $event)"
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
