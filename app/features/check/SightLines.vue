<script setup lang="ts">
import { BarChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'
import { computed } from 'vue'
import { isArrangement } from '~~/core/arrange/arrangement'
import { sightLines } from '~~/core/check/sight-lines'
import { palettes } from '~/stage/palette'
import { useChecking } from './checking'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

use([BarChart, GridComponent, MarkLineComponent, TooltipComponent, CanvasRenderer])

/** How each row of a fan sees over the row in front of it; the fan's id, or null while this is closed. */
const id = defineModel<string | null>({ required: true })
const level = useLevel()
const checking = useChecking()
const settings = useSettings()
const limits = computed(() => checking.limitsOf('sight-line').values)
const rows = computed(() => {
  const own = id.value === null ? undefined : level.view.get(id.value)?.own
  return own && isArrangement(own) && own.rule.type === 'fan'
    ? sightLines(own.rule, { eye: limits.value.eye!, focus: limits.value.focus! })
    : []
})
const option = computed(() => {
  const { colors } = palettes[settings.boardName]
  return {
    animation: false,
    textStyle: { color: colors['on-surface'], fontFamily: 'Barlow' },
    grid: { left: 50, right: 16, top: 16, bottom: 30 },
    tooltip: { trigger: 'axis' },
    xAxis: {
      type: 'category',
      data: rows.value.map(({ row }) => `row ${row + 1}`),
      axisLabel: { color: colors.quiet },
    },
    yAxis: {
      type: 'value',
      name: 'mm',
      max: ({ max }: { max: number }) =>
        Math.max(Math.ceil(max / 20) * 20, Math.ceil((limits.value.good! * 1000) / 20) * 20),
      axisLabel: { color: colors.quiet },
      splitLine: { lineStyle: { color: colors.line } },
    },
    series: [
      {
        type: 'bar',
        barCategoryGap: '30%',
        data: rows.value.map(({ c }) => ({
          value: Math.round(c * 1000),
          itemStyle: {
            color: c < limits.value.least! ? colors.error : c < limits.value.good! ? colors.action : colors.primary,
          },
        })),
        markLine: {
          symbol: 'none',
          lineStyle: { color: colors.quiet },
          label: { color: colors.quiet },
          data: [{ yAxis: limits.value.least! * 1000 }, { yAxis: limits.value.good! * 1000 }],
        },
      },
    ],
  }
})
</script>

<template>
  <FormDialog
    page="checking"
    :model-value="id !== null"
    title="Sight over the row in front"
    max-width="520"
    @update:model-value="id = null"
  >
    <p class="quiet hint">
      By how much each row's sight line passes over the eyes in the row before. The lines are what is acceptable and
      what is good; eyes and focus are set at the limits.
    </p>
    <VChart
      class="chart"
      role="img"
      :option="option"
      autoresize
      aria-label="Sight over the row in front, by row, in millimetres"
    />
    <table class="mono">
      <thead>
        <tr>
          <th scope="col">Row</th>
          <th scope="col">Radius</th>
          <th scope="col">Height</th>
          <th scope="col">Sight</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ row, radius, height, c } in rows" :key="row">
          <th scope="row">{{ row + 1 }}</th>
          <td>{{ settings.lengths([radius]) }}</td>
          <td>{{ settings.lengths([height]) }}</td>
          <td>{{ settings.lengths([c]) }}</td>
        </tr>
      </tbody>
    </table>
    <template #buttons><v-btn @click="id = null">Close</v-btn></template>
  </FormDialog>
</template>

<style scoped>
.chart {
  height: 220px;
}

table {
  width: 100%;
  font-size: var(--small);
}

td,
th {
  text-align: right;
}
</style>
