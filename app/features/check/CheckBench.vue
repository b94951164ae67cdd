<script setup lang="ts">
import {
  mdiAlertCircle,
  mdiAlertOutline,
  mdiChartBar,
  mdiCheck,
  mdiDownload,
  mdiInformationOutline,
  mdiTune,
  mdiWrenchOutline,
} from '@mdi/js'
import { computed, ref, shallowRef } from 'vue'
import type { Finding, FixWay } from '~~/core/check/check'
import type { Severity } from '~~/core/check/definition'
import { SEVERITIES } from '~~/core/check/definition'
import type { CheckName } from '~~/core/check/kinds'
import { CHECK_NAMES, checkOf } from '~~/core/check/kinds'
import { isArrangement } from '~~/core/arrange/arrangement'
import { saveFindings } from './save-findings'
import type { CheckFilter } from './checking'
import { useBaking } from '~/editor/baking'
import { useChecking } from './checking'
import { useLevel } from '~/editor/level'
import { wordFor } from '~~/core/units/plural'
import BudgetSheet from './BudgetSheet.vue'
import CheckLimits from './CheckLimits.vue'
import SightLines from './SightLines.vue'

const level = useLevel()
const checking = useChecking()
const baking = useBaking()
const ICONS: Record<Severity, string> = { error: mdiAlertCircle, warning: mdiAlertOutline, note: mdiInformationOutline }
/** Rows of one kind that are listed; the rest is counted. */
const MOST_ROWS = 200
const settingLimits = ref<CheckName | null>(null)
const leaving = ref<Finding | null>(null)
const reason = ref('')
/** What is only told on the side is one line until it is opened. */
const folded = shallowRef<ReadonlySet<CheckName>>(new Set(CHECK_NAMES.filter(of => checkOf(of).isAside)))
const showsAllKinds = ref(false)
const budgetsOpen = ref(false)
const list = ref<HTMLElement>()
const sights = ref<string | null>(null)

const filters = computed(() => [
  { value: 'all', name: 'everything' },
  { value: 'picked', name: 'what is picked' },
  ...[...level.view.layers.values()].map(({ id, name }) => ({ value: `layer ${id}`, name: `layer ${name}` })),
  ...level.view
    .children(null)
    .filter(id => level.view.need(id).kind === 'group')
    .map(id => ({ value: `group ${id}`, name: `group ${level.view.need(id).name}` })),
])
const filter = computed({
  get: () => {
    const chosen = checking.filter
    return 'id' in chosen ? `${chosen.by} ${chosen.id}` : chosen.by
  },
  set: (text: string) => {
    const [by, id] = text.split(' ')
    checking.filter = (id ? { by, id } : { by }) as CheckFilter
  },
})

/** All kinds, also those without a finding, for setting their limits. */
const rest = computed(() => CHECK_NAMES.filter(of => !checking.groups.some(({ kind }) => kind === of)))
const preview = computed(() => checking.preview)

function fold(of: CheckName): void {
  const next = new Set(folded.value)
  if (!next.delete(of)) next.add(of)
  folded.value = next
}

/** What can be mended by operations is shown first; baking asks by itself, for one at a time. */
function fix(findings: readonly Finding[], by: FixWay = 'fix'): void {
  const how = checkOf(findings[0]!.of).fix
  if (how?.by === 'bake') {
    level.pick(findings.flatMap(({ things }) => things.slice(0, 1)))
    baking.bakeQuestion = { what: how.what }
  } else
    void checking.previewFix(
      findings.map(({ key }) => key),
      by,
    )
}

function askReason(finding: Finding): void {
  reason.value = finding.left ?? ''
  leaving.value = finding
}

function leave(): void {
  if (leaving.value && reason.value.trim()) checking.leave(leaving.value, reason.value.trim())
  leaving.value = null
}

function onKey(event: KeyboardEvent): void {
  const by = ({ ArrowDown: 1, ArrowUp: -1 } as const)[event.key as 'ArrowDown' | 'ArrowUp']
  if (!by) return
  event.preventDefault()
  event.stopPropagation()
  checking.step(by)
  void nextFocus()
}

async function nextFocus(): Promise<void> {
  await new Promise(resolve => setTimeout(resolve))
  list.value?.querySelector<HTMLElement>('.finding.current .say')?.focus()
}

const isFan = (finding: Finding) => {
  const own = level.view.get(finding.things[0]!)?.own
  return own !== undefined && isArrangement(own) && own.rule.type === 'fan'
}
</script>

