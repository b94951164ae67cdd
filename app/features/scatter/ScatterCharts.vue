<script setup lang="ts">
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, LegendComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Figures } from '~~/core/arrange/scatter/figures'
import { copyId } from '~~/core/scene/copy-id'
import { palettes } from '~/stage/palette'
import { saveCsv } from '~/editor/saving/save-csv'
import { useLevel } from '~/editor/level'
import { useScattering } from './scattering'
import { useSettings } from '~/editor/settings'

use([BarChart, LineChart, GridComponent, LegendComponent, TooltipComponent, CanvasRenderer])

/** What came of a scatter, drawn and as a table: a bar that is clicked picks its copies on the stage. */
const isOpen = defineModel<boolean>({ required: true })
const level = useLevel()
const settings = useSettings()
const scattering = useScattering()
const figures = shallowRef<Figures | null>(null)
const which = ref<'sources' | 'neighbours' | 'slopes' | 'heights'>('sources')
const charts = [
  { value: 'sources', name: 'Sources' },
  { value: 'neighbours', name: 'Neighbours' },
  { value: 'slopes', name: 'Slopes' },
  { value: 'heights', name: 'Heights' },
] as const
const ABOUT = {
  sources: 'Copies of each source: asked by weight, and obtained.',
  neighbours: 'Metres to the nearest other copy; the line is a free scatter of this density (Clark and Evans 1954).',
  slopes: 'Degrees of the surface under each copy.',
  heights: 'Metres above the ground plane.',
}
watch(
  [isOpen, () => scattering.dealt],
  async () => {
    if (isOpen.value) figures.value = await scattering.figures()
  },
  { immediate: true },
)

/** The rows of the chart: what each bar is of, its number, what is expected, and its copies. */
const rows = computed((): { name: string; count: number; expected: number | null; copies: () => number[] }[] => {
  const { report, dealt } = scattering
  if (!report || !dealt) return []
  if (which.value === 'sources') {
    return report.sources.map(({ share, obtained }, number) => ({
      name: level.view.get(sourceIds.value[number] ?? '')?.name ?? `Source ${number + 1}`,
      count: obtained,
      expected: share * report.obtained,
      copies: () => Array.from({ length: dealt.count }, (_, i) => i).filter(i => dealt.sources[i] === number),
    }))
  }
  const digits = which.value === 'slopes' ? 0 : 2
  return (
    figures.value?.[which.value].map(({ from, to, copies, expected }) => ({
      name: `${from.toFixed(digits)}–${to.toFixed(digits)}`,
      count: copies.length,
      expected: expected ?? null,
      copies: () => copies,
    })) ?? []
  )
})
const sourceIds = computed(() =>
  scattering.currentId === null
    ? scattering.rule.mix.map(({ source }) => source)
    : level.view.children(scattering.currentId),
)

const option = computed(() => {
  const { colors } = palettes[settings.boardName]
  const text = { color: colors['on-surface'], fontFamily: 'Barlow' }
  return {
    animation: false,
    textStyle: text,
    grid: { left: 46, right: 12, top: 30, bottom: 60 },
    legend: { textStyle: text, top: 0 },
    tooltip: { trigger: 'axis' },
    xAxis: {
      type: 'category',
      data: rows.value.map(({ name }) => name),
      axisLabel: { rotate: 40, color: colors.quiet },
    },
    yAxis: { type: 'value', axisLabel: { color: colors.quiet }, splitLine: { lineStyle: { color: colors.line } } },
    series: [
      {
        name: 'obtained',
        type: 'bar',
        data: rows.value.map(({ count }) => count),
        itemStyle: { color: colors.primary },
        barCategoryGap: '12%',
      },
      ...(rows.value.some(({ expected }) => expected !== null)
        ? [
            which.value === 'sources'
              ? {
                  name: 'asked',
                  type: 'bar',
                  data: rows.value.map(({ expected }) => Math.round(expected!)),
                  itemStyle: { color: colors.action },
                }
              : {
                  name: 'free scatter',
                  type: 'line',
                  smooth: true,
                  symbol: 'none',
                  data: rows.value.map(({ expected }) => Math.round(expected! * 10) / 10),
                  lineStyle: { color: colors.picked, width: 2 },
                  itemStyle: { color: colors.picked },
                },
          ]
        : []),
    ],
  }
})

/** As many as are picked at once. */
const MOST_PICKED = 2000

function pick(index: number): void {
  const { currentId, dealt } = scattering
  const row = rows.value[index]
  if (currentId === null || !dealt || !row) return
  const copies = row.copies()
  level.pick(
    copies
      .slice(0, MOST_PICKED)
      .map(i => copyId(currentId, [...dealt.keys.subarray(i * 3, i * 3 + 3)].join(',')))
      .filter(id => level.view.has(id)),
  )
  if (copies.length > MOST_PICKED)
    level.notify(`${MOST_PICKED.toLocaleString('en')} of ${copies.length.toLocaleString('en')} are picked`, [
      'More are not picked at once.',
    ])
}

const picks = (event: unknown) => pick((event as { dataIndex: number }).dataIndex)
const expectedName = computed(() => (which.value === 'sources' ? 'asked' : 'free scatter'))
const hasExpected = computed(() => rows.value.some(({ expected }) => expected !== null))

function save(): void {
  const head = ['bar', 'obtained', ...(hasExpected.value ? [expectedName.value] : [])]
  const lines = rows.value.map(({ name, count, expected }) => [
    name,
    String(count),
    ...(hasExpected.value ? [expected!.toFixed(2)] : []),
  ])
  saveCsv([head, ...lines], `${which.value}.csv`)
}
</script>

<template>
  <v-navigation-drawer
    v-model="isOpen"
    class="charts"
    location="right"
    temporary
    :scrim="false"
    width="440"
    aria-label="Charts of the scatter"
    disable-route-watcher
  >
    <section v-if="isOpen" class="sheet">
      <h2>Charts</h2>
      <Segments v-model="which" :options="charts" label="Chart" />
      <p class="quiet hint">{{ ABOUT[which] }}</p>
      <VChart class="chart" role="img" :option="option" autoresize :aria-label="ABOUT[which]" @click="picks" />
      <table class="mono">
        <thead>
          <tr>
            <th scope="col">Bar</th>
            <th scope="col">Obtained</th>
            <th v-if="hasExpected" scope="col">{{ expectedName }}</th>
            <td />
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in rows" :key="row.name">
            <th scope="row">{{ row.name }}</th>
            <td>{{ row.count.toLocaleString('en') }}</td>
            <td v-if="hasExpected">{{ row.expected?.toFixed(1) }}</td>
            <td>
              <v-btn
                class="link"
                variant="plain"
                :disabled="row.count === 0 || scattering.currentId === null"
                :aria-label="`Pick ${row.name}`"
                @click="pick(i)"
              >
                pick
              </v-btn>
            </td>
          </tr>
        </tbody>
      </table>
      <div class="line">
        <v-btn @click="save">Save as CSV</v-btn>
        <v-btn @click="isOpen = false">Close</v-btn>
      </div>
    </section>
  </v-navigation-drawer>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 14px;
}

.chart {
  height: 260px;
}

table {
  width: 100%;
  font-size: var(--small);
  border-collapse: collapse;
}

th,
td {
  padding: 1px 4px;
  text-align: right;
}

th:first-child {
  font-weight: 400;
  text-align: left;
}
</style>
