<script setup lang="ts">
import { computed } from 'vue'
import type { AlignTarget } from '~~/core/edit/lineup/align'
import type { AlignPlace } from '~~/core/edit/lineup/extent'
import type { MatchWhat } from '~~/core/edit/lineup/match'
import { lineUpSchema, useLineUp } from './use-line-up'
import { firstIssue } from '~~/core/units/issue'
import { useEdits } from '~/editor/edits'
import { useSettings } from '~/editor/settings'
import { useFacing } from './facing'
import { counted } from '~~/core/units/plural'
import KeepSection from './KeepSection.vue'
import RestFields from './RestFields.vue'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

const settings = useSettings()
const facing = useFacing()
const edits = useEdits()
const { kept, begin, task, places, target, value, spread, matching, count, operations, commit, touchToMatch } =
  useLineUp()
const tasks = [
  { value: 'align', name: 'Align' },
  { value: 'distribute', name: 'Distribute' },
  { value: 'match', name: 'Match' },
] as const
const spreads = [
  { value: 'gaps', name: 'gaps between them' },
  { value: 'places', name: 'distances of one place' },
  { value: 'gap', name: 'gaps of a given size' },
] as const
const ENDS = [
  ['left', 'right'],
  ['bottom', 'top'],
  ['back', 'front'],
] as const
const placesOf = (axis: 0 | 1 | 2): { value: AlignPlace; name: string }[] => [
  { value: 'min', name: ENDS[axis][0] },
  { value: 'centre', name: 'centre' },
  { value: 'max', name: ENDS[axis][1] },
  { value: 'pivot', name: 'pivot' },
]
const targets: { value: AlignTarget; name: string }[] = [
  { value: 'last', name: 'the last picked' },
  { value: 'first', name: 'the first picked' },
  { value: 'all', name: 'the box around all' },
  { value: 'ground', name: 'the ground below each' },
  { value: 'value', name: 'a value' },
]
const whats: { value: MatchWhat; name: string }[] = [
  { value: 'position', name: 'Position' },
  { value: 'turn', name: 'Turn' },
  { value: 'size', name: 'Size' },
  { value: 'height', name: 'Height' },
]
const needed = computed(() => (task.value === 'distribute' ? (spread.by === 'gap' ? 2 : 3) : 1))
const limits = computed(() => settings.kept.setDown)

const checkKept = (values: object) => {
  const read = lineUpSchema.safeParse(values)
  return read.success ? null : `${firstIssue(read.error).message}.`
}
</script>

