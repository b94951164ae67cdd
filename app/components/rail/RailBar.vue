<script setup lang="ts">
import { computed } from 'vue'
import { printQuantity } from '~~/core/units/quantity'
import { useEditor } from '~/stores/editor'
import { useGrips } from '~/composables/use-grips'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'
import { useShaping } from '~/stores/shaping'

const editor = useEditor()
const level = useLevel()
const settings = useSettings()
const shaping = useShaping()
const { axesModes, pivotModes, borrowedFrom, hasPin, setAxes, setPivot } = useGrips()

/** The pointer's place on the level, or where the view looks while it is elsewhere. */
const place = computed(() => editor.pointer ?? editor.stats?.target ?? [0, 0, 0])
const length = (value: number) => `${Number(printQuantity(value, 'length', settings.kept.unit, Math.max(settings.decimals, 2)))} ${settings.kept.unit}`
const degrees = (value: number) => `${Number(value.toFixed(2))}°`
const percent = (value: number) => `${Number((value * 100).toFixed(1))} %`
// Common practice: modular tiles come in steps of 50, 100, 500 and 1000 cm; 5, 15 and 45 degrees all divide 90.
const METRIC = [0.01, 0.05, 0.1, 0.25, 0.5, 1, 5, 10]
const INCHES = [0.0254, 0.0508, 0.1016, 0.1524, 0.3048, 0.6096, 0.9144, 3.048]
const gridList = computed(() => ['ft', 'in'].includes(settings.kept.unit) ? INCHES : METRIC)
const points = [
  { kind: 'vertex', name: 'Corners' }, { kind: 'edge', name: 'Middles of edges' }, { kind: 'face', name: 'Middles of faces' }, { kind: 'pivot', name: 'Pivots' }, { kind: 'box', name: 'Corners of the box' },
] as const
const steps = computed(() => settings.kept.steps)
</script>

