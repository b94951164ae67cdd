<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useEventListener, useWindowSize } from '@vueuse/core'
import { ApiFailure, whatFailed } from '~/api/client'
import { beginFeatures, panelInstead, panelOf } from '~/shell/features'
import { useAutomation } from '~/shell/use-automation'
import { useEditorKeys } from '~/shell/use-editor-keys'
import { useNewerVersion } from '~/shell/use-newer-version'
import { useFirstStepsHere } from '~/shell/use-first-steps'
import { useLevelPicture } from '~/shell/use-level-picture'
import { useStageSession } from '~/editor/stage-session'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useFirstSteps } from '~/features/first-steps/first-steps'
import FirstStepsBar from '~/features/first-steps/FirstStepsBar.vue'
import BesideHandbook from '~/features/handbook/BesideHandbook.vue'
import { useHandbook } from '~/features/handbook/handbook'
import { useWorkshop } from '~/features/kit/workshop'
import { useWindows } from '~/features/windows/windows'
import { rememberOpened } from '~/features/levels/opened'
import AppHeader from '~/shell/header/AppHeader.vue'
import CheckState from '~/features/check/CheckState.vue'
import EditDialogs from '~/shell/EditDialogs.vue'
import FindOrDo from '~/shell/header/FindOrDo.vue'
import HandOver from '~/features/hand-over/HandOver.vue'
import LedgerPanel from '~/shell/ledger/LedgerPanel.vue'
import LevelMenu from '~/shell/header/LevelMenu.vue'
import NoticeBar from '~/shell/NoticeBar.vue'
import NotesHere from '~/features/notes/NotesHere.vue'
import PeopleHere from '~/features/people/PeopleHere.vue'
import RailBar from '~/shell/rail/RailBar.vue'
import RosterPanel from '~/shell/roster/RosterPanel.vue'
import SaveState from '~/shell/header/SaveState.vue'
import SetApart from '~/shell/header/SetApart.vue'
import StagePane from '~/shell/stage/StagePane.vue'
import StepBar from '~/shell/StepBar.vue'
import UndoRedo from '~/shell/header/UndoRedo.vue'
import WorkshopBar from '~/features/kit/WorkshopBar.vue'

const route = useRoute()
const router = useRouter()
const level = useLevel()
const settings = useSettings()
const session = useStageSession()
const workshop = useWorkshop()
const firstSteps = useFirstSteps()
const handbook = useHandbook()
const windows = useWindows()
const reason = ref('')
const instead = computed(panelInstead)
const { width } = useWindowSize()
/** Pixels of the window up to which the handbook takes the roster's place. */
const ROOM_FOR_BOTH = 1500
/** Whether this window is no second one, that shows a part alone. */
const isWhole = computed(() => windows.part === 'all')
const isNarrow = computed(() => handbook.isOpen && !handbook.isOver && width.value < ROOM_FOR_BOTH)
const state = ref<'opening' | 'open' | 'missing' | 'away'>('opening')

async function open(): Promise<void> {
  state.value = 'opening'
  try {
    await level.open(String(route.params.id))
    await workshop.enter({ from: asText(route.query.from), at: asText(route.query.at) })
    state.value = 'open'
    rememberOpened(String(route.params.id))
  } catch (error) {
    state.value = error instanceof ApiFailure && error.status === 404 ? 'missing' : 'away'
    reason.value = whatFailed(error)
    if (!(error instanceof ApiFailure)) console.warn(error)
  }
}

const asText = (value: unknown) => (typeof value === 'string' ? value : undefined)

onMounted(open)
level.onReopen(open)
// The way out is there also while the server is away.
onMounted(() => void preloadRouteComponents('/'))
onBeforeUnmount(() => {
  level.close()
  if (router.currentRoute.value.name !== route.name) workshop.letGo()
})
useHead({ title: () => (level.summary ? `${level.summary.name} · Handy Grid` : 'Handy Grid') })
useEventListener(window, 'online', () => void level.settled())
beginFeatures()
useEditorKeys()
useNewerVersion()
useLevelPicture()
useAutomation()
windows.begin(route.query)
useFirstStepsHere()
</script>

<template>
  <main class="editor">
    <h1 v-if="level.summary" class="sr">{{ level.summary.name }}</h1>
    <AppHeader v-if="!session.cleared" :slim="!isWhole">
      <template v-if="state === 'open'">
        <LevelMenu />
        <SaveState />
        <SetApart />
        <UndoRedo />
        <CheckState v-if="isWhole" />
      </template>
      <template #end>
        <template v-if="state === 'open'">
          <NotesHere v-if="isWhole" />
          <PeopleHere v-if="isWhole" />
          <FindOrDo />
          <HandOver v-if="isWhole" />
        </template>
      </template>
    </AppHeader>
    <WorkshopBar v-if="state === 'open' && workshop.partId !== null" />
    <FirstStepsBar v-if="state === 'open' && firstSteps.isOn && !session.cleared" />
    <NoticeBar />
    <BesideHandbook :cleared="session.cleared" :is-alone="state !== 'open'">
      <div v-if="state === 'open'" class="desk" :class="`bench-${settings.panels.benchSide}`">
        <StepBar v-if="!session.cleared && isWhole" />
        <SideSplit
          v-model:width="settings.panels.benchWidth"
          :side="settings.panels.benchSide"
          :open="(settings.panels.showBench || instead !== null) && !session.cleared && isWhole"
          :least="216"
          :most="420"
          label="Width of the bench"
        >
          <template #panel>
            <div class="bench">
              <component :is="instead ?? panelOf(settings.kept.bench)" />
            </div>
          </template>
          <div class="middle" :class="[`rail-${settings.panels.railSide}`, `ledger-${settings.panels.ledgerSide}`]">
            <RosterPanel v-if="windows.part === 'lists'" class="alone" />
            <SideSplit
              v-else
              v-model:width="settings.panels.rosterWidth"
              :side="settings.panels.rosterSide"
              :open="settings.panels.showRoster && !session.cleared && !isNarrow && isWhole"
              :least="170"
              :most="480"
              label="Width of the roster"
            >
              <StagePane />
              <template #panel><RosterPanel :class="`at-${settings.panels.rosterSide}`" /></template>
            </SideSplit>
            <RailBar v-if="!session.cleared && windows.part !== 'lists'" />
            <LedgerPanel
              v-if="windows.part === 'lists' || (settings.panels.showLedger && !session.cleared && isWhole)"
            />
          </div>
        </SideSplit>
      </div>
      <section v-else class="message">
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
          <p class="quiet">
            Nothing is lost: what was changed here is kept on this device and goes out when the server is back.
          </p>
          <v-btn color="action" variant="flat" @click="open">Try again</v-btn>
        </template>
      </section>
    </BesideHandbook>
    <EditDialogs v-if="state === 'open'" />
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
  height: 100%;
  min-width: 0;
  min-height: 0;
}

.bench {
  height: 100%;
  background: rgb(var(--v-theme-surface));
  border: 0 solid var(--line);
  border-right-width: 1px;
}

.bench-right {
  flex-direction: row-reverse;
}

.bench-right .bench {
  border-width: 0 0 0 1px;
}

.rail-above :deep(.rail-room),
.ledger-above :deep(.ledger) {
  order: -1;
}

.middle {
  display: flex;
  flex-direction: column;
  height: 100%;
}

/* In a window of its own. */
.alone {
  flex: 1;
  min-height: 0;
}

.message {
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 12px;
  height: 100%;
}
</style>
