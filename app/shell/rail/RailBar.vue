<script setup lang="ts">
import { computed } from 'vue'
import type { SnapPointKind } from '~~/core/edit/snap/vertex'
import { printShort } from '~~/core/units/quantity'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useGrips } from '~/features/transform/use-grips'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useBorrowing } from '~/features/transform/borrowing'
import RailPill from './RailPill.vue'
import RestFields from '~/features/line-up/RestFields.vue'
import StepMenu from './StepMenu.vue'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

const session = useStageSession()
const tools = useTools()
const level = useLevel()
const settings = useSettings()
const borrowing = useBorrowing()
const { axesModes, pivotModes, borrowedFrom, hasPin, setAxes, setPivot } = useGrips()

/** The pointer's place on the level, or where the view looks while it is elsewhere. */
const place = computed(() => session.pointer?.at ?? session.stats?.target ?? [0, 0, 0])
const length = (value: number) =>
  settings.marked(
    `${printShort(value, 'length', settings.kept.unit, Math.max(settings.decimals, 2))} ${settings.suffix}`.trim(),
  )
const degrees = (value: number) => settings.angle(value)
const percent = (value: number) => settings.marked(`${Number((value * 100).toFixed(1))} %`)
// Common practice: modular tiles come in steps of 50, 100, 500 and 1000 cm; 5, 15 and 45 degrees all divide 90.
const METRIC = [0.01, 0.05, 0.1, 0.25, 0.5, 1, 5, 10]
const INCHES = [0.0254, 0.0508, 0.1016, 0.1524, 0.3048, 0.6096, 0.9144, 3.048]
const gridList = computed(() => (['ft', 'in', 'ft-in'].includes(settings.kept.unit) ? INCHES : METRIC))
const points = [
  { kind: 'vertex', name: 'Corners' },
  { kind: 'edge', name: 'Middles of edges' },
  { kind: 'face', name: 'Middles of faces' },
  { kind: 'pivot', name: 'Pivots' },
  { kind: 'box', name: 'Corners of the box' },
] as const
const alongs = [
  { value: 'world', name: 'Along the world' },
  { value: 'axes', name: 'Along the axes' },
] as const
const ontos = [
  { value: 'ground', name: 'Ground only' },
  { value: 'everything', name: 'Everything' },
] as const
const steps = computed(() => settings.kept.steps)

function setPoint(kind: SnapPointKind, on: boolean): void {
  settings.kept.snapPoints = points
    .map(each => each.kind)
    .filter(each => (each === kind ? on : settings.kept.snapPoints.includes(each)))
}
</script>

