<script setup lang="ts">
import { computed, watch } from 'vue'
import type { ArrangementOwn } from '~~/core/arrange/arrangement'
import type { Rule, RuleKind } from '~~/core/arrange/rule'
import { RULE_KINDS } from '~~/core/arrange/rule'
import { useDraftPreview } from '~/composables/use-draft-preview'
import { useLevel } from '~/stores/level'
import { RULE_NAMES, useRepeating } from '~/stores/repeating'

const level = useLevel()
const repeating = useRepeating()
// An arrangement that is picked is the one to be changed.
watch(() => repeating.own?.rule.rule, (kind) => {
  if (kind) repeating.task = kind
}, { immediate: true })
const isLive = computed(() => repeating.own !== null)
const own = computed((): ArrangementOwn | null => repeating.own ?? (repeating.task === 'once' ? null : repeating.drafts[repeating.task]))
const count = computed(() => level.selection.ids.size)
useDraftPreview()

function choose(next: 'once' | RuleKind): void {
  repeating.task = next
  // A mirror's sources stand where they are; other rules are exchanged for one another.
  if (next !== 'once' && next !== 'mirror' && repeating.own && repeating.own.rule.rule !== 'mirror' && repeating.own.rule.rule !== next) repeating.setRule(repeating.drafts[next].rule)
}

function change(next: Rule, joins?: string): void {
  const before = own.value?.rule
  if (next.rule !== 'path' || before?.rule !== 'path') return repeating.setRule(next, joins)
  if (next.corners && !before.corners && !own.value?.sources && repeating.names.length > 1) return repeating.setOwn({ ...own.value, rule: next, sources: { by: 'ends', first: 0, middle: 0, last: 0, corner: 1 } })
  repeating.setRule(next.measure === 'ends' && before.measure !== 'ends' ? repeating.measured(next) : next, joins)
}
</script>

<template>
  <section class="bench-form" aria-labelledby="repeat-title">
    <h2 id="repeat-title">Repeat</h2>
    <div class="kinds" role="group" aria-label="Kind of repetition">
      <button type="button" :aria-pressed="repeating.task === 'once'" @click="choose('once')">Once</button>
      <button v-for="kind in RULE_KINDS" :key="kind" type="button" :aria-pressed="repeating.task === kind" @click="choose(kind)">{{ RULE_NAMES[kind] }}</button>
    </div>
    <DuplicateForm v-if="repeating.task === 'once' || !own" />
    <MirrorForm v-else-if="repeating.task === 'mirror' && !isLive" />
    <template v-else>
      <p class="quiet hint">{{ own.rule.rule === 'mirror' ? 'What is below it stays the source; its mirror image follows every edit at once.' : isLive ? 'Copies stay live: change a number or drag a grip on the stage, and all follow.' : 'Makes copies of what is picked by a rule that stays a rule; what it would make is shown on the stage.' }}</p>
      <template v-if="isLive">
        <p class="line"><span>Copies</span><span class="mono" data-test="live-count">{{ repeating.countLive.toLocaleString('en') }} live</span></p>
        <CopyFields v-if="own.rule.rule !== 'mirror'" :own="own" />
      </template>
      <PresetFields v-if="own.rule.rule !== 'mirror'" :own="own" @change="repeating.setOwn($event)" />
      <RuleForm :rule="own.rule" @change="change" />
      <button v-if="isLive && (own.rule.rule === 'ring' || own.rule.rule === 'fan')" type="button" class="small-button" @click="repeating.touchCentre()">Put its middle …</button>
      <template v-if="own.rule.rule !== 'mirror'">
        <SourceFields :own="own" @change="repeating.setOwn" />
        <VaryFields :own="own" @change="repeating.setOwn" />
      </template>
      <button v-if="isLive" type="button" class="small-button" title="Turns the copies into ordinary things in a group" @click="repeating.releaseCurrent()">Release</button>
      <template v-else>
        <p v-if="count === 0" class="quiet hint">Pick what is to be repeated first.</p>
        <button v-if="own.rule.rule === 'path'" type="button" class="main-button" :disabled="count === 0" @click="repeating.drawPath(own)">Draw the path …</button>
        <button v-else type="button" class="main-button" :disabled="count === 0" @click="repeating.create(own)">Keep live</button>
      </template>
    </template>
  </section>
</template>

<style scoped>
.kinds {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 4px;
}

.kinds button {
  height: 28px;
  font: 600 13px var(--narrow);
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: 6px;
}

.kinds button[aria-pressed='true'] {
  color: rgb(var(--v-theme-on-primary));
  background: var(--petrol);
  border-color: var(--petrol);
}

/* Of the forms within as well. */
.bench-form :deep(.line > .field) {
  height: 27px;
}

.bench-form :deep(.line > .text-box) {
  max-width: 130px;
}
</style>
