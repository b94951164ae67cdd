<script setup lang="ts">
import { mdiChevronDown, mdiDeleteOutline, mdiExportVariant, mdiImport, mdiSwapHorizontal } from '@mdi/js'
import { useFileDialog } from '@vueuse/core'
import { computed, ref } from 'vue'
import { differing, pathInWords } from '~/editor/presets/differing'
import type { Kept } from '~/editor/presets/presets'
import { usePresets } from '~/editor/presets/presets'
import { useSettings } from '~/editor/settings'
import { saveFile } from '~/editor/saving/save-file'

/** Begins a form from numbers that were kept, and keeps them: with oneself, or with the level. */
const props = defineProps<{
  /** The word for the form. */
  form: string
  /** What it is called, where a form within a form has presets of its own. */
  what?: string
  /** What it has now, as plain values. */
  values: object
  /** Those that come with the program. */
  ours?: readonly { name: string; values: object }[]
  /** Says what is wrong with values that were kept, or nothing: the form may have become another since. */
  check?: (values: object) => string | null
  disabled?: boolean
}>()
const emit = defineEmits<{ apply: [values: object] }>()
const presets = usePresets()
const settings = useSettings()
const failed = ref('')
const naming = ref(false)
const name = ref('')
const of = ref<'me' | 'level'>('me')
const WHERE = [
  { value: 'me' as const, name: 'mine' },
  { value: 'level' as const, name: "the level's" },
]
const GROUPS = [
  { of: 'us', name: 'Ours' },
  { of: 'me', name: 'Mine' },
  { of: 'level', name: "The level's" },
] as const
/** Fields that are named one by one. */
const NAMED = 4

const plain = computed(() => JSON.parse(JSON.stringify(props.values)) as object)
const all = computed(() =>
  presets.allOf(
    props.form,
    (props.ours ?? []).map(
      (each): Kept => ({
        form: props.form,
        name: each.name,
        values: each.values as Kept['values'],
        picture: null,
        of: 'us',
      }),
    ),
  ),
)
const groups = computed(() =>
  GROUPS.map(group => ({ ...group, presets: all.value.filter(each => each.of === group.of) })).filter(
    group => group.presets.length > 0,
  ),
)
const current = computed(() => all.value.find(each => presets.keyOf(each) === presets.chosen[props.form]) ?? null)
const changed = computed(() => (current.value ? differing(current.value.values, plain.value) : []))
const said = computed(() => {
  const words = [...new Set(changed.value.map(path => pathInWords(path, settings.axes)))]
  return words.length > NAMED
    ? `${words.slice(0, NAMED).join('; ')} and ${words.length - NAMED} more`
    : words.join('; ')
})

function apply(each: Kept): void {
  failed.value = ''
  const problem = props.check?.(each.values) ?? null
  if (problem !== null) {
    failed.value = `“${each.name}” does not fit this form any more: ${problem}`
    return
  }
  presets.choose(props.form, presets.keyOf(each))
  emit('apply', JSON.parse(JSON.stringify(each.values)) as object)
}

/** One of the same name is replaced. */
async function keep(): Promise<void> {
  const text = name.value.trim()
  if (!text) return
  failed.value = (await presets.keep(props.form, text, plain.value, of.value)) ?? ''
  if (failed.value) return
  name.value = ''
  naming.value = false
}

async function keepChanges(each: Kept): Promise<void> {
  failed.value = (await presets.keep(props.form, each.name, plain.value, each.of === 'level' ? 'level' : 'me')) ?? ''
}

function moveOver({ form, name: called, values, picture, of: from }: Kept): void {
  failed.value = presets.put({ form, name: called, values, picture }, from === 'level' ? 'me' : 'level') ?? ''
}

const { open: chooseFile, onChange } = useFileDialog({ multiple: false, accept: '.json', reset: true })
onChange(async files => {
  const file = files?.[0]
  const problem = file && (await presets.takeFile(file, props.form))
  failed.value = problem ? `This file was not taken. ${problem}` : ''
})
const save = (each: Kept) =>
  saveFile(
    new Blob([presets.asFile(each)], { type: 'application/json' }),
    `${each.name.replace(/[^\p{L}\p{N} -]/gu, '')}.preset.json`,
  )
