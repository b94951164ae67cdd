<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed, defineAsyncComponent, onBeforeUnmount, onMounted, ref } from 'vue'
import type { Rule } from '~~/core/arrange/rules'
import { MOST_COPIES } from '~~/core/arrange/numbers'
import type { ScatterRule } from '~~/core/arrange/scatter/rule'
import { useBrushing } from './brushing'
import { useLevel } from '~/editor/level'
import { useRepeating } from '~/features/repeat/repeating'
import { useScattering } from './scattering'
import { useTools } from '~/editor/tools'
import { counted } from '~~/core/units/plural'
import CopyFields from '~/features/repeat/CopyFields.vue'
import PresetFields from '~/features/repeat/PresetFields.vue'
import RuleForm from '~/features/repeat/RuleForm.vue'
import ScatterLimits from './ScatterLimits.vue'
import ScatterMix from './ScatterMix.vue'
import ScatterReport from './ScatterReport.vue'
import SeedField from '~/features/repeat/SeedField.vue'

// Its charts are fetched when somebody asks for them.
const ScatterCharts = defineAsyncComponent(() => import('./ScatterCharts.vue'))

const level = useLevel()
const repeating = useRepeating()
const scattering = useScattering()
const brushing = useBrushing()
const tools = useTools()
const rule = computed(() => scattering.rule)
const isLive = computed(() => scattering.currentId !== null)
const bandWidth = ref(1)
const charts = ref(false)
const nothingPicked = computed(() => scattering.picked().length === 0)
const nameOf = (id: string) => level.view.get(id)?.name ?? 'not there any more'

function change(next: Rule, joins?: string): void {
  if (next.type === 'scatter') scattering.setRule(next, joins)
}

const set = (fields: Partial<ScatterRule>) => scattering.setRule({ ...rule.value, ...fields })

onMounted(() => scattering.setOpen(true))
onBeforeUnmount(() => scattering.setOpen(false))

const brushes = [
  { value: 'add', name: 'Paint' },
  { value: 'remove', name: 'Away' },
  { value: 'soften', name: 'Soften' },
  { value: 'put', name: 'Put one' },
  { value: 'take', name: 'Take one' },
] as const
/** By the area that was measured last. */
function tooMany(next: Rule): string | null {
  const area = scattering.report?.area ?? 0
  return next.type === 'scatter'
    && next.measure === 'density'
    && next.density * area > MOST_COPIES
    && next.apart === 0
    && !next.keepRoom
    ? `It would make ${Math.round(next.density * area).toLocaleString('en')} copies; a million is the most.`
    : null
}

const problemAt = (field: string) =>
  scattering.report?.problem?.field === field ? scattering.report.problem.message : null
const sourceNames = computed(() => [
  { value: null as string | null, name: 'the one that comes most' },
  ...rule.value.mix.map(({ source }) => ({ value: source as string | null, name: nameOf(source) })),
])
</script>