<template>
  <div class="rail" role="toolbar" aria-label="Rail">
    <RailPill label="Axes" :value="axesModes.find(entry => entry.mode === settings.kept.axes)!.name" title="Whose directions the handles follow (X: the next)">
      <button v-for="entry in axesModes" :key="entry.mode" type="button" class="choice" :aria-pressed="settings.kept.axes === entry.mode" @click="setAxes(entry.mode)">
        <strong>{{ entry.name }}</strong> <span class="quiet">{{ entry.about }}</span>
      </button>
      <p class="quiet">With several things picked, Local, Parent and Surface are those of the last picked.</p>
      <div class="line"><button type="button" class="small-button" @click="shaping.borrowAxes()">Borrow from a thing …</button><button type="button" class="small-button" @click="shaping.borrowFromPoints()">From three points …</button></div>
      <p v-if="borrowedFrom" class="quiet">Borrowed from {{ borrowedFrom }}</p>
    </RailPill>
    <RailPill label="Around" :value="pivotModes.find(entry => entry.mode === settings.kept.pivot)!.name" title="The point things turn and grow around">
      <button v-for="entry in pivotModes" :key="entry.mode" type="button" class="choice" :aria-pressed="settings.kept.pivot === entry.mode" @click="setPivot(entry.mode)">
        <strong>{{ entry.name }}</strong> <span class="quiet">{{ entry.about }}</span>
      </button>
      <div class="line"><button type="button" class="small-button" @click="shaping.dropPin()">{{ hasPin ? 'Drop the pin elsewhere …' : 'Drop a pin …' }}</button><button type="button" class="small-button" :disabled="level.selection.ids.size === 0" @click="editor.togglePivotEditing()">Edit (P)</button></div>
    </RailPill>
    <RailPill label="Grid" :value="length(steps.grid.size)" :on="steps.grid.on" title="Snap to the grid; hold Ctrl for the opposite" @toggle="steps.grid.on = !steps.grid.on">
      <StepMenu kind="grid" label="Grid step" quantity="length" :unit="settings.kept.unit" :suffix="settings.kept.unit" :decimals="Math.max(settings.decimals, 2)" :list="gridList" :print="length">
        <div class="segments">
          <button type="button" :aria-pressed="settings.kept.gridAlong === 'world'" @click="settings.kept.gridAlong = 'world'">Along the world</button>
          <button type="button" :aria-pressed="settings.kept.gridAlong === 'axes'" @click="settings.kept.gridAlong = 'axes'">Along the axes</button>
        </div>
        <label class="line"><span>Units</span>
          <select v-model="settings.kept.unit" class="text-box mono" aria-label="Units"><option v-for="unit in settings.units" :key="unit">{{ unit }}</option></select>
        </label>
      </StepMenu>
    </RailPill>
    <RailPill label="Turn" :value="degrees(steps.turn.size)" :on="steps.turn.on" title="Turn in steps; hold Ctrl for the opposite" @toggle="steps.turn.on = !steps.turn.on">
      <StepMenu kind="turn" label="Turn step" quantity="angle" suffix="°" :decimals="2" :list="[1, 5, 10, 15, 22.5, 30, 45, 90]" :print="degrees" />
    </RailPill>
    <RailPill label="Size" :value="percent(steps.size.size)" :on="steps.size.on" title="Size in steps; hold Ctrl for the opposite" @toggle="steps.size.on = !steps.size.on">
      <StepMenu kind="size" label="Size step" quantity="factor" unit="%" suffix="%" :decimals="1" :list="[0.01, 0.05, 0.1, 0.25, 0.5, 1]" :print="percent" />
    </RailPill>
    <RailPill label="Hug" :value="settings.kept.hugOn ? settings.kept.hug.onto : 'off'" :on="settings.kept.hugOn" title="Drags follow the surface (H)" @toggle="settings.kept.hugOn = !settings.kept.hugOn">
      <div class="segments">
        <button type="button" :aria-pressed="settings.kept.hug.onto === 'ground'" @click="settings.kept.hug.onto = 'ground'">Ground only</button>
        <button type="button" :aria-pressed="settings.kept.hug.onto === 'everything'" @click="settings.kept.hug.onto = 'everything'">Everything</button>
      </div>
      <p class="quiet">Ground: parts tagged “ground”, and slabs.</p>
      <RestFields :rule="settings.kept.hug" @change="Object.assign(settings.kept.hug, $event)" />
    </RailPill>
    <RailPill label="" value="Abut" :on="settings.kept.abut" title="Faces of boxes meet when they come near (A)" @toggle="settings.kept.abut = !settings.kept.abut" />
    <RailPill label="" value="Vertex" :on="settings.kept.vertex" title="Snap point to point (or hold N)" @toggle="settings.kept.vertex = !settings.kept.vertex">
      <label v-for="entry in points" :key="entry.kind" class="tick"><input v-model="settings.kept.snapPoints" type="checkbox" :value="entry.kind"> {{ entry.name }}</label>
    </RailPill>
    <span class="gap" />
    <span class="place" role="group" aria-label="Position" title="Where the pointer is. Type a number to look there, or +30 to shift the view by 30" data-test="pointer-position">
      <QuantityField
        v-for="axis in [0, 1, 2] as const" :key="axis" class="spot" :label="`Go to ${'XYZ'[axis]}`" :axis="axis" quantity="length" :unit="settings.kept.unit"
        :decimals="settings.decimals" :value="place[axis]!" operators="+" @commit="(value, { operator }) => editor.goTo(axis, value, operator === '+')"
      />
    </span>
  </div>
</template>

<style scoped>
.rail {
  display: flex;
  align-items: center;
  gap: 7px;
  flex: none;
  height: 36px;
  padding: 0 8px 0 10px;
  overflow: auto hidden;
  background: rgb(var(--v-theme-rail));
  border-top: 1px solid var(--line);
  font-size: 13px;
  scrollbar-width: none;
}

.choice {
  padding: 3px 8px;
  border-radius: 6px;
  text-align: left;
  line-height: 1.3;
}

.choice[aria-pressed='true'] {
  background: rgba(var(--v-theme-primary), 0.14);
}

.gap {
  flex: 1;
}

.place {
  display: flex;
  gap: 3px;
}

.spot {
  width: 62px;
  height: 22px;
}

.spot :deep(input) {
  padding: 0 4px;
  font-size: 11px;
}
</style>
