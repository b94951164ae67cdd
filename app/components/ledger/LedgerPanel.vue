<script setup lang="ts">
import { computed } from 'vue'
import type { TransformRow } from '~~/core/level/edit'
import { setTransformNumber, transformNumbers } from '~~/core/level/edit'
import type { Vec3 } from '~~/core/level/schema'
import { printQuantity, tidy } from '~~/core/units/quantity'
import { useEditor } from '~/stores/editor'
import { useKit } from '~/stores/kit'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'

const AXES = [0, 1, 2] as const
const level = useLevel()
const kit = useKit()
const editor = useEditor()
const settings = useSettings()

const picked = computed(() => {
  void level.version
  return [...level.selection.ids].filter(id => level.document.has(id))
})
const last = computed(() => {
  void level.version
  return level.selection.last !== null && level.document.has(level.selection.last) ? level.document.need(level.selection.last) : null
})
const part = computed(() => last.value?.partId ? kit.part(last.value.partId) : undefined)
const numbers = computed(() => {
  void level.version
  return picked.value.map(id => transformNumbers(level.document, id))
})
const worldSize = computed(() => {
  void level.version
  if (picked.value.length === 0) return null
  return printSize(level.index.sizeOf(picked.value))
})
const localSize = computed(() => {
  void level.version
  return last.value && picked.value.length === 1 ? printSize(level.index.localSizeOf(last.value.id)) : null
})

function printSize(size: readonly number[] | null): string | null {
  return size && `${size.map(side => printQuantity(side, 'length', settings.kept.unit, settings.decimals)).join(' × ')} ${settings.kept.unit}`
}
const parentName = computed(() => last.value?.parentId ? level.document.need(last.value.parentId).name : null)

const rows = computed(() => [
  { row: 'position' as const, label: 'Position', quantity: 'length' as const, unit: settings.kept.unit as string | undefined, decimals: settings.decimals, suffix: settings.kept.unit as string },
  { row: 'turn' as const, label: 'Turn', quantity: 'angle' as const, unit: undefined, decimals: 2, suffix: '°' },
  { row: 'size' as const, label: 'Size', quantity: 'factor' as const, unit: undefined, decimals: 3, suffix: '×' },
])

/** The number all picked things share; null while they differ. */
function shared(row: TransformRow, axis: number): number | null {
  const [first, ...rest] = numbers.value.map(entry => tidy((entry[row] as Vec3)[axis]!))
  return first !== undefined && rest.every(value => value === first) ? first : null
}

const checkSize = (row: TransformRow) => (value: number) => row === 'size' && value === 0 ? 'A size of 0 would flatten the shape for good.' : null

function toggleOpen(event: Event): void {
  const open = (event.target as HTMLInputElement).checked
  level.change(`${open ? 'Open' : 'Close'} group ${last.value!.name}`.slice(0, 200), [{ do: 'put', id: last.value!.id, fields: { own: { open } } }])
}

function commit(row: TransformRow, label: string, axis: 0 | 1 | 2, value: number): void {
  const what = picked.value.length === 1 ? last.value!.name : `${picked.value.length} things`
  level.change(`${label} ${'XYZ'[axis]} of ${what}`.slice(0, 200), setTransformNumber(level.document, picked.value, row, axis, value))
}
</script>

<template>
  <section class="ledger" aria-label="Ledger">
    <p v-if="!last" class="quiet nothing">Nothing is picked. Click a thing on the stage or in the roster to see its numbers and change them.</p>
    <template v-else>
      <div class="who">
        <h2>{{ last.name }}</h2>
        <p v-if="picked.length > 1" class="many">and {{ picked.length - 1 }} more; a number typed goes to all</p>
        <p v-else-if="part" class="quiet">{{ part.kind === 'piece' ? 'Piece' : 'Prop' }} · {{ part.name }}</p>
        <p v-else-if="last.kind === 'group'" class="quiet">Group of {{ level.document.children(last.id).length }}</p>
        <p v-else class="quiet">{{ last.kind[0]!.toUpperCase() + last.kind.slice(1) }}</p>
        <p v-if="parentName" class="quiet">in {{ parentName }} · numbers in its axes</p>
        <p v-if="localSize" class="size" title="Width, height and depth along its own axes"><span class="quiet">Size</span> <span class="mono" data-test="local-size">{{ localSize }}</span></p>
        <p v-if="worldSize && worldSize !== localSize" class="size" title="Width, height and depth of the box around what is picked, along the world's axes"><span class="quiet">Box</span> <span class="mono" data-test="world-size">{{ worldSize }}</span></p>
        <label v-if="last.kind === 'group'" class="open"><input type="checkbox" :checked="'open' in last.own && last.own.open === true" @change="toggleOpen"> A click picks what is inside</label>
      </div>
      <table>
        <thead class="sr">
          <tr><td /><th v-for="axis in AXES" :key="axis" scope="col">{{ 'XYZ'[axis] }}</th></tr>
        </thead>
        <tbody>
          <tr v-for="entry in rows" :key="entry.row">
            <th scope="row">{{ entry.label }}</th>
            <td v-for="axis in AXES" :key="axis">
              <QuantityField
                class="number" :label="`${entry.label} ${'XYZ'[axis]}`" :axis="axis" :value="shared(entry.row, axis)" :quantity="entry.quantity" :unit="entry.unit"
                :decimals="entry.decimals" :suffix="entry.suffix" :check="checkSize(entry.row)" @commit="commit(entry.row, entry.label, axis, $event)"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <p class="quiet tip">Units and sums are welcome:<br><span class="mono">1.5m + 20cm</span>, <span class="mono">2ft 6in</span></p>
    </template>
    <span class="sr" data-test="selection-count">{{ picked.length }} picked on the {{ editor.stage ? 'stage' : 'roster' }}</span>
  </section>
</template>

<style scoped>
.ledger {
  display: flex;
  gap: 24px;
  flex: none;
  height: 148px;
  padding: 12px 16px;
  background: rgb(var(--v-theme-surface));
  border-top: 1px solid var(--line);
}

.nothing {
  margin: auto 0;
}

.who {
  width: 236px;
  overflow: hidden;
}

.who p {
  margin: 2px 0 0;
  font-size: 12.5px;
  line-height: 1.35;
}

h2 {
  overflow: hidden;
  font-size: 17px;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.many {
  color: var(--picked);
}

.who .size {
  font-size: 11.5px;
  white-space: nowrap;
}

.open {
  display: flex;
  gap: 6px;
  margin-top: 3px;
  font-size: 12.5px;
}

table {
  border-spacing: 6px 6px;
  margin: -6px 0;
}

th[scope='row'] {
  padding-right: 10px;
  font: 500 13px var(--text);
  text-align: left;
}

.number {
  width: 118px;
}

.tip {
  margin: 4px 0 0;
  font-size: 12px;
  line-height: 1.6;
}
</style>
