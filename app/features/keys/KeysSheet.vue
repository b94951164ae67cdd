<script setup lang="ts">
import { mdiKeyboardOutline, mdiMagnify } from '@mdi/js'
import { useEventListener, useFileDialog } from '@vueuse/core'
import { ref } from 'vue'
import { chordOf } from '~/editor/keys/chord'
import { useKeys } from '~/editor/keys/keys'
import { KEYS_FILE } from '~/editor/keys/keys-file'
import { saveFile } from '~/editor/saving/save-file'
import { useSettings } from '~/editor/settings'
import KeyRow from './KeyRow.vue'
import { printKeys } from './print-keys'
import { useSettingKeys } from './setting-keys'

/** All that keys do: looked for by name or by key, set, and taken along. */
const keys = useKeys()
const settings = useSettings()
const setting = useSettingKeys()
/** Of all groups the one that is open while nothing is looked for. */
const opened = ref<string | null>(null)
const ways = [
  { value: 'letter' as const, name: 'by what they write' },
  { value: 'place' as const, name: 'by where they lie' },
]

// Before anything else hears it, the dialog's own Esc as well.
useEventListener(
  () => (setting.isOpen && setting.waitsFor ? window : null),
  'keydown',
  (event: KeyboardEvent) => {
    event.preventDefault()
    event.stopImmediatePropagation()
    if (event.key === 'Escape') {
      setting.waitsFor = null
      return
    }
    const key = chordOf(event, settings.kept.keysBy)
    if (key) setting.take(key)
  },
  { capture: true },
)

const { open: chooseFile, onChange } = useFileDialog({ multiple: false, accept: '.json', reset: true })
onChange(files => {
  const file = files?.[0]
  if (file) void setting.takeFile(file)
})

const save = () => saveFile(new Blob([setting.asFile()], { type: 'application/json' }), KEYS_FILE)
const isShown = (group: string) => setting.isLookedFor || opened.value === group
</script>

<template>
  <FormDialog v-model="setting.isOpen" title="Keys" page="keys" max-width="760" data-test="keys">
    <div class="line">
      <v-text-field
        v-model="setting.text"
        class="search"
        :prepend-inner-icon="mdiMagnify"
        placeholder="What it is called"
        aria-label="Look for an action"
        autofocus
        clearable
        @update:model-value="setting.text = $event ?? ''"
      />
      <v-chip v-if="setting.byKey" label closable class="mono" @click:close="setting.byKey = null">
        {{ keys.label(setting.byKey) }}
      </v-chip>
      <v-btn :prepend-icon="mdiKeyboardOutline" @click="setting.waitsFor = 'look'">
        {{ setting.waitsFor === 'look' ? 'Press a key … Esc ends' : 'By key' }}
      </v-btn>
    </div>
    <FormLine label="Keys mean">
      <Segments v-model="settings.kept.keysBy" :options="ways" label="Keys mean" />
    </FormLine>
    <p v-if="setting.failed" role="alert" class="error">{{ setting.failed }}</p>
    <p v-if="setting.told" role="status" class="told">{{ setting.told }}</p>
    <Tick
      v-if="keys.clashes.length > 0 || setting.onlyClashing"
      v-model="setting.onlyClashing"
      :label="`Only what has a key that does two things (${setting.clashing.size})`"
    />
    <div class="groups">
      <section v-for="{ group, uses } in setting.groups" :key="group" :aria-label="group">
        <h3>
          <v-btn
            v-if="!setting.isLookedFor"
            class="link"
            variant="plain"
            :aria-expanded="opened === group"
            @click="opened = opened === group ? null : group"
          >
            {{ group }}
          </v-btn>
          <template v-else>{{ group }}</template>
          <span class="quiet">{{ uses.length }}</span>
        </h3>
        <ul v-if="isShown(group)" class="rows">
          <KeyRow v-for="use in uses" :key="use.name" :use="use" />
        </ul>
      </section>
      <p v-if="setting.groups.length === 0" class="quiet">Nothing is called that, or has that key.</p>
    </div>
    <template #buttons>
      <v-btn :disabled="Object.keys(settings.kept.keys).length === 0" @click="keys.reset()">Ours again, all</v-btn>
      <v-btn @click="printKeys(keys.uses, keys)">Print</v-btn>
      <v-btn @click="chooseFile()">From a file …</v-btn>
      <v-btn @click="save">As a file</v-btn>
      <v-btn color="action" variant="flat" @click="setting.isOpen = false">Done</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.search {
  flex: 1;
}

.groups {
  height: 50vh;
  overflow-y: auto;
  scrollbar-width: thin;
}

.rows {
  padding: 0;
  list-style: none;
}

h3 {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 6px 0 2px;
}
</style>