<template>
  <section class="bench-form" aria-labelledby="scatter-title">
    <PanelHead title-id="scatter-title" title="Scatter" />
    <p v-if="!isLive" class="quiet hint">
      Covers surfaces with many parts by a rule that stays a rule. Choose what they stand on and which parts; what it
      would make is shown on the stage.
    </p>
    <p v-else class="line">
      <strong>{{ nameOf(scattering.currentId!) }}</strong>
      <v-btn title="Turns the copies into ordinary things in a group" @click="repeating.releaseCurrent()">
        Release
      </v-btn>
    </p>
    <ScatterReport @charts="charts = true" />

    <h3>On</h3>
    <ul class="list" aria-label="Surfaces">
      <li v-for="each in rule.on" :key="each.id">
        <span>{{ nameOf(each.id) }}</span>
        <IconButton
          :icon="mdiClose"
          :size="15"
          :label="`No more on ${nameOf(each.id)}`"
          @click="set({ on: rule.on.filter(other => other.id !== each.id) })"
        />
      </li>
    </ul>
    <p v-if="problemAt('on')" class="wrong" role="alert">{{ problemAt('on') }}</p>
    <v-btn :disabled="nothingPicked" @click="scattering.addSurfaces()">Add what is picked as surface</v-btn>
    <Tick :model-value="rule.plane" label="The ground plane too" @update:model-value="set({ plane: $event })" />
    <ul class="list" aria-label="Areas">
      <li v-for="(area, i) in rule.areas" :key="i">
        <span>
          {{ area.hole ? 'Without' : 'Within' }} a
          {{ area.type === 'band' ? `band of ${tools.printLength(area.width)}` : 'loop' }},
          {{ counted(area.points.length, 'corner') }}
        </span>
        <IconButton
          :icon="mdiClose"
          :size="15"
          :label="`Remove area ${i + 1}`"
          @click="set({ areas: rule.areas.filter((_, other) => other !== i) })"
        />
      </li>
    </ul>
    <p v-if="problemAt('areas')" class="wrong" role="alert">{{ problemAt('areas') }}</p>
    <div class="buttons">
      <v-btn @click="brushing.drawArea('loop', false, 0)">Draw an area …</v-btn>
      <v-btn @click="brushing.drawArea('loop', true, 0)">A hole …</v-btn>
      <v-btn @click="brushing.drawArea('band', false, bandWidth)">A band …</v-btn>
      <v-btn @click="brushing.drawArea('band', true, bandWidth)">A gap …</v-btn>
    </div>
    <FormLine label="Width of bands">
      <QuantityField
        label="Width of bands"
        quantity="length"
        unit="m"
        suffix="m"
        :decimals="2"
        :value="bandWidth"
        :check="value => (value > 0 && value <= 1000 ? null : 'More than 0.')"
        @commit="bandWidth = $event"
      />
    </FormLine>

    <ScatterMix />
    <p v-if="problemAt('mix')" class="wrong" role="alert">{{ problemAt('mix') }}</p>

    <h3>How many</h3>
    <RuleForm :rule="rule" :refuses="tooMany" @change="change" />
    <p v-if="problemAt('density')" class="wrong" role="alert">{{ problemAt('density') }}</p>
    <p v-if="problemAt('keepRoom')" class="wrong" role="alert">{{ problemAt('keepRoom') }}</p>
    <SeedField label="Seed of the scatter" :seed="rule.seed" @change="set({ seed: $event })" />

    <ScatterLimits />

    <h3>Brush</h3>
    <template v-if="isLive">
      <Segments
        :model-value="brushing.does"
        :options="brushes"
        label="Brush"
        :columns="3"
        optional
        @update:model-value="brushing.brush($event)"
        @none="brushing.brush(brushing.does!)"
      />
      <Tick
        :model-value="rule.paint.begins === 'nowhere'"
        label="Only where painted"
        @update:model-value="set({ paint: { ...rule.paint, begins: $event ? 'nowhere' : 'everywhere' } })"
      />
      <FormLine v-if="brushing.does === 'put'" label="Puts down">
        <Choice
          :model-value="brushing.handSource"
          :options="sourceNames"
          label="Source put down"
          @update:model-value="brushing.handSource = $event"
        />
      </FormLine>
      <p v-if="rule.paint.strokes.length > 0" class="line">
        <span class="quiet">{{ counted(rule.paint.strokes.length, 'stroke') }}</span>
        <v-btn class="link" variant="plain" @click="set({ paint: { ...rule.paint, strokes: [] } })">
          Wipe all paint
        </v-btn>
      </p>
    </template>
    <p v-else class="quiet hint">
      Once it is kept, brushes paint where copies stand, put single ones down and take single ones away.
    </p>

    <template v-if="isLive && repeating.own">
      <CopyFields :own="repeating.own" />
    </template>
    <v-btn
      v-else
      class="main"
      color="action"
      variant="flat"
      :disabled="rule.mix.length === 0 || !scattering.dealt || scattering.report?.problem !== null"
      @click="scattering.create()"
    >
      Keep live
    </v-btn>
    <PresetFields
      v-if="repeating.own || !isLive"
      :own="{ rule }"
      @change="
        own =>
          own.rule.type === 'scatter'
          && scattering.setRule({
            ...own.rule,
            on: rule.on,
            plane: rule.plane,
            areas: rule.areas,
            mix: rule.mix,
            paint: rule.paint,
          })
      "
    />
    <ScatterCharts v-if="charts" v-model="charts" />
  </section>
</template>

<style scoped>
.list {
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 0;
  list-style: none;
}

.list:empty {
  display: none;
}

.list li {
  display: flex;
  gap: 6px;
  align-items: center;
  justify-content: space-between;
}

.buttons {
  display: grid;
  flex: none;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}

.main {
  position: sticky;
  bottom: 0;
  z-index: 1;
  box-shadow: 0 0 0 10px rgb(var(--v-theme-surface));
}

/* Nothing is seen through it, also while it can do nothing. */
.main.v-btn--disabled {
  background: rgb(var(--v-theme-surface)) !important;
  border: 1px solid var(--line);
  color: var(--quiet) !important;
  opacity: 1;
}

.main.v-btn--disabled :deep(.v-btn__overlay) {
  opacity: 0;
}

.wrong {
  color: rgb(var(--v-theme-error));
  font-size: var(--small);
}
</style>