<template>
  <section class="bench-form check" aria-labelledby="check-title">
    <PanelHead title-id="check-title" title="Check" />
    <div class="counts" aria-live="polite">
      <span v-for="severity in SEVERITIES" :key="severity" :class="`is-${severity}`">
        <v-icon :icon="ICONS[severity]" size="15" />
        {{ ' ' }}
        <span class="mono" :data-test="`count-${severity}`">{{ checking.counts[severity] }}</span>
        {{ wordFor(checking.counts[severity], severity) }}
      </span>
    </div>
    <p v-if="checking.progress !== null" class="quiet hint" role="status">
      Looking … {{ Math.floor(checking.progress * 100) }} %
    </p>
    <PresetBar
      form="check"
      :values="checking.allLimits"
      :check="checking.checkLimits"
      @apply="checking.setAllLimits($event)"
    />
    <FormLine label="Look at"><Choice v-model="filter" :options="filters" label="Findings of" /></FormLine>
    <div class="line">
      <v-btn :prepend-icon="mdiChartBar" @click="budgetsOpen = true">Budgets</v-btn>
      <v-menu>
        <template #activator="{ props }">
          <v-btn v-bind="props" :prepend-icon="mdiDownload" :disabled="checking.listed.length === 0">
            Save the list
          </v-btn>
        </template>
        <MenuList label="Save the list">
          <MenuItem title="As CSV" @click="saveFindings(checking.listed, 'csv', checking)" />
          <MenuItem title="As JSON" @click="saveFindings(checking.listed, 'json', checking)" />
        </MenuList>
      </v-menu>
    </div>

    <div v-if="preview" class="preview" role="group" aria-label="What would be mended">
      <p>
        <strong>{{ preview.done.length }}</strong>
        {{ wordFor(preview.done.length, 'finding') }} would be mended; the stage shows it.
      </p>
      <p v-for="{ key, why } in preview.failed.slice(0, 4)" :key="key" class="quiet hint">
        {{ checking.say(checking.news.findings.find(finding => finding.key === key)!) }}: {{ why }}
      </p>
      <p v-if="preview.failed.length > 4" class="quiet hint">and {{ preview.failed.length - 4 }} more stay.</p>
      <div class="line">
        <v-btn color="action" variant="flat" :disabled="preview.done.length === 0" @click="checking.doFix()">
          Do it
        </v-btn>
        <v-btn @click="checking.endPreview()">Do not mend</v-btn>
      </div>
    </div>

    <p v-if="checking.listed.every(({ of }) => checkOf(of).isAside) && checking.progress === null" class="fine">
      <v-icon :icon="mdiCheck" size="16" />
      Nothing is wrong{{ checking.filter.by === 'all' ? '' : ' with these' }}.
    </p>
    <div ref="list" class="groups" @keydown="onKey">
      <section
        v-for="{ kind, findings, open } in checking.groups"
        :key="kind"
        class="group"
        :aria-label="checkOf(kind).name"
      >
        <div class="head" :class="`is-${checkOf(kind).severity}`" :title="checkOf(kind).explains">
          <v-btn class="title" variant="text" :aria-expanded="!folded.has(kind)" @click="fold(kind)">
            <v-icon :icon="ICONS[checkOf(kind).severity]" size="15" />
            {{ checkOf(kind).name }}
            <span class="mono">{{ open.length }}</span>
          </v-btn>
          <IconButton
            v-if="checkOf(kind).fix?.by === 'operations' && open.length > 0"
            :size="14"
            :icon="mdiWrenchOutline"
            :label="`${checkOf(kind).fix!.does}: all ${open.length} of ${checkOf(kind).name}`"
            @click="fix(open)"
          />
          <IconButton
            :size="14"
            :icon="mdiTune"
            :label="`Limits of ${checkOf(kind).name}`"
            :pressed="settingLimits === kind"
            @click="settingLimits = settingLimits === kind ? null : kind"
          />
        </div>
        <CheckLimits v-if="settingLimits === kind" :of="kind" />
        <ul v-if="!folded.has(kind)">
          <li
            v-for="finding in findings.slice(0, MOST_ROWS)"
            :key="finding.key"
            class="finding"
            :class="{ current: checking.current === finding.key, left: finding.left !== undefined }"
          >
            <v-btn
              class="say"
              variant="text"
              :aria-current="checking.current === finding.key"
              @click="checking.lookAt(finding)"
            >
              {{ checking.say(finding) }}
            </v-btn>
            <p v-if="finding.left !== undefined" class="why quiet">
              left: {{ finding.left }}
              <v-btn class="link" variant="plain" @click="checking.leave(finding, null)">look again</v-btn>
            </p>
            <div v-if="checking.current === finding.key" class="line acts">
              <v-btn
                v-if="checkOf(kind).fix && finding.left === undefined"
                size="small"
                :prepend-icon="mdiWrenchOutline"
                @click="fix([finding])"
              >
                {{ checkOf(kind).fix!.does }}
              </v-btn>
              <v-btn
                v-if="checking.doesBy(kind, 'instead') && finding.left === undefined"
                size="small"
                @click="fix([finding], 'instead')"
              >
                {{ checking.doesBy(kind, 'instead') }}
              </v-btn>
              <v-btn v-if="isFan(finding)" size="small" @click="sights = finding.things[0]!">Row by row</v-btn>
              <v-btn v-if="finding.left === undefined" size="small" @click="askReason(finding)">It may stay …</v-btn>
            </div>
          </li>
          <li v-if="findings.length > MOST_ROWS" class="quiet hint">and {{ findings.length - MOST_ROWS }} more</li>
        </ul>
      </section>
    </div>
    <v-btn class="link" variant="plain" :aria-expanded="showsAllKinds" @click="showsAllKinds = !showsAllKinds">
      {{ showsAllKinds ? 'Hide what else is looked for' : `What else is looked for (${rest.length})` }}
    </v-btn>
    <ul v-if="showsAllKinds" class="kinds">
      <li v-for="kind in rest" :key="kind">
        <div class="head" :title="checkOf(kind).explains">
          <span :class="{ quiet: checking.limitsOf(kind).off }">
            {{ checkOf(kind).name }}{{ checking.limitsOf(kind).off ? ' (off)' : '' }}
          </span>
          <IconButton
            :size="14"
            :icon="mdiTune"
            :label="`Limits of ${checkOf(kind).name}`"
            @click="settingLimits = settingLimits === kind ? null : kind"
          />
        </div>
        <CheckLimits v-if="settingLimits === kind" :of="kind" />
      </li>
    </ul>

    <FormDialog
      page="checking"
      :model-value="leaving !== null"
      title="It may stay as it is"
      max-width="420"
      @update:model-value="leaving = null"
    >
      <p>{{ leaving ? checking.say(leaving) : '' }}</p>
      <v-text-field v-model="reason" label="Why" autofocus maxlength="300" autocomplete="off" @keydown.enter="leave" />
      <template #buttons>
        <v-btn @click="leaving = null">Cancel</v-btn>
        <v-btn color="action" variant="flat" :disabled="!reason.trim()" @click="leave">Let it stay</v-btn>
      </template>
    </FormDialog>
    <BudgetSheet v-model="budgetsOpen" />
    <SightLines v-model="sights" />
  </section>
