<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ImportChoice } from '~~/core/formats/import/choice'
import { asName } from '~~/core/units/text'
import { usePartFields } from '../use-part-fields'
import { usePartImport } from './part-import'
import { useFileImport } from './file-import'
import { useTools } from '~/editor/tools'
import { counted } from '~~/core/units/plural'
import PartFields from '../PartFields.vue'
import TurningView from '../TurningView.vue'

const partImport = usePartImport()
const fileImport = useFileImport()
const tools = useTools()
const { fields, wrong: wrongFields, ready } = usePartFields()
const failed = ref<string | null>(null)
const units = (['m', 'cm', 'mm', 'in', 'ft'] as const).map(value => ({ value, name: value }))
const ups = [
  { value: 'y', name: 'Y' },
  { value: 'z', name: 'Z' },
] as const
const pivots = [
  { value: 'file', name: "The file's own" },
  { value: 'place', name: 'Place of the box' },
] as const
const wholes = computed(() => [
  { value: true, name: 'One part' },
  { value: false, name: counted(partImport.facts?.names.length ?? 0, 'part') },
])
const pixels = [
  { value: null, name: 'as they are' },
  ...[4096, 2048, 1024, 512, 256].map(value => ({ value, name: `at most ${value} px` })),
]
const triangles = [
  { value: null, name: 'as they are' },
  ...[200_000, 50_000, 20_000, 5000, 1000].map(value => ({ value, name: `at most ${value.toLocaleString('en')}` })),
]
watch(
  () => partImport.fileName,
  file => (fields.name = asName(file.replace(/\.[^.]*$/, ''))),
)
watch(
  () => partImport.isOpen,
  () => {
    failed.value = null
    fields.tags = ''
  },
)

