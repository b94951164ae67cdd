<script setup lang="ts">
import { computed } from 'vue'
import type { Column } from '~~/core/formats/table/columns'
import { COLUMNS } from '~~/core/formats/table/columns'
import type { Convention } from '~~/core/formats/table/convention'
import { EULER_ORDERS, TABLE_UNITS } from '~~/core/formats/table/convention'
import { useKit } from '~/editor/kit'
import { useFileImport } from './file-import'

/** What the columns and numbers of a table mean, over its first rows; and parts for names that none has. */
const fileImport = useFileImport()
const kit = useKit()
const table = computed(() => fileImport.table!)
const mapping = computed(() => fileImport.mapping!)
const meanings = [{ value: null, name: 'passed over' }, ...COLUMNS.map(value => ({ value, name: value }))]
const rows = computed(() => table.value.rows.slice(0, 6))
const ups = [
  { value: 'y', name: 'Y' },
  { value: 'z', name: 'Z' },
] as const
const hands = [
  { value: 'right', name: 'Right-handed' },
  { value: 'left', name: 'Left-handed' },
] as const
const units = TABLE_UNITS.map(value => ({ value, name: value }))
const turns = [
  ...EULER_ORDERS.map(value => ({ value, name: `degrees, ${value.split('').join(' ')}` })),
  { value: 'quaternion' as const, name: 'quaternion' },
  { value: 'matrix' as const, name: 'all as a matrix' },
]
const spaces = [
  { value: 'world', name: 'In the world' },
  { value: 'parent', name: 'In what it hangs from' },
] as const
const decimals = [
  { value: 'point', name: 'Point' },
  { value: 'comma', name: 'Comma' },
] as const
const parts = computed(() =>
  [...kit.parts].sort((a, b) => (a.name < b.name ? -1 : 1)).map(({ id, name }) => ({ value: id, name })),
)
const partAt = computed(() => mapping.value.columns.indexOf('part'))
/** Names in the first rows that are no part's, or were given one here. */
const unmatched = computed(() => {
  const names = new Set(kit.all.map(({ name }) => name.toLowerCase()))
  const found =
    partAt.value < 0
      ? []
      : table.value.rows
          .map(({ cells }) => cells[partAt.value]?.trim() ?? '')
          .filter(name => name && !names.has(name.toLowerCase()))
  return [...new Set([...found, ...Object.keys(mapping.value.parts)])].slice(0, 30)
})

function mean(at: number, column: Column | null): void {
  // A meaning is that of one column.
  fileImport.map({
    columns: mapping.value.columns.map((before, i) => (i === at ? column : before === column ? null : before)),
  })
}

const set = (changed: Partial<Convention> | { decimal: 'point' | 'comma' }) => fileImport.map(changed)
</script>

<template>
  <div class="conventions">
    <FormLine label="Points upwards">
      <Segments
        :model-value="mapping.up"
        :options="ups"
        label="Axis that points upwards"
        @update:model-value="set({ up: $event })"
      />
    </FormLine>
    <FormLine label="Axes">
      <Segments
        :model-value="mapping.hand"
        :options="hands"
        label="Handedness"
        @update:model-value="set({ hand: $event })"
      />
    </FormLine>
    <FormLine label="Lengths in">
      <Segments
        :model-value="mapping.unit"
        :options="units"
        label="Unit of lengths"
        @update:model-value="set({ unit: $event })"
      />
    </FormLine>
    <FormLine label="Turns">
      <Choice
        :model-value="mapping.turn"
        :options="turns"
        label="Form of turns"
        @update:model-value="set({ turn: $event })"
      />
    </FormLine>
    <FormLine label="Where">
      <Segments
        :model-value="mapping.space"
        :options="spaces"
        label="In which axes"
        @update:model-value="set({ space: $event })"
      />
    </FormLine>
    <FormLine label="Decimals">
      <Segments
        :model-value="mapping.decimal"
        :options="decimals"
        label="Decimal mark"
        @update:model-value="set({ decimal: $event })"
      />
    </FormLine>
  </div>
  <div class="wide">
    <table aria-label="First rows" data-test="table-preview">
      <thead>
        <tr>
          <th v-for="(heading, i) in table.headings" :key="i">{{ heading }}</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td v-for="(heading, i) in table.headings" :key="i">
            <Choice
              :model-value="mapping.columns[i] ?? null"
              :options="meanings"
              :label="`Meaning of ${heading}`"
              @update:model-value="mean(i, $event)"
            />
          </td>
        </tr>
        <tr v-for="row in rows" :key="row.line">
          <td v-for="(heading, i) in table.headings" :key="i" class="mono">{{ row.cells[i] }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <div v-if="unmatched.length > 0" class="parts" aria-label="Parts that are not in the kit">
    <p>No part has these names:</p>
    <FormLine v-for="name in unmatched" :key="name" :label="name">
      <Choice
        :model-value="mapping.parts[name] ?? null"
        :options="parts"
        :label="`Part for ${name}`"
        placeholder="choose a part"
        @update:model-value="$event && fileImport.map({ parts: { ...mapping.parts, [name]: $event } })"
      />
    </FormLine>
  </div>
</template>

<style scoped>
.conventions {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 24px;
}

.wide {
  overflow-x: auto;
}

table {
  border-collapse: collapse;
  font-size: var(--small);
}

th,
td {
  max-width: 170px;
  padding: 2px 6px;
  overflow: hidden;
  border: 1px solid var(--line);
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
}

td :deep(.choice) {
  min-width: 104px;
}

.parts {
  max-height: 150px;
  overflow: auto;
}
</style>
