<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed, onBeforeUnmount } from 'vue'
import { z } from 'zod'
import { MOST_FALLING } from '~~/core/settle/settle'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useSettling } from './settling'

const settling = useSettling()
const kit = useKit()
const level = useLevel()
const part = computed(() => {
  const { last } = level.selection
  const partId = last === null ? null : (level.view.get(last)?.partId ?? null)
  return partId === null ? null : (kit.part(partId) ?? null)
})
const forms = [
  { value: 'hull', name: 'Its hull' },
  { value: 'box', name: 'Its box' },
] as const
const parts = computed(() => kit.parts.map(({ id, name }) => ({ id, name })))
const chosen = computed({
  get: () => settling.mix.map(({ partId }) => partId),
  set: (ids: string[]) =>
    (settling.mix = ids.map(partId => settling.mix.find(each => each.partId === partId) ?? { partId, weight: 1 })),
})
const nameOf = (partId: string) => kit.part(partId)?.name ?? 'not there any more'
const checkCount = (value: number) =>
  Number.isInteger(value) && value >= 1 && value <= MOST_FALLING
    ? null
    : `This must be a whole number from 1 to ${MOST_FALLING.toLocaleString('en')}.`
const checkSeed = (value: number) =>
  Number.isInteger(value) && value >= 0 && value < 2 ** 32 ? null : 'This must be a whole number.'
const checkWeight = (value: number) => (value > 0 && value <= 1000 ? null : 'This must be more than 0.')

const pourSchema = z.strictObject({
  mix: z.array(z.strictObject({ partId: z.string(), weight: z.number().gt(0).max(1000) })).max(100),
  count: z.number().refine(value => checkCount(value) === null),
  seed: z.number().refine(value => checkSeed(value) === null),
})
const poured = computed(() => ({ mix: settling.mix, count: settling.count, seed: settling.seed }))
function checkPoured(values: object): string | null {
  const read = pourSchema.safeParse(values)
  if (!read.success) return 'something in it makes no sense.'
  return read.data.mix.every(({ partId }) => kit.part(partId)) ? null : 'a part of its mix is not in the kit any more.'
}
function pourSo(values: object): void {
  const { mix, count, seed } = pourSchema.parse(values)
  Object.assign(settling, { mix, count, seed })
}

async function setForm(settlesAs: 'hull' | 'box'): Promise<void> {
  if (part.value) await kit.attempt(() => kit.patch(part.value!.id, { settlesAs }))
}

onBeforeUnmount(() => settling.dismiss())
</script>

<template>
  <section class="bench-form" aria-labelledby="settle-title">
    <PanelHead title-id="settle-title" title="Settle" />
    <template v-if="settling.run">
      <p role="status" data-test="settle-state">
        <strong>{{ settling.run.label }}:</strong>
        {{ ' ' }}
        <span class="mono">{{ settling.news?.resting ?? 0 }} of {{ settling.run.ids.length }}</span>
        at rest after
        <span class="mono">{{ (settling.news?.seconds ?? 0).toFixed(1) }} s</span>
      </p>
      <v-btn class="main" color="action" variant="flat" @click="settling.keep()">Keep it so</v-btn>
      <v-btn v-if="!settling.news?.isDone" @click="settling.pause()">{{ settling.isPaused ? 'Go on' : 'Pause' }}</v-btn>
      <v-btn @click="settling.dismiss()">Dismiss</v-btn>
    </template>
    <template v-else>
      <p class="quiet hint">
        Lets what is picked fall until it rests on everything else, by its weight. Groups fall as one, copies each by
        itself.
      </p>
      <v-btn
        class="main"
        color="action"
        variant="flat"
        :disabled="settling.pickable.length === 0"
        @click="settling.settle()"
      >
        {{ settling.pickable.length === 0 ? 'Pick what is to fall' : `Let ${settling.pickable.length} fall` }}
      </v-btn>
      <FormLine v-if="part" :label="`${part.name} falls as`">
        <Segments :model-value="part.settlesAs" :options="forms" label="Falls as" @update:model-value="setForm" />
      </FormLine>
      <h3>Pour</h3>
      <p class="quiet hint">A mix from the kit falls into a circle that you drag, or into what stands there.</p>
      <PresetBar form="pour" :values="poured" :check="checkPoured" @apply="pourSo" />
      <v-autocomplete
        v-model="chosen"
        :items="parts"
        item-title="name"
        item-value="id"
        multiple
        aria-label="Parts to pour"
        placeholder="Parts to pour"
      />
      <div v-for="each in settling.mix" :key="each.partId" class="line">
        <span class="name">{{ nameOf(each.partId) }}</span>
        <QuantityField
          :label="`Weight of ${nameOf(each.partId)}`"
          quantity="factor"
          :decimals="1"
          :value="each.weight"
          :check="checkWeight"
          @commit="each.weight = $event"
        />
        <IconButton
          :size="14"
          :icon="mdiClose"
          :label="`Take ${nameOf(each.partId)} out`"
          @click="chosen = chosen.filter(id => id !== each.partId)"
        />
      </div>
      <NumberLine
        label="How many"
        :decimals="0"
        :value="settling.count"
        :check="checkCount"
        @commit="settling.count = $event"
      />
      <NumberLine
        label="Seed"
        :decimals="0"
        :value="settling.seed"
        :check="checkSeed"
        @commit="settling.seed = $event"
      />
      <v-btn :disabled="settling.mix.length === 0" @click="settling.pour()">
        {{ settling.isPouring ? 'Stop pouring' : 'Pour: drag a circle' }}
      </v-btn>
    </template>
  </section>
</template>

<style scoped>
.name {
  flex: 1;
}

.line :deep(.field) {
  width: 74px;
}
</style>
