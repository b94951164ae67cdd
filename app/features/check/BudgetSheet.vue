<script setup lang="ts">
import { BarChart, TreemapChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'
import { computed, ref } from 'vue'
import { v7 } from 'uuid'
import type { Budget, BudgetRow } from '~~/core/check/budgets'
import { BUDGET_NAMES, budgetLimits, budgetRows, BUDGETS, budgetTotals } from '~~/core/check/budgets'
import { textureBytes } from '~/api/texture-images'
import { palettes } from '~/stage/palette'
import { saveCsv } from '~/editor/saving/save-csv'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

use([BarChart, TreemapChart, GridComponent, TooltipComponent, CanvasRenderer])

/** What the level costs, against what it may: in all, and divided by parts, layers or groups. */
const isOpen = defineModel<boolean>({ required: true })
const level = useLevel()
const kit = useKit()
const settings = useSettings()
const by = ref<'part' | 'layer' | 'group'>('part')
const of = ref<Budget>('triangles')
const sorted = ref<Budget | 'name'>('triangles')
const divisions = [
  { value: 'part', name: 'Parts' },
  { value: 'layer', name: 'Layers' },
  { value: 'group', name: 'Groups' },
] as const
const costs = BUDGET_NAMES.map(value => ({ value, name: BUDGETS[value].name }))
const columns = ['name', ...BUDGET_NAMES] as const
/** Bars that are drawn; the table has all. */
const MOST_BARS = 12

const facts = {
  solidOf: kit.solid,
  partName: (id: string) => kit.part(id)?.name ?? 'a part that is not there',
  pictureBytes: textureBytes,
}
const rows = computed(() => {
  const found = isOpen.value ? budgetRows(level.view, by.value, facts) : []
  const key = sorted.value
  return found.sort((a, b) =>
    key === 'name' ? (a.name < b.name ? -1 : 1) : b.costs[key] - a.costs[key] || (a.name < b.name ? -1 : 1),
  )
})
const totals = computed(() => (isOpen.value ? budgetTotals(level.view, facts) : null))
const limits = computed(() => budgetLimits(level.view))
const print = (value: number, budget: Budget) =>
  BUDGETS[budget].unit === 'MB' ? value.toFixed(2) : Math.round(value).toLocaleString('en')
const share = (budget: Budget) => (totals.value ? totals.value[budget] / limits.value[budget] : 0)

function setLimit(budget: Budget, value: number): void {
  const known = [...level.view.limits.values()].findLast(limit => limit.of === 'budget')
  level.change(`Set the budget of ${BUDGETS[budget].name.toLowerCase()}`, [
    {
      do: 'put-limit',
      id: known?.id ?? v7(),
      fields: { of: 'budget', off: false, values: { ...known?.values, [budget]: value } },
    },
  ])
}

/** The most costly of the chosen cost first, whatever the table is sorted by. */
const bars = computed(() =>
  [...rows.value]
    .sort((a, b) => b.costs[of.value] - a.costs[of.value])
    .filter(row => row.costs[of.value] > 0)
    .slice(0, MOST_BARS),
)
const text = computed(() => ({ color: palettes[settings.boardName].colors['on-surface'], fontFamily: 'Barlow' }))

const barOption = computed(() => {
  const { colors } = palettes[settings.boardName]
  return {
    animation: false,
    textStyle: text.value,
    grid: { left: 8, right: 20, top: 6, bottom: 22, containLabel: true },
    tooltip: { trigger: 'axis' },
    xAxis: { type: 'value', axisLabel: { color: colors.quiet }, splitLine: { lineStyle: { color: colors.line } } },
    yAxis: {
      type: 'category',
      inverse: true,
      data: bars.value.map(({ name }) => name),
      axisLabel: { color: colors['on-surface'], width: 110, overflow: 'truncate' },
    },
    series: [
      {
        type: 'bar',
        data: bars.value.map(row => Number(row.costs[of.value].toFixed(2))),
        itemStyle: { color: colors.primary },
        barCategoryGap: '18%',
      },
    ],
  }
})
const treeOption = computed(() => {
  const { colors } = palettes[settings.boardName]
  return {
    animation: false,
    textStyle: text.value,
    tooltip: {},
    series: [
      {
        type: 'treemap',
        roam: false,
        nodeClick: false,
        breadcrumb: { show: false },
        left: 0,
        right: 0,
        top: 0,
        bottom: 0,
        label: { color: colors['on-header'], fontFamily: 'Barlow', overflow: 'truncate' },
        itemStyle: { color: colors.primary, borderColor: colors.surface, borderWidth: 2, gapWidth: 1 },
        data: bars.value.map((row, i) => ({
          name: row.name,
          value: Number(row.costs[of.value].toFixed(2)),
          itemStyle: { color: [colors.header, colors.primary][i % 2] },
        })),
      },
    ],
  }
})

/** As many as are picked at once. */
const MOST_PICKED = 2000

function pick(row: BudgetRow | undefined): void {
  if (row) level.pick(row.things.slice(0, MOST_PICKED).filter(id => level.view.has(id)))
}
const picksBar = (event: unknown) => pick(bars.value[(event as { dataIndex: number }).dataIndex])
const picksTile = (event: unknown) => pick(bars.value.find(({ name }) => name === (event as { name: string }).name))

function save(): void {
  saveCsv(
    [
      ['name', ...BUDGET_NAMES.map(name => `${BUDGETS[name].name}${BUDGETS[name].unit && ` (${BUDGETS[name].unit})`}`)],
      ...rows.value.map(({ name, costs: each }) => [
        name,
        ...BUDGET_NAMES.map(budget => Number(each[budget].toFixed(3))),
      ]),
    ],
    `budgets by ${by.value}.csv`,
  )
}
</script>

<template>
  <v-navigation-drawer
    v-model="isOpen"
    class="budgets"
    location="right"
    temporary
    :scrim="false"
    width="560"
    aria-label="Budgets"
    disable-route-watcher
  >
    <section v-if="isOpen && totals" class="sheet">
      <h2>Budgets</h2>
      <p class="quiet hint">What this level costs and what it may. The limits are kept in the level.</p>
      <div v-for="budget in BUDGET_NAMES" :key="budget" class="budget" :class="{ over: share(budget) > 1 }">
        <span>{{ BUDGETS[budget].name }}</span>
        <span class="mono cost">{{ print(totals[budget], budget) }}</span>
        <v-progress-linear
          :model-value="Math.min(100, share(budget) * 100)"
          height="8"
          :color="share(budget) > 1 ? 'error' : 'primary'"
          :aria-label="`${BUDGETS[budget].name}: ${Math.round(share(budget) * 100)} % of the budget`"
        />
        <QuantityField
          :label="`Budget of ${BUDGETS[budget].name.toLowerCase()}`"
          quantity="factor"
          :decimals="0"
          :suffix="BUDGETS[budget].unit"
          :value="limits[budget]"
          :check="value => (value > 0 ? null : 'This has to be more than 0.')"
          @commit="setLimit(budget, $event)"
        />
      </div>
      <div class="line">
        <Segments v-model="by" :options="divisions" label="Divided by" />
        <Choice v-model="of" :options="costs" label="Cost that is drawn" />
      </div>
      <VChart
        class="bars"
        role="img"
        :option="barOption"
        autoresize
        :aria-label="`${BUDGETS[of].name} by ${by}, the most first`"
        @click="picksBar"
      />
      <VChart
        class="tree"
        role="img"
        :option="treeOption"
        autoresize
        :aria-label="`Shares of ${BUDGETS[of].name.toLowerCase()} by ${by}`"
        @click="picksTile"
      />
      <table class="mono">
        <thead>
          <tr>
            <th v-for="key in columns" :key="key" scope="col" :aria-sort="sorted === key ? 'descending' : 'none'">
              <v-btn class="link" variant="plain" @click="sorted = key">
                {{ key === 'name' ? 'Name' : BUDGETS[key].name }}
              </v-btn>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.id">
            <th scope="row">
              <v-btn class="link" variant="plain" :aria-label="`Pick ${row.name}`" @click="pick(row)">
                {{ row.name }}
              </v-btn>
            </th>
            <td v-for="budget in BUDGET_NAMES" :key="budget">{{ print(row.costs[budget], budget) }}</td>
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
  gap: 8px;
  padding: 14px;
}

.budget {
  display: grid;
  grid-template-columns: 84px 82px 1fr 104px;
  align-items: center;
  gap: 8px;
}

.cost {
  font-size: var(--small);
  text-align: right;
}

.over .cost {
  color: rgb(var(--v-theme-error));
  font-weight: 600;
}

.bars {
  height: 230px;
}

.tree {
  height: 150px;
}

table {
  width: 100%;
  font-size: var(--note);
  border-collapse: collapse;
}

th,
td {
  padding: 1px 3px;
  text-align: right;
}

th:first-child {
  max-width: 130px;
  overflow: hidden;
  font-weight: 400;
  text-align: left;
}

th .link,
td {
  font-size: var(--note);
  letter-spacing: -0.05em;
}
</style>
