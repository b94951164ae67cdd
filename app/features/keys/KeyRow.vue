<script setup lang="ts">
import { mdiPlus, mdiRestore } from '@mdi/js'
import { computed } from 'vue'
import { isKeptByBrowser } from '~/editor/keys/clashes'
import { useKeys } from '~/editor/keys/keys'
import type { KeyUse } from '~/editor/keys/stage-uses'
import { KEY_PLACES } from '~/editor/keys/stage-uses'
import { useSettings } from '~/editor/settings'
import { useSettingKeys } from './setting-keys'

/** One thing that keys do, and which. */
const props = defineProps<{ use: KeyUse }>()
const keys = useKeys()
const settings = useSettings()
const setting = useSettingKeys()
const own = computed(() => keys.keysOf(props.use.name))
const isWaiting = computed(() => typeof setting.waitsFor === 'object' && setting.waitsFor?.assign === props.use.name)
const problem = computed(() => (setting.problem?.of === props.use.name ? setting.problem : null))
/** Nobody can have it. */
const isKept = computed(
  () => problem.value && (isKeptByBrowser(problem.value.key) || problem.value.others.some(({ isFixed }) => isFixed)),
)
const says = computed(() => {
  if (!problem.value) return ''
  const { key, others } = problem.value
  const label = keys.label(key)
  if (isKept.value) return `The browser keeps ${label} for itself: it cannot be taken.`
  return `${label} does “${others.map(({ name }) => name).join('”, “')}” already.`
})
</script>

<template>
  <li class="row" :data-use="use.name">
    <span class="name">
      {{ use.name }}
      <span v-if="use.places[0] !== 'page'" class="quiet">{{ KEY_PLACES[use.places[0]!] }}</span>
      <span v-if="setting.clashing.has(use.name)" class="clash">has a key that does something else too</span>
    </span>
    <span class="keys">
      <v-chip
        v-for="key in own"
        :key="key"
        size="small"
        label
        class="mono"
        :closable="!use.isFixed"
        :close-label="`Take ${keys.label(key)} from ${use.name}`"
        :title="use.isFixed ? 'The browser does this by itself' : undefined"
        @click:close="setting.remove(use.name, key)"
      >
        {{ keys.label(key) }}
      </v-chip>
      <span v-if="isWaiting" class="waiting" role="status">Press a key … Esc ends</span>
      <v-btn
        v-else-if="!use.isFixed"
        variant="text"
        icon
        width="24"
        height="24"
        :aria-label="`Another key for ${use.name}`"
        title="Another key"
        :disabled="own.length >= 8"
        @click="setting.waitsFor = { assign: use.name }"
      >
        <v-icon :icon="mdiPlus" size="16" />
      </v-btn>
      <v-btn
        v-if="use.name in settings.kept.keys"
        variant="text"
        icon
        width="24"
        height="24"
        :aria-label="`Ours again for ${use.name}`"
        title="Ours again"
        @click="keys.reset(use.name)"
      >
        <v-icon :icon="mdiRestore" size="16" />
      </v-btn>
    </span>
    <p v-if="problem" class="problem" role="alert">
      <span class="says">{{ says }}</span>
      <template v-if="!isKept">
        <v-btn size="small" @click="setting.settle('swap')">Swap them</v-btn>
        <v-btn size="small" @click="setting.settle('take')">Take it from there</v-btn>
        <v-btn size="small" @click="setting.settle('both')">Both</v-btn>
      </template>
      <v-btn size="small" variant="text" @click="setting.problem = null">Leave it</v-btn>
    </p>
  </li>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  gap: 2px 12px;
  padding: 1px 6px;
  min-height: 30px;
  border-bottom: 1px solid var(--line);
}

.name .quiet,
.clash {
  margin-left: 6px;
  font-size: var(--note);
}

.clash,
.says {
  color: rgb(var(--v-theme-error));
}

.keys {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: flex-end;
  gap: 4px;
}

.waiting {
  font-size: var(--small);
  color: var(--petrol);
}

.problem {
  display: flex;
  flex-wrap: wrap;
  grid-column: 1 / -1;
  align-items: center;
  gap: 6px;
  font-size: var(--small);
}
</style>