const choose = (changed: Partial<ImportChoice>) => void partImport.choose(changed)
const parts = computed(() => partImport.result?.parts ?? [])
const meshes = computed(() => parts.value.map(({ mesh }) => mesh))
const ends = computed(() => parts.value.flatMap(({ sockets }) => sockets))
const pictures = computed(() => new Map(partImport.result?.pictures.map(({ facts, picture }) => [facts.name, picture])))
const textures = computed(() => partImport.result?.pictures.map(({ facts }) => facts) ?? [])
const bytesNow = computed(() => textures.value.reduce((sum, { bytes }) => sum + bytes, 0))
const whole = computed(() =>
  parts.value.reduce(
    (sum, { triangles: { before, after }, error }) => ({
      before: sum.before + before,
      after: sum.after + after,
      error: Math.max(sum.error, error),
    }),
    { before: 0, after: 0, error: 0 },
  ),
)
const sizeOf = (size: readonly number[]) => size.map(side => tools.printLength(side)).join(' × ')
const megabytes = (bytes: number) =>
  bytes < 100_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`
const wrong = computed(() => failed.value ?? partImport.refused ?? (partImport.facts ? wrongFields.value : null))
const small = computed(
  () =>
    partImport.facts !== null
    && !partImport.refused
    && parts.value.some(({ size }) => Math.max(...size) < 0.01 || Math.max(...size) > 200),
)

/** The same file with its tree, in place of its shapes alone. */
function asLevel(): void {
  const { packed, fileName } = partImport
  partImport.close()
  if (packed) void fileImport.look(new File([packed], fileName))
}

async function store(): Promise<void> {
  if (!partImport.canStore || wrong.value) return
  failed.value = await partImport.store(ready.value)
}
</script>

<template>
  <FormDialog
    page="your-own-parts"
    :model-value="partImport.isOpen"
    :title="`Bring in ${partImport.fileName}`"
    max-width="820"
    @update:model-value="partImport.close()"
  >
    <div class="columns">
      <div class="left">
        <div class="picture">
          <TurningView v-if="meshes.length > 0" :parts="meshes" :pictures="pictures" />
          <v-progress-circular
            v-if="partImport.isWorking"
            class="wait"
            indeterminate
            color="primary"
            aria-label="Reading the file"
          />
          <p v-else-if="partImport.refused" class="quiet none">Nothing of it can be brought in.</p>
        </div>
        <template v-if="parts.length > 0">
          <p data-test="import-size">
            <strong class="mono">{{ sizeOf(parts[0]!.size) }}</strong>
            <span v-if="parts.length > 1" class="quiet">the first of {{ parts.length }}</span>
          </p>
          <p v-if="small" class="error">That is an unusual size. Is the unit right?</p>
          <p data-test="import-triangles">
            <span class="mono">{{ whole.before.toLocaleString('en') }}</span>
            triangles
            <template v-if="whole.after < whole.before">
              →
              <strong class="mono">{{ whole.after.toLocaleString('en') }},</strong>
              at most {{ tools.printLength(whole.error) }} off
            </template>
          </p>
          <p v-if="partImport.facts">
            {{ counted(partImport.facts.materials.length, 'material') }}:
            <span class="quiet">
              {{ partImport.facts.materials.slice(0, 6).join(', ')
              }}{{ partImport.facts.materials.length > 6 ? ' …' : '' }}
            </span>
          </p>
          <p v-if="ends.length > 0">
            {{ ends.length }} sockets:
            <span class="quiet">
              {{
                ends
                  .slice(0, 6)
                  .map(each => `${each.name} (${each.kind})`)
                  .join(', ')
              }}
            </span>
          </p>
          <p v-if="textures.length === 0" class="quiet">No textures</p>
          <p v-else>
            {{ counted(textures.length, 'texture') }}:
            <span class="mono">{{ megabytes(partImport.textureBytes) }}</span>
            <template v-if="bytesNow < partImport.textureBytes">
              →
              <strong class="mono">{{ megabytes(bytesNow) }}</strong>
            </template>
          </p>
          <ul v-if="textures.length > 0" class="list" aria-label="Textures">
            <li v-for="each in textures" :key="each.name">
              <span>{{ each.type.replace('image/', '').toUpperCase() }}</span>
              <span class="mono">{{ each.width }} × {{ each.height }}</span>
              <span class="mono quiet">{{ megabytes(each.bytes) }}</span>
            </li>
          </ul>
        </template>
      </div>
      <div class="right">
        <template v-if="partImport.facts">
          <FormLine v-if="partImport.facts.names.length > 1" label="As">
            <Segments
              :model-value="partImport.choice.whole"
              :options="wholes"
              label="As how many parts"
              @update:model-value="choose({ whole: $event })"
            />
          </FormLine>
          <PartFields v-model="fields" :named="parts.length === 1">
            <p v-if="parts.length > 1" class="quiet names">
              {{
                parts
                  .slice(0, 8)
                  .map(part => part.name)
                  .join(', ')
              }}{{ parts.length > 8 ? ' …' : '' }}
            </p>
          </PartFields>
          <FormLine :label="`Unit (guess: ${partImport.facts.unit})`">
            <Segments
              :model-value="partImport.choice.unit"
              :options="units"
              label="Unit of the file"
              @update:model-value="choose({ unit: $event })"
            />
          </FormLine>
          <FormLine label="Points upwards">
            <Segments
              :model-value="partImport.choice.up"
              :options="ups"
              label="Axis that points upwards"
              @update:model-value="choose({ up: $event })"
            />
          </FormLine>
          <FormLine label="Pivot">
            <Segments
              :model-value="partImport.choice.pivot === 'file' ? 'file' : 'place'"
              :options="pivots"
              label="Pivot"
              @update:model-value="choose({ pivot: $event === 'file' ? 'file' : [0, -1, 0] })"
            />
          </FormLine>
          <PivotPlaces
            v-if="partImport.choice.pivot !== 'file'"
            class="places"
            :current="partImport.choice.pivot"
            @pick="choose({ pivot: $event })"
          />
          <FormLine label="Triangles of a part">
            <Choice
              :model-value="partImport.choice.triangles"
              :options="triangles"
              label="Most triangles of a part"
              @update:model-value="choose({ triangles: $event })"
            />
          </FormLine>
          <FormLine v-if="textures.length > 0" label="Textures">
            <Choice
              :model-value="partImport.choice.pixels"
              :options="pixels"
              label="Most pixels of a texture"
              @update:model-value="choose({ pixels: $event })"
            />
          </FormLine>
        </template>
        <div v-if="partImport.facts?.notes.length || partImport.checked" class="told" data-test="import-told">
          <p v-for="note in partImport.facts?.notes" :key="note">{{ note }}</p>
          <p v-for="(issue, i) in partImport.checked?.errors" :key="`e${i}`" class="error">
            {{ issue.message }}
            <span class="mono">{{ issue.pointer }}</span>
          </p>
          <p v-if="partImport.checked && partImport.checked.errorCount > 0" class="error">
            It breaks the glTF standard in {{ counted(partImport.checked.errorCount, 'place') }}; nothing was stored.
          </p>
          <p v-for="(issue, i) in partImport.checked?.warnings" :key="`w${i}`" class="quiet">
            {{ issue.message }}
            <span class="mono">{{ issue.pointer }}</span>
          </p>
          <p v-if="partImport.checked?.errorCount === 0" class="quiet">The validator finds nothing against it.</p>
        </div>
        <p v-else-if="!partImport.refused" class="quiet">Being checked …</p>
      </div>
    </div>
    <p v-if="wrong" role="alert" class="error" data-test="import-refused">{{ wrong }}</p>
    <template #buttons>
      <v-btn
        :disabled="!partImport.packed"
        title="Its tree, cameras and lights as things, its meshes as parts"
        @click="asLevel"
      >
        As a level …
      </v-btn>
      <v-btn @click="partImport.close()">Cancel</v-btn>
      <v-btn
        color="action"
        variant="flat"
        :disabled="!partImport.canStore || Boolean(wrongFields)"
        :loading="partImport.storing !== null"
        @click="store"
      >
        {{ parts.length > 1 ? `Bring in ${parts.length} parts` : 'Bring in' }}
      </v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 300px 1fr;
  gap: 18px;
}

.left,
.right {
  display: flex;
  flex-direction: column;
  gap: 7px;
  min-width: 0;
}

.picture {
  position: relative;
  height: 240px;
  background: rgb(var(--v-theme-picture));
  border-radius: var(--round-small);
}

.wait,
.none {
  position: absolute;
  top: calc(50% - 16px);
  left: calc(50% - 16px);
}

.none {
  left: 12px;
  right: 12px;
  text-align: center;
}

.list {
  max-height: 110px;
  padding: 0;
  overflow: auto;
  list-style: none;
  font-size: var(--small);
}

.list li {
  display: grid;
  grid-template-columns: 52px 1fr auto;
  gap: 8px;
}

.places {
  justify-content: end;
}

.names {
  font-size: var(--small);
}
</style>
