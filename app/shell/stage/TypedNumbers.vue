<script setup lang="ts">
import { useElementSize, useParentElement } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import { signOf } from '~~/core/units/field'
import { parseQuantity, printShort, tidy } from '~~/core/units/quantity'
import { fixtureBoxes } from './fixture-boxes'
import type { ScreenBox } from '~/stage/label-place'
import { placeLabel } from '~/stage/label-place'
import { useShownNumber } from '~/ui/use-shown-number'
import { otherMeaning } from '~~/core/units/mark'
import type { TypedNumbers } from '~/editor/tools/gesture'
import { useSettings } from '~/editor/settings'

const props = defineProps<{ numbers: TypedNumbers }>()
const settings = useSettings()
const stage = useParentElement()
const { width, height } = useElementSize(stage)
const form = ref<HTMLFormElement>()
const size = useElementSize(form, undefined, { box: 'border-box' })
const fixtures = shallowRef<ScreenBox[]>([])
const place = computed(() => {
  const { x, y } = placeLabel(
    props.numbers.at,
    { width: size.width.value, height: size.height.value },
    { width: width.value, height: height.value },
    [...(props.numbers.avoid ?? []), ...fixtures.value],
  )
  return { left: `${x}px`, top: `${y}px` }
})
type Field = TypedNumbers['fields'][number]
const shownNumber = useShownNumber()
const labelOf = ({ label, axis }: Field) => settings.axes.label(label, axis)
const print = (value: number, of: Field) => {
  const { quantity, unit, decimals } = shownNumber(of)
  return settings.marked(printShort(tidy(value * signOf(of, settings.axes) + 0), quantity, unit, decimals))
}
const rank = ({ axis, isAmount }: Field) =>
  axis === undefined || isAmount ? 3 : 'XYZ'.indexOf(settings.axes.letter(axis))
/** Fields in the order in which axes are written. */
const order = props.numbers.fields.map((field, i) => ({ field, i })).toSorted((a, b) => rank(a.field) - rank(b.field))
const shown = props.numbers.fields.map(field => print(field.value, field))
const texts = ref([...shown])
const error = ref<string | null>(null)
const says = ref<string | null>(null)
const chosen = ref((props.numbers.choices ?? []).map(choice => choice.chosen))

onMounted(async () => {
  fixtures.value = fixtureBoxes(stage.value!)
  await nextTick()
  const input = form.value?.querySelector('input')
  if (input) input.select()
  else form.value?.querySelector<HTMLElement>('button')?.focus()
  if (props.numbers.says) read()
})
watch(texts, read, { deep: true })

/** Which part of which number is not understood. */
let fault = { field: 0, at: 0, end: 0 }

function read(): void {
  const values: number[] = []
  error.value = null
  props.numbers.fields.forEach((field, i) => {
    // What was not typed into keeps its number to the last digit.
    if (texts.value[i] === shown[i]) {
      values.push(field.value)
      return
    }
    const parsed = parseQuantity(texts.value[i]!, field.quantity, shownNumber(field).unit)
    if (parsed.ok) values.push(parsed.value * signOf(field, settings.axes) + 0)
    else {
      error.value = parsed.error
      fault = { field: i, at: parsed.at, end: parsed.end }
    }
  })
  error.value ??= props.numbers.check?.(values) ?? null
  if (error.value === null) props.numbers.change(values)
  const doubt = texts.value.map(text => otherMeaning(text, settings.mark)).find(each => each !== null)
  says.value = error.value !== null ? null : doubt ? `taken as ${doubt.taken}, not ${doubt.other}` : said()
}

const said = () => props.numbers.says?.() ?? null

function choose(choice: number, option: number): void {
  chosen.value[choice] = option
  props.numbers.choices![choice]!.choose(option)
  read()
}

function commit(): void {
  read()
  if (error.value === null) return props.numbers.commit()
  const field = form.value!.querySelectorAll('input')[order.findIndex(({ i }) => i === fault.field)]!
  field.focus()
  field.setSelectionRange(fault.at, fault.end)
}
</script>

<template>
  <form
    ref="form"
    class="typed"
    :style="place"
    data-test="typed-numbers"
    @submit.prevent="commit"
    @keydown.esc.stop.prevent="numbers.cancel()"
  >
    <p>
      <strong>{{ numbers.title }}</strong>
    </p>
    <div
      v-for="{ field, i } in order"
      :key="field.label"
      class="line"
      :class="field.axis !== undefined && `axis-${settings.axes.letter(field.axis).toLowerCase()}`"
    >
      <span>{{ labelOf(field) }}</span>
      <v-text-field
        v-model="texts[i]"
        class="mono number"
        :aria-label="`Type ${labelOf(field)}`"
        autocomplete="off"
        spellcheck="false"
        inputmode="decimal"
        @focus="($event.target as HTMLInputElement).select()"
      />
      <span class="mono unit">
        {{ shownNumber(field).suffix }}
      </span>
    </div>
    <Segments
      v-for="(choice, i) in numbers.choices ?? []"
      :key="choice.label"
      :model-value="chosen[i]!"
      :label="choice.label"
      :options="choice.options.map((name, value) => ({ value, name }))"
      @update:model-value="choose(i, $event)"
    />
    <p v-if="error" role="alert" class="error">{{ error }}</p>
    <p v-else-if="says" role="status">{{ says }}</p>
    <p v-if="numbers.fields.length > 0" class="note">
      {{ numbers.fields.length > 1 ? 'Tab: next number · ' : '' }}Enter: done · Esc: as it was
    </p>
    <p v-else class="note">Enter or Esc: close</p>
    <v-btn type="submit" class="sr">Done</v-btn>
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
  border-radius: 6px;
  background: rgb(var(--v-theme-slate));
  color: rgb(var(--v-theme-on-slate));
  font-size: var(--body);
}

.number {
  flex: none;
  width: 110px;
}

.number :deep(input) {
  text-align: right;
}

.line {
  padding-left: 6px;
  border-left: 3px solid transparent;
}

.axis-x {
  border-color: rgb(var(--v-theme-axis-x));
}
.axis-y {
  border-color: rgb(var(--v-theme-axis-y));
}
.axis-z {
  border-color: rgb(var(--v-theme-axis-z));
}

.unit {
  width: 20px;
  color: rgb(var(--v-theme-quiet-on-slate));
}

.error {
  color: rgb(var(--v-theme-action));
}

.note {
  font-size: var(--small);
  color: rgb(var(--v-theme-quiet-on-slate));
}
</style>