<template>
  <section class="bench-form" aria-labelledby="line-up-title">
    <PanelHead title-id="line-up-title" title="Line up" />
    <p class="quiet hint">
      Brings what is picked into line, along the axes chosen in the rail. What would happen is shown on the stage until
      you do it.
    </p>
    <PresetBar form="line-up" :values="kept" :check="checkKept" @apply="begin(lineUpSchema.parse($event))" />
    <Segments v-model="task" :options="tasks" label="Task" />
    <template v-if="task === 'align'">
      <div v-for="{ axis, letter } in settings.axes.inOrder" :key="axis" class="axis">
        <strong :class="`letter-${letter.toLowerCase()}`">{{ letter }}</strong>
        <Segments
          v-model="places[axis]"
          :options="placesOf(axis)"
          :label="`Align ${letter}`"
          optional
          @none="places[axis] = null"
        />
      </div>
      <FormLine label="To">
        <Choice v-model="target" :options="targets" label="Align to" />
      </FormLine>
      <p v-if="target === 'ground'" class="quiet hint">
        The height goes to the ground below each thing; the rest to the box around all.
      </p>
      <FormLine v-if="target === 'value'" label="Value">
        <QuantityField
          label="Align to value"
          quantity="length"
          :unit="settings.kept.unit"
          :decimals="settings.decimals"
          :suffix="settings.suffix"
          :value="value"
          @commit="value = $event"
        />
      </FormLine>
    </template>
    <template v-else-if="task === 'distribute'">
      <Segments
        v-model="spread.axis"
        :options="settings.axes.inOrder.map(({ axis, letter }) => ({ value: axis, name: `Along ${letter}` }))"
        label="Along"
      />
      <FormLine label="Equal">
        <Choice v-model="spread.by" :options="spreads" label="Distribute by" />
      </FormLine>
      <FormLine v-if="spread.by === 'places'" label="Place">
        <Choice v-model="spread.place" :options="placesOf(spread.axis)" label="Distribute place" />
      </FormLine>
      <FormLine v-if="spread.by === 'gap'" label="Gap">
        <QuantityField
          label="Gap"
          quantity="length"
          :unit="settings.kept.unit"
          :decimals="settings.decimals"
          :suffix="settings.suffix"
          :value="spread.gap"
          @commit="spread.gap = $event"
        />
      </FormLine>
      <p class="quiet hint">
        {{ spread.by === 'gap' ? 'The first stays where it is.' : 'The first and the last stay where they are.' }}
      </p>
    </template>
    <template v-else>
      <Segments v-model="matching.what" :options="whats" label="What to match" />
      <div v-if="matching.what !== 'height'" class="line">
        <Tick
          v-for="{ axis, letter } in settings.axes.inOrder"
          :key="axis"
          v-model="matching.axes[axis]"
          :label="letter"
        />
      </div>
      <Tick v-model="settings.kept.lineUpKeeps" label="and keep it so" />
      <v-btn class="main" color="action" variant="flat" :disabled="count === 0" @click="touchToMatch">
        Touch what to take it from …
      </v-btn>
    </template>
    <template v-if="task !== 'match'">
      <p v-if="count < needed" class="quiet hint">Pick at least {{ counted(needed, 'thing') }}; {{ count }} picked.</p>
      <Tick v-model="settings.kept.lineUpKeeps" label="and keep it so" />
      <v-btn class="main" color="action" variant="flat" :disabled="operations.length === 0" @click="commit">
        {{ task === 'align' ? 'Align' : 'Distribute'
        }}{{ operations.length > 0 ? ` (moves ${operations.length})` : '' }}
      </v-btn>
    </template>

    <v-btn :disabled="count < 2" title="Pivot to pivot; turn and size stay" @click="edits.swapPicked()">
      Swap places
    </v-btn>

    <h3>Set down and face</h3>
    <p class="quiet hint">{{ keys.said('Lets each picked thing down onto what is below it ({Set down}).') }}</p>
    <RestFields :rule="settings.kept.setDown" @change="Object.assign(settings.kept.setDown, $event)" />
    <FormLine label="Look from above">
      <QuantityField
        label="Look from above"
        quantity="length"
        :unit="settings.kept.unit"
        :decimals="settings.decimals"
        :suffix="settings.suffix"
        :value="limits.above"
        :check="value => (value >= 0 ? null : 'This cannot be negative.')"
        @commit="limits.above = $event"
      />
    </FormLine>
    <FormLine label="At most down">
      <QuantityField
        label="At most down"
        quantity="length"
        :unit="settings.kept.unit"
        :decimals="settings.decimals"
        :suffix="settings.suffix"
        :value="limits.below"
        :check="value => (value >= 0 ? null : 'This cannot be negative.')"
        @commit="limits.below = $event"
      />
    </FormLine>
    <Tick v-model="limits.keeps" label="and keep it on what is below" />
    <v-btn :disabled="count === 0" @click="facing.setDownPicked()">Set down {{ count || '' }}</v-btn>
    <div class="line">
      <v-btn :disabled="count === 0" @click="facing.face('towards')">Face …</v-btn>
      <v-btn :disabled="count === 0" @click="facing.face('away')">Face away …</v-btn>
      <Tick v-model="facing.faceUpright" label="upright" />
    </div>
    <KeepSection />
  </section>
</template>

<style scoped>
.axis {
  display: flex;
  align-items: center;
  gap: 8px;
}

.axis .segments {
  flex: 1;
}

.letter-x {
  color: rgb(var(--v-theme-axis-x));
}
.letter-y {
  color: rgb(var(--v-theme-axis-y));
}
.letter-z {
  color: rgb(var(--v-theme-axis-z));
}
</style>
