<script setup lang="ts">
import type { ComponentPublicInstance } from 'vue'
import { computed, nextTick, ref, watch } from 'vue'
import { signOf } from '~~/core/units/field'
import type { Quantity } from '~~/core/units/quantity'
import { printQuantity } from '~~/core/units/quantity'
import type { Entry } from '~~/core/units/entry'
import { directed, parseEntry } from '~~/core/units/entry'
import type { LevelAxis } from '~~/core/units/height'
import { otherMeaning } from '~~/core/units/mark'
import { useTimeoutFn } from '@vueuse/core'
import { useSettings } from '~/editor/settings'

const props = defineProps<{
  /** In the quantity's base unit; null while several things differ. */
  value: number | null
  quantity: Quantity
  unit?: string
  decimals: number
  label: string
  suffix?: string
  /** The axis of the level that it runs along: colours the edge, and says in the label how that is written. */
  axis?: LevelAxis
  /** It is only how much there is along it, whichever way. */
  isAmount?: boolean
  /** Says what is wrong with a value, or nothing. */
  check?: (value: number) => string | null
  disabled?: boolean
  /** What keeps the number as it is, in words: it is marked then. */
  held?: string
  /** Said while there is no number; that several differ, when left out. */
  empty?: string
  /** Operators that, typed first, change the number that is there: some of plus, times and divided by. */
  operators?: string
  /**
   * Whether arrow keys step the number while it has the focus, and the wheel after a click into it or with Alt held.
   */
  steps?: boolean
}>()
const emit = defineEmits<{ commit: [value: number, entry: Entry]; step: [steps: number] }>()

