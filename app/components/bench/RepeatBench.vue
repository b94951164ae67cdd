<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { Rule, RuleKind } from '~~/core/arrange/rule'
import { FIRST_RULES, RULE_KINDS } from '~~/core/arrange/rule'
import { useDuplicating } from '~/stores/duplicating'
import { useLevel } from '~/stores/level'
import { useRepeating } from '~/stores/repeating'
import { useSettings } from '~/stores/settings'

const settings = useSettings()
const level = useLevel()
const duplicating = useDuplicating()
const choices = [{ as: 'instance', name: 'Instance' }, { as: 'copy', name: 'Copy' }, { as: 'baked', name: 'Baked copy' }] as const
const ABOUT = {
  instance: 'Shares its part or block: what is changed there changes both.',
  copy: 'Has block numbers of its own; parts of the kit are shared.',
  baked: 'Plain geometry of its own, with turn and size folded in.',
}
const repeating = useRepeating()
const NAMES: Record<RuleKind, string> = { line: 'Line', grid: 'Grid', ring: 'Ring', fan: 'Fan' }
const task = ref<'duplicate' | RuleKind>('duplicate')
/** What a new arrangement would begin with. */
const drafts = shallowRef<Record<RuleKind, Rule>>({ ...FIRST_RULES })
// An arrangement that is picked is the one to be changed.
watch(() => repeating.rule?.rule, (kind) => {
  if (kind) task.value = kind
}, { immediate: true })
const rule = computed(() => repeating.rule ?? (task.value === 'duplicate' ? null : drafts.value[task.value]))

function choose(next: 'duplicate' | RuleKind): void {
  task.value = next
  if (next !== 'duplicate' && repeating.rule && repeating.rule.rule !== next) repeating.setRule(drafts.value[next])
}

function change(next: Rule, joins?: string): void {
  if (repeating.rule) repeating.setRule(next, joins)
  else drafts.value = { ...drafts.value, [next.rule]: next }
}

const kept = computed(() => settings.kept.duplicate)
const count = computed(() => level.selection.ids.size)
const shown = computed(() => duplicating.instancesPicked())

function setBy(axis: 0 | 1 | 2, value: number): void {
  kept.value.by = kept.value.by.with(axis, value) as [number, number, number]
}
</script>

<template>
  <section class="bench-form" aria-labelledby="repeat-title">
    <h2 id="repeat-title">Repeat</h2>
    <div class="segments" role="group" aria-label="Kind of repetition">
      <button type="button" :aria-pressed="task === 'duplicate'" @click="choose('duplicate')">Once</button>
      <button v-for="kind in RULE_KINDS" :key="kind" type="button" :aria-pressed="task === kind" @click="choose(kind)">{{ NAMES[kind] }}</button>
    </div>
    <template v-if="task !== 'duplicate' && rule">
      <p class="quiet hint">{{ repeating.rule ? 'Copies stay live: change a number and every copy follows. Release them to move one alone.' : 'Makes copies of what is picked by a rule that stays a rule; several things are taken in turn.' }}</p>
      <RuleForm :rule="rule" @change="change" />
      <template v-if="repeating.rule">
        <p class="line"><span>Copies</span><span class="mono" data-test="live-count">{{ repeating.countLive.toLocaleString('en') }} live</span></p>
        <button type="button" class="small-button" title="Turns the copies into ordinary things in a group" @click="repeating.releaseCurrent()">Release</button>
      </template>
      <template v-else>
        <p v-if="count === 0" class="quiet hint">Pick what is to be repeated first.</p>
        <button type="button" class="main-button" :disabled="count === 0" @click="repeating.create(rule)">Keep live</button>
      </template>
    </template>
    <template v-else>
    <p class="quiet hint">Duplicates what is picked where it is, or a way off; then the same step as often as wanted. Alt at the start of a drag leaves one behind as chosen here.</p>
    <div class="segments" role="group" aria-label="Duplicate as">
      <button v-for="entry in choices" :key="entry.as" type="button" :aria-pressed="kept.as === entry.as" @click="kept.as = entry.as">{{ entry.name }}</button>
    </div>
    <p class="quiet hint">{{ ABOUT[kept.as] }}</p>
    <label v-for="axis in [0, 1, 2] as const" :key="axis" class="line"><span>Move it along {{ 'XYZ'[axis] }}</span>
      <QuantityField
        :label="`Duplicate along ${'XYZ'[axis]}`" quantity="length" :axis="axis" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.kept.unit"
        :value="kept.by[axis]" operators="+*/" @commit="setBy(axis, $event)"
      />
    </label>
    <button type="button" class="main-button" :disabled="count === 0" @click="duplicating.duplicatePicked()">Duplicate</button>
    <button type="button" class="small-button" :disabled="!duplicating.canRepeat()" title="Ctrl+Shift+D" @click="duplicating.duplicateAgain()">Again, the same step on</button>
    <p v-if="count === 0" class="quiet hint">Pick something first.</p>
    <template v-else-if="shown.length > 0">
      <h3>Who shares what</h3>
      <div v-for="entry in shown" :key="entry.shape" class="line" data-test="instances">
        <span>{{ entry.name }}: {{ entry.picked }} of {{ entry.all }}</span>
        <button type="button" class="link" @click="duplicating.pickInstancesOf(entry.shape)">Pick all</button>
      </div>
      <div class="line">
        <button type="button" class="small-button" title="A part or block of its own that nobody shares" @click="duplicating.makeIndependent()">Make independent</button>
        <button type="button" class="small-button" title="Shows what you touch next, where it is" @click="duplicating.makeInstanceOf()">Instance of …</button>
      </div>
    </template>
    </template>
  </section>
</template>
