<script setup lang="ts">
import { mdiCheckBold, mdiChevronDown, mdiCursorDefault } from '@mdi/js'
import { watch } from 'vue'
import { EXERCISE_NAMES, EXERCISES } from '~~/core/learn/exercises'
import { useFirstSteps } from './first-steps'
import { useShowing } from './showing'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

/** The exercise that is on: what to do and why, and the ways on. */
const steps = useFirstSteps()
const showing = useShowing()
watch([() => steps.current, () => steps.isOn], () => showing.isShowing && showing.stop())

const stateOf = (name: (typeof EXERCISE_NAMES)[number]) =>
  steps.progress.done.includes(name) ? 'done' : steps.progress.skipped.includes(name) ? 'skipped' : ''
</script>

<template>
  <section class="first-steps" :class="{ done: steps.isDone }" aria-label="First steps" data-test="first-steps">
    <v-menu>
      <template #activator="{ props }">
        <v-btn v-bind="props" class="count" variant="text" :append-icon="mdiChevronDown" title="All exercises">
          {{ steps.number }} of {{ EXERCISE_NAMES.length }}
        </v-btn>
      </template>
      <MenuList label="Exercises">
        <MenuItem
          v-for="(name, i) in EXERCISE_NAMES"
          :key="name"
          :title="`${i + 1}  ${EXERCISES[name].name}`"
          :end="stateOf(name)"
          :active="name === steps.current"
          @click="steps.goTo(name)"
        />
      </MenuList>
    </v-menu>
    <div class="what">
      <h2>
        <PathIcon v-if="steps.isDone" :path="mdiCheckBold" :size="18" />
        {{ steps.exercise.name }}
      </h2>
      <p v-if="steps.failed" role="alert" class="error">{{ steps.failed }}</p>
      <template v-else>
        <p>{{ keys.said(steps.exercise.says) }}</p>
        <p class="quiet">{{ keys.said(steps.exercise.why) }}</p>
      </template>
    </div>
    <p class="state" role="status">{{ steps.isDone ? 'Done' : '' }}</p>
    <v-btn v-if="steps.exercise.things.length > 0" @click="steps.where()">Where</v-btn>
    <v-btn v-if="!showing.isShowing" @click="void showing.show()">Show me</v-btn>
    <v-btn v-else @click="showing.stop()">Stop</v-btn>
    <v-btn v-if="steps.isDone" title="As it was at the beginning" @click="void steps.again()">Again</v-btn>
    <v-btn v-if="steps.isDone" color="action" variant="flat" @click="steps.next()">
      {{ steps.doneCount === EXERCISE_NAMES.length ? 'Finish' : 'Next' }}
    </v-btn>
    <v-btn v-else @click="steps.skip()">Skip</v-btn>
    <v-btn variant="text" title="It goes on here the next time" @click="steps.end()">End</v-btn>
    <Teleport to=".v-application">
      <div
        v-if="showing.pointer"
        class="ghost-pointer"
        :class="{ pressed: showing.pointer.isPressed }"
        :style="{ left: `${showing.pointer.at.x}px`, top: `${showing.pointer.at.y}px` }"
        data-test="ghost-pointer"
      >
        <PathIcon :path="mdiCursorDefault" :size="26" />
        <span class="says">{{ keys.said(showing.pointer.says) }}</span>
      </div>
    </Teleport>
  </section>
</template>

<style scoped>
.first-steps {
  display: flex;
  flex: none;
  gap: 10px;
  align-items: center;
  min-height: 72px;
  padding: 6px 14px;
  border-bottom: 1px solid var(--line);
  border-left: 6px solid rgb(var(--v-theme-primary));
  background: rgb(var(--v-theme-surface));
  font-size: var(--body);
}

.first-steps.done {
  border-left-color: rgb(var(--v-theme-action));
}

.count.count {
  flex: none;
  font: 600 var(--body) var(--narrow);
}

.what {
  flex: 1;
  min-width: 0;
}

h2 {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: var(--title);
}

.state {
  font-weight: 600;
}

.ghost-pointer {
  position: fixed;
  z-index: 3000;
  display: flex;
  gap: 6px;
  align-items: flex-start;
  pointer-events: none;
  color: rgb(var(--v-theme-picked));
  transform: translate(-4px, -3px);
}

.ghost-pointer.pressed {
  filter: drop-shadow(0 0 4px rgb(var(--v-theme-picked)));
}

.says {
  margin-top: 18px;
  padding: 3px 10px;
  border-radius: var(--round-small);
  background: rgb(var(--v-theme-slate));
  color: rgb(var(--v-theme-on-slate));
  font-size: var(--body);
  white-space: nowrap;
}
</style>