const settings = useSettings()
const name = computed(() => settings.axes.label(props.label, props.axis))
const letter = computed(() => (props.axis === undefined ? null : settings.axes.letter(props.axis).toLowerCase()))
/** -1 where what is written is the other way of what is kept. */
const sign = computed(() => signOf(props, settings.axes))
const shown = computed(() =>
  props.value === null
    ? ''
    : settings.marked(printQuantity(props.value * sign.value + 0, props.quantity, props.unit, props.decimals)),
)
/** What a number was taken for that could have meant another. */
const note = ref<string | null>(null)
const { start: forgetNote } = useTimeoutFn(() => (note.value = null), 8000, { immediate: false })
const text = ref(shown.value)
const error = ref<string | null>(null)
/** The text as it was when typing began. */
let before = shown.value
/** What was there when the field was entered, the steps gone since, and whether a number was typed before them. */
let entered: { value: number | null; steps: number; isTyped: boolean } = { value: null, steps: 0, isTyped: false }
/** Whether the pointer has stayed over the field since it was clicked: only then the wheel is meant for it. */
const isClicked = ref(false)
const input = ref<ComponentPublicInstance>()
const element = () => input.value?.$el.querySelector('input') as HTMLInputElement | undefined
// What is being typed is not overwritten by what moves on behind it.
watch(shown, () => {
  if (document.activeElement !== element() || text.value === before) restore()
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
  const entry = parsed.ok ? directed(parsed.entry, sign.value) : null
  error.value = !parsed.ok ? parsed.error : entry!.operator === '' ? (props.check?.(entry!.value) ?? null) : null
  // What is at fault is marked, where the keyboard is still there to mend it.
  if (!parsed.ok && document.activeElement === element()) element()!.setSelectionRange(parsed.at, parsed.end)
  if (!entry || error.value) return
  const doubt = otherMeaning(text.value, settings.mark)
  note.value = doubt && `Taken as ${doubt.taken}. For ${doubt.other} leave the mark out.`
  if (doubt) forgetNote()
  emit('commit', entry.value, entry)
  restore()
}

/** Shift steps ten times as far, Ctrl a tenth. */
function stepBy(direction: number, event: KeyboardEvent | WheelEvent): void {
  if (!props.steps || direction === 0) return
  event.preventDefault()
  if (text.value !== before) {
    commit()
    entered.isTyped = true
  }
  const steps = direction * sign.value * (event.shiftKey ? 10 : event.ctrlKey || event.metaKey ? 0.1 : 1)
  entered.steps += steps
  emit('step', steps)
}

function wheel(event: WheelEvent): void {
  if (event.altKey || (isClicked.value && document.activeElement === element()))
    stepBy(-Math.sign(event.deltaY || event.deltaX), event)
}

/** Enter takes the number and gives the keys back to the stage; what is wrong keeps the focus. */
function enter(event: KeyboardEvent): void {
  commit()
  if (!error.value) (event.target as HTMLInputElement).blur()
}

function focus(): void {
  before = text.value
  entered = { value: props.value, steps: 0, isTyped: false }
  element()?.select()
}

/** Everything is again as it was when the field was entered. */
async function giveUp(event: KeyboardEvent): Promise<void> {
  const { target } = event
  restore()
  const { value, steps, isTyped } = entered
  if (steps !== 0) {
    emit('step', -steps)
    await nextTick()
  }
  // What others did to it meanwhile stays.
  if (isTyped && value !== null && props.value !== value) emit('commit', value, { operator: '', value })
  await nextTick()
  restore()
  ;(target as HTMLInputElement).blur()
}

/** Leaving the field takes what is right and lets go of what is not. */
function leave(): void {
  commit()
  if (error.value) restore()
}
</script>

<template>
  <div class="field" :class="[letter && `axis-${letter}`, { wrong: error, held }]" :title="held">
    <v-text-field
      ref="input"
      v-model="text"
      class="number mono"
      inputmode="decimal"
      autocomplete="off"
      spellcheck="false"
      :error="error !== null"
      :aria-label="name"
      :aria-description="held"
      :aria-invalid="error !== null"
      :placeholder="value === null ? (empty ?? 'mixed') : ''"
      persistent-placeholder
      :disabled="disabled"
      :suffix="suffix"
      @focus="focus"
      @blur="leave"
      @wheel="wheel"
      @pointerdown="isClicked = true"
      @pointerleave="isClicked = false"
      @keydown.up="stepBy(1, $event)"
      @keydown.down="stepBy(-1, $event)"
      @keydown.enter.stop="enter"
      @keydown.esc.stop="giveUp"
    />
    <span v-if="error" role="alert" class="bubble">{{ error }}</span>
    <span v-else-if="note" role="status" class="bubble note">{{ note }}</span>
  </div>
</template>

<style scoped>
.field {
  position: relative;
}

.axis-x {
  --field-edge: rgb(var(--v-theme-axis-x));
}
.axis-y {
  --field-edge: rgb(var(--v-theme-axis-y));
}
.axis-z {
  --field-edge: rgb(var(--v-theme-axis-z));
}

.field[class*='axis-']::before {
  position: absolute;
  z-index: 1;
  inset: 1px auto 1px 0;
  width: 3px;
  border-radius: var(--round-small) 0 0 var(--round-small);
  background: var(--field-edge);
  content: '';
}

/* As a link on the stage: a broken double line below the number. */
.held::after {
  position: absolute;
  z-index: 1;
  right: 3px;
  bottom: 2px;
  left: 6px;
  height: 3px;
  border: solid var(--petrol);
  border-width: 1px 0;
  mask: repeating-linear-gradient(to right, black 0 5px, transparent 5px 8px);
  content: '';
  pointer-events: none;
}

.number :deep(input) {
  text-align: right;
}

.bubble {
  position: absolute;
  z-index: 20;
  right: 0;
  bottom: calc(100% + 4px);
  width: max-content;
  max-width: 260px;
  padding: 5px 9px;
  border-radius: var(--round-small);
  font-size: var(--small);
  background: rgb(var(--v-theme-error));
  color: rgb(var(--v-theme-surface));
}

.note {
  background: rgb(var(--v-theme-slate));
  color: rgb(var(--v-theme-on-slate));
}
</style>
