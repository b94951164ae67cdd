<script setup lang="ts">
import { mdiContentCopy, mdiClose, mdiEyeOff, mdiEyeOutline } from '@mdi/js'
import { ref } from 'vue'
import { nameSchema } from '~~/core/level/fields'
import { MEASURES } from '~~/core/measure/measures'
import { MEASURE_TASKS } from '~/editor/tools/tool-id'
import KeepTape from './KeepTape.vue'
import { TASK_NAMES, useMeasuring } from './measuring'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

const level = useLevel()
const settings = useSettings()
const measuring = useMeasuring()
const sizes = [
  { value: 'off', name: 'Off' },
  { value: 'own', name: 'Own axes' },
  { value: 'box', name: 'Box' },
] as const
const opened = ref<string | null>(null)
const checkName = (text: string) => (nameSchema.safeParse(text).success ? null : 'This is no name.')
const factsOf = (id: string) => measuring.results.get(id)?.measured.facts ?? []

async function copy(id: string): Promise<void> {
  await navigator.clipboard
    .writeText(measuring.textOf(id))
    .catch(() => level.notify('It could not be copied', ['The browser does not let the page write to the clipboard.']))
}

/** Shows all numbers of a measure, or none any more, and looks at it. */
function open(id: string): void {
  opened.value = opened.value === id ? null : id
  measuring.lookAt(id)
}
</script>

<template>
  <section class="bench-form" aria-labelledby="measure-title">
    <PanelHead title-id="measure-title" title="Measure" />
    <p class="quiet hint">
      Choose what to measure, then click on the stage. Points are caught by corners, middles, pivots and at right angles
      on edges; Ctrl takes them as they are.
    </p>
    <div class="tasks" role="group" aria-label="What to measure">
      <v-btn
        v-for="task in MEASURE_TASKS"
        :key="task"
        class="task"
        variant="text"
        :class="{ current: measuring.task === task }"
        :aria-pressed="measuring.task === task"
        :title="keys.said(TASK_NAMES[task].hint)"
        @click="measuring.start(task)"
      >
        <PathIcon :path="MEASURES[measuring.tasks[task].kind].icon" :size="17" />
        {{ TASK_NAMES[task].name }}
      </v-btn>
    </div>
    <FormLine label="Sizes of what is picked">
      <Segments v-model="settings.kept.show.sizes" :options="sizes" label="Sizes of what is picked" />
    </FormLine>
    <p v-if="settings.kept.show.sizes !== 'off'" class="quiet hint">A click on a number on the stage types another.</p>

    <h3>
      Measured here
      <span class="mono quiet">{{ measuring.measures.length }}</span>
    </h3>
    <p v-if="measuring.measures.length === 0" class="quiet hint">
      Nothing yet. What is measured is kept in the level and follows its things.
    </p>
    <template v-else>
      <p class="quiet hint">Drag an end on the stage to move it, or click it and then where it goes.</p>
      <Tick v-model="settings.kept.show.measures" label="Show measures on the stage" />
      <ul class="list" aria-label="Measures">
        <li
          v-for="measure in measuring.measures"
          :key="measure.id"
          @pointerenter="measuring.chosen = measure.id"
          @pointerleave="measuring.chosen = null"
        >
          <div class="row">
            <v-btn
              class="open"
              variant="text"
              :aria-expanded="opened === measure.id"
              :aria-label="`${measure.name}: all numbers`"
              @click="open(measure.id)"
            >
              <PathIcon :path="MEASURES[measure.kind].icon" :size="15" />
            </v-btn>
            <TextBox
              bare
              :value="measure.name"
              :label="`Name of ${measure.name}`"
              :check="checkName"
              @commit="measuring.change(measure, { name: $event.trim() }, 'Rename')"
            />
            <span class="mono value" :data-test="`measure-${measure.name}`">
              {{
                factsOf(measure.id)[0]
                  ? measuring.print(factsOf(measure.id)[0]!.value, factsOf(measure.id)[0]!.figure)
                  : '–'
              }}
            </span>
            <KeepTape v-if="measure.kind === 'tape'" :tape="measure" />
            <IconButton
              :size="14"
              :icon="measure.hidden ? mdiEyeOff : mdiEyeOutline"
              :label="`${measure.hidden ? 'Show' : 'Hide'} ${measure.name}`"
              @click="measuring.change(measure, { hidden: !measure.hidden }, measure.hidden ? 'Show' : 'Hide')"
            />
            <IconButton
              :size="14"
              :icon="mdiClose"
              :label="`Remove ${measure.name}`"
              @click="measuring.remove(measure)"
            />
          </div>
          <div v-if="opened === measure.id" class="facts">
            <p v-for="fact in factsOf(measure.id)" :key="fact.label">
              <span class="quiet">{{ fact.label }}</span>
              {{ ' ' }}
              <span class="mono">{{ measuring.print(fact.value, fact.figure) }}</span>
            </p>
            <v-btn class="link" variant="plain" :prepend-icon="mdiContentCopy" @click="copy(measure.id)">Copy</v-btn>
          </div>
          <p v-for="remark in measuring.results.get(measure.id)?.measured.remarks ?? []" :key="remark" class="remark">
            {{ remark }}
          </p>
        </li>
      </ul>
      <v-btn @click="measuring.removeAll()">Remove all measures</v-btn>
    </template>
  </section>
</template>

<style scoped>
.tasks {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px;
}

.task.task {
  justify-content: flex-start;
  height: 30px;
  padding: 0 5px;
  font-size: var(--small);
}

.task :deep(.v-btn__content) {
  gap: 6px;
}

.task.current {
  background: var(--petrol);
  color: rgb(var(--v-theme-on-primary));
}

.list {
  padding: 0;
  list-style: none;
}

.row {
  display: flex;
  align-items: center;
  gap: 2px;
  height: 27px;
}

.open.open {
  min-width: 24px;
  height: 24px;
  padding: 0;
}

.value {
  overflow: hidden;
  max-width: 92px;
  font-size: var(--note);
  text-overflow: ellipsis;
  white-space: nowrap;
}

.facts {
  padding: 0 0 4px 28px;
  font-size: var(--small);
}

.remark {
  padding-left: 28px;
  font-size: var(--note);
  box-shadow: inset 2px 0 rgb(var(--v-theme-action));
}
</style>
