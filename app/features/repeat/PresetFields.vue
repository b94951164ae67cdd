<script setup lang="ts">
import { computed } from 'vue'
import type { ArrangementOwn } from '~~/core/arrange/arrangement'
import { arrangementSchema } from '~~/core/arrange/arrangement'
import { PRESETS } from '~~/core/arrange/presets'
import { firstIssue } from '~~/core/units/issue'

/** The presets of a rule. Single copies that differ stay as they are. */
const props = defineProps<{ own: ArrangementOwn }>()
const emit = defineEmits<{ change: [own: ArrangementOwn] }>()
const form = computed(() => props.own.rule.type)
const values = computed(() => {
  const { exceptions: _own, ...kept } = props.own
  return kept
})
const ours = computed(() =>
  PRESETS.filter(({ own }) => own.rule.type === form.value).map(({ name, own }) => ({ name, values: own })),
)

function check(given: object): string | null {
  const read = arrangementSchema.safeParse(given)
  return read.success ? null : `${firstIssue(read.error).path.map(String).join(' ')} ${firstIssue(read.error).message}.`
}

const apply = (given: object) => emit('change', { ...arrangementSchema.parse(given), exceptions: props.own.exceptions })
</script>

<template>
  <PresetBar :form="form" :values="values" :ours="ours" :check="check" @apply="apply" />
</template>
