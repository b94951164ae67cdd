<script setup lang="ts">
import { computed, watch } from 'vue'
import type { ArrangementOwn } from '~~/core/arrange/arrangement'
import type { Rule, RuleType } from '~~/core/arrange/rules'
import { definitionOf, RULE_TYPES, RULES } from '~~/core/arrange/rules'
import { useDraftPreview } from '~/composables/use-draft-preview'
import { useLevel } from '~/stores/level'
import { useRepeating } from '~/stores/repeating'
import { useSettings } from '~/stores/settings'

const level = useLevel()
const repeating = useRepeating()
const settings = useSettings()
// An arrangement that is picked is the one to be changed.
watch(() => repeating.own?.rule.type, (kind) => {
  if (kind && kind !== 'scatter') repeating.task = kind
}, { immediate: true })
/** A scatter has a step of its own. */
const isScatter = computed(() => repeating.own?.rule.type === 'scatter')
const isLive = computed(() => repeating.own !== null)
const own = computed((): ArrangementOwn | null => repeating.own ?? (repeating.task === 'once' ? null : repeating.drafts[repeating.task]))
const count = computed(() => level.selection.ids.size)
useDraftPreview()
const tasks: { value: 'once' | RuleType, name: string }[] = [{ value: 'once', name: 'Once' }, ...RULE_TYPES.filter(type => type !== 'scatter').map(value => ({ value, name: RULES[value].name }))]

function choose(next: 'once' | RuleType): void {
  repeating.task = next
  // Where sources stay to be seen they stand where they are; other rules are exchanged for one another.
  if (next !== 'once' && !RULES[next].keepsSources && repeating.own && !definitionOf(repeating.own.rule).keepsSources && repeating.own.rule.type !== next) repeating.setRule(repeating.drafts[next].rule)
}

function change(next: Rule, joins?: string): void {
  const before = own.value?.rule
  if (next.type !== 'path' || before?.type !== 'path') return repeating.setRule(next, joins)
  if (next.corners && !before.corners && !own.value?.sources && repeating.names.length > 1) return repeating.setOwn({ ...own.value, rule: next, sources: { by: 'ends', first: 0, middle: 0, last: 0, corner: 1 } })
  repeating.setRule(next.measure === 'ends' && before.measure !== 'ends' ? repeating.measured(next) : next, joins)
}
</script>

<template>
  <section class="bench-form" aria-labelledby="repeat-title">
    <h2 id="repeat-title">Repeat</h2>
    <Segments :model-value="repeating.task" :options="tasks" label="Kind of repetition" :columns="4" @update:model-value="choose" />
    <p v-if="isScatter" class="quiet hint">What is picked is a scatter. <v-btn class="link" variant="plain" @click="settings.kept.bench = 'scatter'">Open Scatter</v-btn></p>
    <DuplicateForm v-else-if="repeating.task === 'once' || !own" />
    <MirrorForm v-else-if="RULES[repeating.task].keepsSources && !isLive" />
    <template v-else>
      <p class="quiet hint">{{ definitionOf(own.rule).keepsSources ? 'What is below it stays the source; its mirror image follows every edit at once.' : isLive ? 'Copies stay live: change a number or drag a grip on the stage, and all follow.' : 'Makes copies of what is picked by a rule that stays a rule; what it would make is shown on the stage.' }}</p>
      <template v-if="isLive">
        <p class="line"><span>Copies</span><span class="mono" data-test="live-count">{{ repeating.countLive.toLocaleString('en') }} live</span></p>
        <CopyFields v-if="!definitionOf(own.rule).keepsSources" :own="own" />
      </template>
      <PresetFields v-if="!definitionOf(own.rule).keepsSources" :own="own" @change="repeating.setOwn($event)" />
      <RuleForm :rule="own.rule" :size="repeating.sourceSize" @change="change" />
      <v-btn v-if="isLive && definitionOf(own.rule).aroundMiddle" @click="repeating.touchCentre()">Put its middle …</v-btn>
      <template v-if="!definitionOf(own.rule).keepsSources">
        <SourceFields :own="own" @change="repeating.setOwn" />
        <VaryFields :own="own" @change="repeating.setOwn" />
      </template>
      <v-btn v-if="isLive" title="Turns the copies into ordinary things in a group" @click="repeating.releaseCurrent()">Release</v-btn>
      <template v-else>
        <p v-if="count === 0" class="quiet hint">Pick what is to be repeated first.</p>
        <v-btn v-if="own.rule.type === 'path'" class="main" color="action" variant="flat" :disabled="count === 0" @click="repeating.drawPath(own)">Draw the path …</v-btn>
        <v-btn v-else class="main" color="action" variant="flat" :disabled="count === 0" @click="repeating.create(own)">Keep live</v-btn>
      </template>
    </template>
  </section>
</template>
