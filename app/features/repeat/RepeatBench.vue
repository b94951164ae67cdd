<script setup lang="ts">
import { computed, watch } from 'vue'
import type { ArrangementOwn } from '~~/core/arrange/arrangement'
import type { Rule, RuleType } from '~~/core/arrange/rules'
import { definitionOf, RULE_TYPES, RULES } from '~~/core/arrange/rules'
import { applyEntry } from '~~/core/units/entry'
import { useDraftPreview } from './use-draft-preview'
import { useEdits } from '~/editor/edits'
import { useLevel } from '~/editor/level'
import { useMirroring } from './mirroring'
import { useRepeating } from './repeating'
import { useSettings } from '~/editor/settings'
import CopyFields from './CopyFields.vue'
import DuplicateForm from './DuplicateForm.vue'
import MirrorForm from './MirrorForm.vue'
import PresetFields from './PresetFields.vue'
import RuleForm from './RuleForm.vue'
import SourceFields from './SourceFields.vue'
import VaryFields from './VaryFields.vue'

const level = useLevel()
const edits = useEdits()
const repeating = useRepeating()
const mirroring = useMirroring()
const settings = useSettings()
// An arrangement that is picked is the one to be changed, until another kind is chosen.
watch(
  () => [repeating.current, repeating.own?.rule.type] as const,
  ([, kind]) => {
    if (kind && kind !== 'scatter') repeating.task = kind
  },
  { immediate: true },
)
/** A scatter has a step of its own. */
const isScatter = computed(
  () =>
    repeating.own?.rule.type === 'scatter'
    && repeating.acts === 'new'
    && repeating.task !== 'once'
    && repeating.task !== 'mirror',
)
const acts = computed(() => repeating.acts)
const isLive = computed(() => acts.value === 'live')
const own = computed((): ArrangementOwn | null =>
  isLive.value ? repeating.own : repeating.task === 'once' ? null : repeating.drafts[repeating.task],
)
const count = computed(() => level.selection.ids.size)
const currentName = computed(() => (repeating.current === null ? '' : level.view.need(repeating.current).name))
const kindName = computed(() => (repeating.task === 'once' ? '' : RULES[repeating.task].name.toLowerCase()))
const length = computed(() => ({
  quantity: 'length' as const,
  unit: settings.kept.unit,
  decimals: settings.decimals,
  suffix: settings.suffix,
}))
useDraftPreview()
const tasks: { value: 'once' | RuleType; name: string }[] = [
  { value: 'once', name: 'Once' },
  ...RULE_TYPES.filter(type => type !== 'scatter').map(value => ({ value, name: RULES[value].name })),
]

/** What the form has is what its button does: with none of this kind picked it is of the next one. */
const setOwn = (next: ArrangementOwn, joins?: string) =>
  isLive.value ? repeating.setOwn(next, joins) : repeating.ask(next)
const setRule = (rule: Rule, joins?: string) =>
  isLive.value ? repeating.setRule(rule, joins) : repeating.ask({ ...own.value!, rule })

function change(next: Rule, joins?: string): void {
  const before = own.value?.rule
  if (next.type !== 'path' || before?.type !== 'path') return setRule(next, joins)
  if (next.corners && !before.corners && !own.value?.sources && repeating.sourceNames.length > 1)
    return setOwn({ ...own.value, rule: next, sources: { by: 'ends', first: 0, middle: 0, last: 0, corner: 1 } })
  setRule(next.measure === 'ends' && before.measure !== 'ends' ? repeating.measured(next) : next, joins)
}
</script>

<template>
  <section class="bench-form" aria-labelledby="repeat-title">
    <PanelHead title-id="repeat-title" title="Repeat" />
    <Segments v-model="repeating.task" :options="tasks" label="Kind of repetition" :columns="4" />
    <p v-if="isScatter" class="quiet hint">
      What is picked is a scatter.
      <v-btn class="link" variant="plain" @click="settings.kept.bench = 'scatter'">Open Scatter</v-btn>
    </p>
    <DuplicateForm v-else-if="repeating.task === 'once' || !own" />
    <MirrorForm v-else-if="RULES[repeating.task].keepsSources && !isLive" />
    <template v-else>
      <p v-if="acts === 'turn'" class="quiet hint" data-test="would-turn">
        Would make {{ currentName }} a {{ kindName }}: its sources, variation and exceptions stay. It is shown on the
        stage.
      </p>
      <p v-else class="quiet hint">
        {{
          definitionOf(own.rule).keepsSources
            ? 'What is below it stays the source; its mirror image follows every edit at once.'
            : isLive
              ? 'Copies stay live: change a number or drag a grip on the stage, and all follow.'
              : `Makes copies of ${edits.nameOfPicked() ?? 'what is picked'} by a rule that stays a rule; what it would make is shown on the stage.`
        }}
      </p>
      <template v-if="isLive">
        <p class="line">
          <span>{{ currentName }}</span>
          <span class="mono" data-test="live-count">{{ repeating.countLive.toLocaleString('en') }} live</span>
        </p>
        <CopyFields v-if="!definitionOf(own.rule).keepsSources" :own="own" />
        <FormLine v-else label="Plane along its axis">
          <QuantityField
            v-bind="length"
            label="Plane along its axis"
            :value="mirroring.livePlace(repeating.current!)"
            operators="+*/"
            @commit="
              (_value, entry) =>
                mirroring.setLivePlace(repeating.current!, applyEntry(entry, mirroring.livePlace(repeating.current!)))
            "
          />
        </FormLine>
      </template>
      <PresetFields v-if="!definitionOf(own.rule).keepsSources" :own="own" @change="setOwn($event)" />
      <RuleForm :rule="own.rule" :size="repeating.sourceSize" @change="change" />
      <v-btn v-if="isLive && definitionOf(own.rule).aroundMiddle" @click="repeating.touchCentre()">
        Put its middle …
      </v-btn>
      <template v-if="!definitionOf(own.rule).keepsSources && acts !== 'turn'">
        <SourceFields :own="own" @change="setOwn" />
        <VaryFields :own="own" @change="setOwn" />
      </template>
      <v-btn v-if="isLive" title="Turns the copies into ordinary things in a group" @click="repeating.releaseCurrent()">
        Release
      </v-btn>
      <v-btn
        v-else-if="acts === 'turn'"
        class="main"
        color="action"
        variant="flat"
        @click="repeating.setRule(own.rule)"
      >
        Make it a {{ kindName }}
      </v-btn>
      <template v-else>
        <p v-if="count === 0" class="quiet hint">Pick what is to be repeated first.</p>
        <v-btn
          v-if="own.rule.type === 'path'"
          class="main"
          color="action"
          variant="flat"
          :disabled="count === 0"
          @click="repeating.drawPath(own)"
        >
          Draw the path …
        </v-btn>
        <v-btn v-else class="main" color="action" variant="flat" :disabled="count === 0" @click="repeating.create(own)">
          Keep live
        </v-btn>
      </template>
    </template>
  </section>
</template>
