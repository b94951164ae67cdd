<script setup lang="ts">
import { computed } from 'vue'
import { isArrangement } from '~~/core/arrange/arrangement'
import { countOf } from '~~/core/arrange/count'
import type { TransformRow } from '~~/core/level/edit'
import { changeTransformNumber, transformNumbers } from '~~/core/level/edit'
import type { Vec3 } from '~~/core/level/schema'
import type { Entry } from '~~/core/units/entry'
import { applyEntry } from '~~/core/units/entry'
import { printQuantity, tidy } from '~~/core/units/quantity'
import { useResting } from '~/composables/use-resting'
import { useEditor } from '~/stores/editor'
import { useEdits } from '~/stores/edits'
import { useKit } from '~/stores/kit'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'
import { useShaping } from '~/stores/shaping'

const AXES = [0, 1, 2] as const
const level = useLevel()
const kit = useKit()
const editor = useEditor()
const settings = useSettings()
const shaping = useShaping()
const edits = useEdits()
const { restsOn, skewed } = useResting()

const picked = computed(() => {
  void level.version
  return [...level.selection.ids].filter(id => level.document.has(id))
})
const last = computed(() => {
  void level.version
  return level.selection.last !== null && level.document.has(level.selection.last) ? level.document.need(level.selection.last) : null
})
const part = computed(() => last.value?.partId ? kit.part(last.value.partId) : undefined)
const block = computed(() => {
  void level.version
  return last.value?.blockId ? level.document.blocks.get(last.value.blockId) : undefined
})
/** As they are, or as a drag going on would make them. */
const numbers = computed(() => {
  void level.version
  return picked.value.map(id => transformNumbers({ ...level.document.need(id), ...level.previewed.get(id) }))
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
const instances = computed(() => {
  void level.version
  return part.value ? shaping.instancesOf(part.value.id).length : 0
})
const inMetres = computed(() => settings.kept.sizeInMetres)

type Row = { row: TransformRow, label: string, quantity: 'length' | 'angle' | 'factor', unit?: string, decimals: number, suffix: string }
const rows = computed((): Row[] => [
  { row: 'position', label: 'Position', quantity: 'length', unit: settings.kept.unit, decimals: settings.decimals, suffix: settings.kept.unit },
  { row: 'turn', label: 'Turn', quantity: 'angle', decimals: 2, suffix: '°' },
  inMetres.value
    ? { row: 'size', label: 'Size', quantity: 'length', unit: settings.kept.unit, decimals: settings.decimals, suffix: settings.kept.unit }
    : { row: 'size', label: 'Size', quantity: 'factor', decimals: 3, suffix: '×' },
])

/** What one thing's number is: as it is kept, or for a size in metres as it measures. */
function numberOf(index: number, row: TransformRow, axis: 0 | 1 | 2): number | null {
  const kept = (numbers.value[index]![row] as Vec3)[axis]
  if (row !== 'size' || !inMetres.value) return tidy(kept)
  const id = picked.value[index]!
  const metres = level.index.localSizeOf(id)?.[axis]
  return metres ? Math.round(metres * kept / level.document.need(id).scale[axis] * 1e6) / 1e6 : null
}

/** The number all picked things share; null while they differ. */
function shared(row: TransformRow, axis: 0 | 1 | 2): number | null {
  const [first, ...rest] = picked.value.map((_, index) => numberOf(index, row, axis))
  return first !== undefined && rest.every(value => value === first) ? first : null
}

const checkSize = (row: TransformRow) => (value: number) => row === 'size' && value === 0 ? 'A size of 0 would flatten the shape for good.' : null

function toggleOpen(event: Event): void {
  const open = (event.target as HTMLInputElement).checked
  level.change(`${open ? 'Open' : 'Close'} group ${last.value!.name}`.slice(0, 200), [{ do: 'put', id: last.value!.id, fields: { own: { open } } }])
}

function change(row: TransformRow, label: string, axis: 0 | 1 | 2, next: (now: number) => number, joins?: string): void {
  const what = picked.value.length === 1 ? last.value!.name : `${picked.value.length} things`
  const operations = changeTransformNumber(level.document, picked.value, row, axis, (now, id) => {
    const metres = row === 'size' && inMetres.value ? level.index.localSizeOf(id)?.[axis] : undefined
    // A size in metres is a factor on what the thing measures now.
    return metres ? tidy(now * next(metres) / metres) : next(now)
  })
  level.change(`${label} ${'XYZ'[axis]} of ${what}`.slice(0, 200), operations, joins)
}

const commit = (row: TransformRow, label: string, axis: 0 | 1 | 2, entry: Entry) => change(row, label, axis, now => applyEntry(entry, now))

function step(row: TransformRow, label: string, axis: 0 | 1 | 2, steps: number): void {
  const { grid, turn, size } = settings.kept.steps
  const by = row === 'position' || (row === 'size' && inMetres.value) ? grid.size : row === 'turn' ? turn.size : size.size
  change(row, label, axis, now => tidy(now + by * steps) || now, `step ${row} ${axis} ${picked.value.join()}`)
}
</script>

<template>
  <section class="ledger" aria-label="Ledger">
    <p v-if="!last" class="quiet nothing">Nothing is picked. Click a thing on the stage or in the roster to see its numbers and change them.</p>
    <template v-else>
      <div class="who">
        <h2>{{ last.name }}</h2>
        <p v-if="picked.length > 1" class="many">and {{ picked.length - 1 }} more; a number typed goes to all</p>
        <p v-else-if="part" class="quiet">{{ part.kind === 'piece' ? 'Piece' : 'Prop' }} · <button type="button" class="link" :title="`Pick all ${instances} instances`" @click="edits.pickInstances()">instance of {{ part.name }}</button> ({{ instances }})</p>
        <p v-else-if="isArrangement(last.own)" class="quiet">Arrangement · {{ countOf(last.own.rule).toLocaleString('en') }} live</p>
        <p v-else-if="last.kind === 'group'" class="quiet">Group of {{ level.document.children(last.id).length }}</p>
        <p v-else class="quiet">{{ last.kind[0]!.toUpperCase() + last.kind.slice(1) }}</p>
        <p v-if="parentName" class="quiet">in {{ parentName }} · numbers in its axes</p>
        <p v-if="localSize" class="size" title="Width, height and depth along its own axes"><span class="quiet">Size</span> <span class="mono" data-test="local-size">{{ localSize }}</span></p>
        <p v-if="worldSize && worldSize !== localSize" class="size" title="Width, height and depth of the box around what is picked, along the world's axes"><span class="quiet">Box</span> <span class="mono" data-test="world-size">{{ worldSize }}</span></p>
        <label v-if="last.kind === 'group'" class="open"><input type="checkbox" :checked="'open' in last.own && last.own.open === true" @change="toggleOpen"> A click picks what is inside</label>
        <p v-if="restsOn" class="quiet">{{ restsOn }}</p>
        <p v-if="skewed" class="skewed" title="Turned inside something sized unevenly; bake it, or size its parent evenly">Skewed by what it hangs from</p>
      </div>
      <table>
        <thead class="sr">
          <tr><td /><th v-for="axis in AXES" :key="axis" scope="col">{{ 'XYZ'[axis] }}</th></tr>
        </thead>
        <tbody>
          <tr v-for="entry in rows" :key="entry.row">
            <th scope="row"><button v-if="entry.row === 'size'" type="button" class="link" title="Sizes as factors or in units of length" @click="settings.kept.sizeInMetres = !inMetres">Size {{ inMetres ? settings.kept.unit : '×' }}</button><template v-else>{{ entry.label }}</template></th>
            <td v-for="axis in AXES" :key="axis">
              <QuantityField
                class="number" :label="`${entry.label} ${'XYZ'[axis]}`" :axis="axis" :value="shared(entry.row, axis)" :quantity="entry.quantity" :unit="entry.unit"
                :decimals="entry.decimals" :suffix="entry.suffix" :check="checkSize(entry.row)" operators="+*/" steps
                @commit="(value, typed) => commit(entry.row, entry.label, axis, typed)" @step="step(entry.row, entry.label, axis, $event)" @focusout="level.endJoining()"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <PivotPicker />
      <BlockNumbers v-if="block" :block="block" />
      <LedgerActions v-else />
    </template>
    <span class="sr" data-test="selection-count">{{ picked.length }} picked on the {{ editor.stage ? 'stage' : 'roster' }}</span>
  </section>
</template>

<style scoped>
.ledger {
  display: flex;
  gap: 16px;
  flex: none;
  height: 148px;
  padding: 12px 14px;
  overflow: auto hidden;
  background: rgb(var(--v-theme-surface));
  border-top: 1px solid var(--line);
}

.nothing {
  margin: auto 0;
}

.who {
  flex: 1 1 190px;
  min-width: 150px;
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
  flex: none;
  border-spacing: 5px 6px;
  margin: -6px 0;
}

th[scope='row'] {
  padding-right: 10px;
  font: 500 13px var(--text);
  text-align: left;
}

.number {
  width: clamp(80px, 8vw, 110px);
}

.skewed {
  color: rgb(var(--v-theme-error));
}
</style>