</template>

<style scoped>
.counts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  font-size: var(--small);
}

.is-error :deep(.v-icon) {
  color: rgb(var(--v-theme-error));
}
.is-warning :deep(.v-icon) {
  color: rgb(var(--v-theme-action));
}
.is-note :deep(.v-icon) {
  color: var(--petrol);
}

.fine {
  color: var(--petrol);
}

.preview {
  padding: 8px 10px;
  background: rgb(var(--v-theme-background));
  border-left: 3px solid rgb(var(--v-theme-action));
}

.groups {
  flex: none;
}

.group + .group {
  margin-top: 6px;
}

.head {
  display: flex;
  align-items: center;
  gap: 2px;
  min-height: 27px;
}

.title.title {
  flex: 1;
  justify-content: flex-start;
  min-width: 0;
  height: 27px;
  padding: 0 2px;
  font: 600 var(--body) var(--narrow);
}

.title :deep(.v-btn__content) {
  gap: 5px;
}

ul {
  padding: 0;
  list-style: none;
}

.finding {
  border-left: 3px solid transparent;
}

.finding.current {
  background: rgba(var(--v-theme-picked), 0.12);
  border-left-color: var(--picked);
}

.say.say {
  justify-content: flex-start;
  width: 100%;
  height: auto;
  min-height: 24px;
  padding: 2px 4px;
  font: 400 var(--small) / 1.3 var(--text);
  letter-spacing: 0;
  text-align: left;
  white-space: normal;
}

.say :deep(.v-btn__content) {
  white-space: normal;
}

.left .say {
  color: var(--quiet);
}

.why {
  padding-left: 8px;
  font-size: var(--note);
}

.acts {
  flex-wrap: wrap;
  padding: 0 4px 5px;
}

.kinds .head {
  justify-content: space-between;
  font-size: var(--small);
}
</style>
