<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { useEventListener } from '@vueuse/core'
import { ApiFailure, whatFailed } from '~/api/client'
import { useAutomation } from '~/composables/use-automation'
import { useEditorKeys } from '~/composables/use-editor-keys'
import { useLevelPicture } from '~/composables/use-level-picture'
import { useEditor } from '~/stores/editor'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'

const route = useRoute()
const level = useLevel()
const settings = useSettings()
const editor = useEditor()
const reason = ref('')
const state = ref<'opening' | 'open' | 'missing' | 'away'>('opening')

async function open(): Promise<void> {
  state.value = 'opening'
  try {
    await level.open(String(route.params.id))
    state.value = 'open'
  }
  catch (error) {
    state.value = error instanceof ApiFailure && error.status === 404 ? 'missing' : 'away'
    reason.value = whatFailed(error)
    if (!(error instanceof ApiFailure)) console.warn(error)
  }
}

onMounted(open)
// The way out is there also while the server is away.
onMounted(() => void preloadRouteComponents('/'))
onBeforeUnmount(() => level.close())
useHead({ title: () => level.summary ? `${level.summary.name} · Handy Grid` : 'Handy Grid' })
useEventListener(window, 'online', () => void level.settled())
useEditorKeys()
useLevelPicture()
useAutomation()
</script>

<template>
  <main class="editor">
    <h1 v-if="level.summary" class="sr">{{ level.summary.name }}</h1>
    <AppHeader v-if="!editor.cleared">
      <template v-if="state === 'open'">
        <LevelMenu />
        <SaveState />
        <SetApart />
        <UndoRedo />
      </template>
      <template #end>
        <template v-if="state === 'open'">
          <FindOrDo />
          <HandOver />
        </template>
      </template>
    </AppHeader>
    <NoticeBar />
    <div v-if="state === 'open'" class="desk">
      <StepBar v-if="!editor.cleared" />
      <div v-if="settings.kept.showBench && !editor.cleared" class="bench">
        <KitBench v-if="settings.kept.bench === 'kit'" />
        <BlocksBench v-else-if="settings.kept.bench === 'blocks'" />
        <LineUpBench v-else-if="settings.kept.bench === 'line-up'" />
        <RepeatBench v-else />
      </div>
      <div class="middle">
        <div class="upper">
          <StagePane />
          <RosterPanel v-if="settings.kept.showRoster && !editor.cleared" />
        </div>
        <RailBar v-if="!editor.cleared" />
        <LedgerPanel v-if="settings.kept.showLedger && !editor.cleared" />
      </div>
    </div>
    <EditDialogs v-if="state === 'open'" />
    <section v-if="state !== 'open'" class="message">
      <template v-if="state === 'opening'">
        <v-progress-circular indeterminate color="primary" aria-label="Opening the level" />
        <p class="quiet">Opening the level …</p>
      </template>
      <template v-else-if="state === 'missing'">
        <h1>There is no such level</h1>
        <p class="quiet">It may have been deleted; the list of levels says what there is.</p>
        <v-btn color="action" variant="flat" to="/">All levels</v-btn>
      </template>
      <template v-else>
        <h1>The level cannot be opened now</h1>
        <p>{{ reason }}</p>
        <p class="quiet">Nothing is lost: what was changed here is kept on this device and goes out when the server is back.</p>
        <v-btn color="action" variant="flat" @click="open">Try again</v-btn>
      </template>
    </section>
  </main>
</template>

<style scoped>
.editor {
  display: flex;
  flex-direction: column;
  height: 100dvh;
  min-height: 0;
  background: rgb(var(--v-theme-background));
}

.desk {
  display: flex;
  flex: 1;
  min-height: 0;
}

.bench {
  flex: none;
  width: 244px;
  min-height: 0;
  background: rgb(var(--v-theme-surface));
  border-right: 1px solid var(--line);
}

.middle {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
}

.upper {
  display: flex;
  flex: 1;
  min-height: 0;
}

.message {
  display: flex;
  flex: 1;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 12px;
}
</style>