</script>

<template>
  <div class="presets" data-test="presets" role="group" :aria-label="`Presets of ${what ?? 'this form'}`">
    <div class="row">
      <v-menu max-height="420">
        <template #activator="{ props: activator }">
          <v-btn v-bind="activator" class="from" :append-icon="mdiChevronDown" :disabled="disabled" aria-label="Preset">
            <span class="called">{{ current?.name ?? 'Begin from …' }}</span>
          </v-btn>
        </template>
        <MenuList label="Presets">
          <template v-for="group in groups" :key="group.of">
            <v-list-subheader>{{ group.name }}</v-list-subheader>
            <MenuItem
              v-for="each in group.presets"
              :key="presets.keyOf(each)"
              :title="each.name"
              :active="current !== null && presets.keyOf(each) === presets.keyOf(current)"
              @click="apply(each)"
            >
              <template #prepend>
                <img v-if="each.picture" class="picture" :src="each.picture" alt="" width="48" height="30" />
                <span v-else class="picture" />
              </template>
            </MenuItem>
          </template>
          <v-list-subheader v-if="groups.length === 0">None yet: keep these numbers as the first.</v-list-subheader>
          <v-divider class="my-1" />
          <MenuItem title="From a file …" @click="chooseFile()">
            <template #prepend><PathIcon :path="mdiImport" :size="15" /></template>
          </MenuItem>
          <template v-if="current && current.of !== 'us'">
            <MenuItem :title="`“${current.name}” as a file`" @click="save(current)">
              <template #prepend><PathIcon :path="mdiExportVariant" :size="15" /></template>
            </MenuItem>
            <MenuItem
              :title="current.of === 'me' ? `“${current.name}” to the level` : `“${current.name}” to mine too`"
              @click="moveOver(current)"
            >
              <template #prepend><PathIcon :path="mdiSwapHorizontal" :size="15" /></template>
            </MenuItem>
            <MenuItem :title="`Delete “${current.name}”`" @click="presets.remove(current)">
              <template #prepend><PathIcon :path="mdiDeleteOutline" :size="15" /></template>
            </MenuItem>
          </template>
        </MenuList>
      </v-menu>
      <v-btn v-if="!naming" class="link" variant="plain" :disabled="disabled" @click="naming = true">Keep as …</v-btn>
    </div>
    <form v-if="naming" class="row" @submit.prevent="keep">
      <v-text-field
        v-model="name"
        autofocus
        aria-label="Name of what to keep"
        placeholder="Name"
        @keydown.esc.stop="naming = false"
      />
      <Choice v-model="of" class="where" :options="WHERE" label="Kept with" />
      <v-btn type="submit" :disabled="!name.trim()">Keep</v-btn>
    </form>
    <div v-if="current && changed.length > 0" class="changed" data-test="preset-changed">
      <p class="quiet hint">Otherwise than “{{ current.name }}”: {{ said }}</p>
      <div class="row">
        <v-btn v-if="current.of !== 'us'" @click="keepChanges(current)">Keep it so</v-btn>
        <v-btn @click="apply(current)">As it was</v-btn>
      </div>
    </div>
    <p v-if="failed" role="alert" class="error">{{ failed }}</p>
  </div>
</template>

<style scoped>
.presets {
  display: flex;
  flex-direction: column;
  gap: 5px;
}

.row {
  display: flex;
  gap: 8px;
  align-items: center;
}

.from.from {
  flex: 1;
  min-width: 0;
  justify-content: space-between;
}

.called {
  overflow: hidden;
  text-overflow: ellipsis;
}

.where.where {
  flex: none;
  width: calc(96px * var(--scale));
}

.picture {
  display: block;
  width: 48px;
  height: 30px;
  margin-right: 8px;
  border-radius: 3px;
  background: rgb(var(--v-theme-rail));
  object-fit: cover;
}
</style>