<template>
  <div class="rail-room">
    <div class="rail" role="toolbar" aria-label="Rail">
      <RailPill
        label="Axes"
        :value="axesModes.find(entry => entry.mode === settings.kept.axes)!.name"
        title="Whose directions the handles follow (X: the next)"
      >
        <MenuList class="choices" label="Axes">
          <MenuItem
            v-for="entry in axesModes"
            :key="entry.mode"
            :title="entry.name"
            :subtitle="entry.about"
            :checked="settings.kept.axes === entry.mode"
            @click="setAxes(entry.mode)"
          />
        </MenuList>
        <p class="quiet hint">With several things picked, Local, Parent and Surface are those of the last picked.</p>
        <div class="line">
          <v-btn @click="borrowing.borrowAxes()">Borrow from a thing …</v-btn>
          <v-btn @click="borrowing.borrowFromPoints()">From three points …</v-btn>
        </div>
        <p v-if="borrowedFrom" class="quiet">Borrowed from {{ borrowedFrom }}</p>
      </RailPill>
      <RailPill
        label="Around"
        :value="pivotModes.find(entry => entry.mode === settings.kept.pivot)!.name"
        title="The point things turn and grow around"
      >
        <MenuList class="choices" label="Around">
          <MenuItem
            v-for="entry in pivotModes"
            :key="entry.mode"
            :title="entry.name"
            :subtitle="entry.about"
            :checked="settings.kept.pivot === entry.mode"
            @click="setPivot(entry.mode)"
          />
        </MenuList>
        <div class="line">
          <v-btn @click="borrowing.dropPin()">{{ hasPin ? 'Drop the pin elsewhere …' : 'Drop a pin …' }}</v-btn>
          <v-btn :disabled="level.selection.ids.size === 0" @click="tools.togglePivotEditing()">
            {{ keys.said('Edit ({Edit the pivot})') }}
          </v-btn>
        </div>
      </RailPill>
      <RailPill
        label="Grid"
        :value="length(steps.grid.size)"
        :on="steps.grid.on"
        title="Snap to the grid; hold Ctrl for the opposite"
        @toggle="steps.grid.on = !steps.grid.on"
      >
        <StepMenu
          kind="grid"
          label="Grid step"
          quantity="length"
          :unit="settings.kept.unit"
          :suffix="settings.suffix"
          :decimals="Math.max(settings.decimals, 2)"
          :list="gridList"
          :print="length"
        >
          <Segments v-model="settings.kept.gridAlong" :options="alongs" label="Grid along" />
          <FormLine label="Units">
            <Choice v-model="settings.kept.unit" :options="settings.units" label="Units" />
          </FormLine>
        </StepMenu>
      </RailPill>
      <RailPill
        label="Turn"
        :value="degrees(steps.turn.size)"
        :on="steps.turn.on"
        title="Turn in steps; hold Ctrl for the opposite"
        @toggle="steps.turn.on = !steps.turn.on"
      >
        <StepMenu
          kind="turn"
          label="Turn step"
          quantity="angle"
          v-bind="settings.angles"
          :list="[1, 5, 10, 15, 22.5, 30, 45, 90]"
          :print="degrees"
        />
      </RailPill>
      <RailPill
        label="Size"
        :value="percent(steps.size.size)"
        :on="steps.size.on"
        title="Size in steps; hold Ctrl for the opposite"
        @toggle="steps.size.on = !steps.size.on"
      >
        <StepMenu
          kind="size"
          label="Size step"
          quantity="factor"
          unit="%"
          suffix="%"
          :decimals="1"
          :list="[0.01, 0.05, 0.1, 0.25, 0.5, 1]"
          :print="percent"
        />
      </RailPill>
      <RailPill
        label="Hug"
        :value="settings.kept.hugOn ? settings.kept.hug.onto : 'off'"
        :on="settings.kept.hugOn"
        :title="keys.said('Drags follow the surface ({Hug the surface, on or off})')"
        @toggle="settings.kept.hugOn = !settings.kept.hugOn"
      >
        <Segments v-model="settings.kept.hug.onto" :options="ontos" label="Onto" />
        <p class="quiet hint">Ground: parts tagged “ground”, and slabs.</p>
        <RestFields :rule="settings.kept.hug" @change="Object.assign(settings.kept.hug, $event)" />
      </RailPill>
      <RailPill
        label=""
        value="Abut"
        :on="settings.kept.abut"
        :title="keys.said('Faces of boxes meet when they come near ({Abut, on or off})')"
        @toggle="settings.kept.abut = !settings.kept.abut"
      >
        <Tick v-model="settings.kept.abutKeeps" label="and keep what has met" />
        <p class="quiet hint">
          {{ keys.said('{Keep what the drag has caught} during a drag keeps what it has caught, or does not.') }}
        </p>
      </RailPill>
      <RailPill
        label=""
        value="Vertex"
        :on="settings.kept.vertex"
        :title="keys.said('Snap point to point (or hold {Vertex snap while held})')"
        @toggle="settings.kept.vertex = !settings.kept.vertex"
      >
        <Tick
          v-for="entry in points"
          :key="entry.kind"
          :model-value="settings.kept.snapPoints.includes(entry.kind)"
          :label="entry.name"
          @update:model-value="setPoint(entry.kind, $event)"
        />
      </RailPill>
      <span class="gap" />
      <span
        class="place"
        role="group"
        aria-label="Position"
        title="Where the pointer is. Type a number to look there, or +30 to shift the view by 30"
        data-test="pointer-position"
      >
        <QuantityField
          v-for="{ axis } in settings.axes.inOrder"
          :key="axis"
          class="spot"
          :label="`Go to ${'XYZ'[axis]}`"
          :axis="axis"
          quantity="length"
          :unit="settings.kept.unit"
          :decimals="settings.decimals"
          :value="place[axis]!"
          operators="+"
          @commit="(value, { operator }) => session.goTo(axis, value, operator === '+')"
        />
      </span>
      <AskMark />
    </div>
  </div>
</template>

<style scoped>
.rail-room {
  container: rail / inline-size;
  flex: none;
}

.rail {
  display: flex;
  align-items: center;
  gap: 7px;
  flex: none;
  height: max(calc(36px * var(--scale)), calc(var(--target) + 6px));
  padding: 0 8px 0 10px;
  overflow: auto hidden;
  background: rgb(var(--v-theme-rail));
  border-top: 1px solid var(--line);
  scrollbar-width: none;
}

.choices {
  margin: -6px -8px 0;
}

.gap {
  flex: 1;
}

.place {
  display: flex;
  gap: 3px;
}

.spot {
  width: calc(64px * var(--scale));
}

.spot :deep(.v-input) {
  --v-input-control-height: max(calc(22px * var(--scale)), var(--target));
}

.spot :deep(.v-field) {
  --v-field-padding-start: 5px;
  --v-field-padding-end: 4px;

  font-size: var(--note);
}

/* In em, so that larger text needs more. Where there is not room for all, what the pills are goes first: their titles say it. */
@container rail (max-width: 66.2em) {
  .rail :deep(.label) {
    display: none;
  }
  .rail {
    gap: 4px;
  }
  .spot {
    width: calc(57px * var(--scale));
  }
  .rail :deep(.ask-mark) {
    display: none;
  }
}
</style>
