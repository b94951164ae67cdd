<script setup lang="ts">
import { computed } from 'vue'
import type { AlignTarget } from '~~/core/lineup/align'
import type { AlignPlace } from '~~/core/lineup/extent'
import type { MatchWhat } from '~~/core/lineup/match'
import { useLineUp } from '~/composables/use-line-up'
import { useEdits } from '~/stores/edits'
import { useSettings } from '~/stores/settings'
import { useShaping } from '~/stores/shaping'

const settings = useSettings()
const shaping = useShaping()
const edits = useEdits()
const { task, places, target, value, spread, matching, count, operations, commit, touchToMatch } = useLineUp()
const tasks = [{ task: 'align', name: 'Align' }, { task: 'distribute', name: 'Distribute' }, { task: 'match', name: 'Match' }] as const
const AXES = [0, 1, 2] as const
const ENDS = [['left', 'right'], ['bottom', 'top'], ['back', 'front']] as const
const placesOf = (axis: 0 | 1 | 2): { place: AlignPlace, name: string }[] => [
  { place: 'min', name: ENDS[axis][0] }, { place: 'centre', name: 'centre' }, { place: 'max', name: ENDS[axis][1] }, { place: 'pivot', name: 'pivot' },
]
const targets: { target: AlignTarget, name: string }[] = [
  { target: 'last', name: 'the last picked' }, { target: 'first', name: 'the first picked' }, { target: 'all', name: 'the box around all' }, { target: 'ground', name: 'the ground below each' }, { target: 'value', name: 'a value' },
]
const whats: { what: MatchWhat, name: string }[] = [{ what: 'position', name: 'Position' }, { what: 'turn', name: 'Turn' }, { what: 'size', name: 'Size' }, { what: 'height', name: 'Height' }]
const needed = computed(() => task.value === 'distribute' ? (spread.by === 'gap' ? 2 : 3) : 1)
const limits = computed(() => settings.kept.setDown)
</script>

<template>
  <section class="bench-form" aria-labelledby="line-up-title">
    <h2 id="line-up-title">Line up</h2>
    <p class="quiet hint">Brings what is picked into line, along the axes chosen in the rail. What would happen is shown on the stage until you do it.</p>
    <div class="segments" role="group" aria-label="Task">
      <button v-for="entry in tasks" :key="entry.task" type="button" :aria-pressed="task === entry.task" @click="task = entry.task">{{ entry.name }}</button>
    </div>
    <template v-if="task === 'align'">
      <div v-for="axis in AXES" :key="axis" class="axis">
        <strong :class="`letter-${'xyz'[axis]}`">{{ 'XYZ'[axis] }}</strong>
        <div class="segments" role="group" :aria-label="`Align ${'XYZ'[axis]}`">
          <button v-for="entry in placesOf(axis)" :key="entry.place" type="button" :aria-pressed="places[axis] === entry.place" @click="places[axis] = places[axis] === entry.place ? null : entry.place">{{ entry.name }}</button>
        </div>
      </div>
      <label class="line"><span>To</span>
        <select v-model="target" class="text-box" aria-label="Align to"><option v-for="entry in targets" :key="entry.target" :value="entry.target">{{ entry.name }}</option></select>
      </label>
      <p v-if="target === 'ground'" class="quiet hint">Y goes to the ground below each thing; X and Z to the box around all.</p>
      <label v-if="target === 'value'" class="line"><span>Value</span>
        <QuantityField label="Align to value" quantity="length" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.kept.unit" :value="value" @commit="value = $event" />
      </label>
    </template>
    <template v-else-if="task === 'distribute'">
      <div class="segments" role="group" aria-label="Along">
        <button v-for="axis in AXES" :key="axis" type="button" :aria-pressed="spread.axis === axis" @click="spread.axis = axis">Along {{ 'XYZ'[axis] }}</button>
      </div>
      <label class="line"><span>Equal</span>
        <select v-model="spread.by" class="text-box" aria-label="Distribute by"><option value="gaps">gaps between them</option><option value="places">distances of one place</option><option value="gap">gaps of a given size</option></select>
      </label>
      <label v-if="spread.by === 'places'" class="line"><span>Place</span>
        <select v-model="spread.place" class="text-box" aria-label="Distribute place"><option v-for="entry in placesOf(spread.axis)" :key="entry.place" :value="entry.place">{{ entry.name }}</option></select>
      </label>
      <label v-if="spread.by === 'gap'" class="line"><span>Gap</span>
        <QuantityField label="Gap" quantity="length" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.kept.unit" :value="spread.gap" @commit="spread.gap = $event" />
      </label>
      <p class="quiet hint">{{ spread.by === 'gap' ? 'The first stays where it is.' : 'The first and the last stay where they are.' }}</p>
    </template>
    <template v-else>
      <div class="segments" role="group" aria-label="What to match">
        <button v-for="entry in whats" :key="entry.what" type="button" :aria-pressed="matching.what === entry.what" @click="matching.what = entry.what">{{ entry.name }}</button>
      </div>
      <div v-if="matching.what !== 'height'" class="line">
        <label v-for="axis in AXES" :key="axis" class="tick"><input v-model="matching.axes[axis]" type="checkbox"> {{ 'XYZ'[axis] }}</label>
      </div>
      <button type="button" class="main-button" :disabled="count === 0" @click="touchToMatch">Touch what to take it from …</button>
    </template>
    <template v-if="task !== 'match'">
      <p v-if="count < needed" class="quiet hint">Pick at least {{ needed }} {{ needed === 1 ? 'thing' : 'things' }}; {{ count }} picked.</p>
      <button type="button" class="main-button" :disabled="operations.length === 0" @click="commit">{{ task === 'align' ? 'Align' : 'Distribute' }}{{ operations.length > 0 ? ` (moves ${operations.length})` : '' }}</button>
    </template>

    <button type="button" class="small-button" :disabled="count < 2" title="Pivot to pivot; turn and size stay" @click="edits.swapPicked()">Swap places</button>

    <h3>Set down and face</h3>
    <p class="quiet hint">Lets each picked thing down onto what is below it (G).</p>
    <RestFields :rule="settings.kept.setDown" @change="Object.assign(settings.kept.setDown, $event)" />
    <label class="line"><span>Look from above</span>
      <QuantityField label="Look from above" quantity="length" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.kept.unit" :value="limits.above" :check="value => value >= 0 ? null : 'This cannot be negative.'" @commit="limits.above = $event" />
    </label>
    <label class="line"><span>At most down</span>
      <QuantityField label="At most down" quantity="length" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.kept.unit" :value="limits.below" :check="value => value >= 0 ? null : 'This cannot be negative.'" @commit="limits.below = $event" />
    </label>
    <button type="button" class="small-button" :disabled="count === 0" @click="shaping.setDownPicked()">Set down {{ count || '' }}</button>
    <div class="line">
      <button type="button" class="small-button" :disabled="count === 0" @click="shaping.face('towards')">Face …</button>
      <button type="button" class="small-button" :disabled="count === 0" @click="shaping.face('away')">Face away …</button>
      <label class="tick"><input v-model="shaping.faceUpright" type="checkbox"> upright</label>
    </div>
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

.letter-x { color: rgb(var(--v-theme-axis-x)); }
.letter-y { color: rgb(var(--v-theme-axis-y)); }
.letter-z { color: rgb(var(--v-theme-axis-z)); }
</style>
