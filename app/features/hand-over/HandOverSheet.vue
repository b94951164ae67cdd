<script setup lang="ts">
import { mdiDownload } from '@mdi/js'
import { computed } from 'vue'
import type { FormatName } from '~~/core/formats/formats'
import { FORMAT_NAMES, FORMATS } from '~~/core/formats/formats'
import { printBytes, printCounts } from '~/ui/print-report'
import type { What } from './handing-over'
import { useHandingOver } from './handing-over'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import HandOverFields from './HandOverFields.vue'
import PlanPreview from './PlanPreview.vue'

/** The sheet on which a level is handed over: a card for each format, its choices, and what became of it. */
const handing = useHandingOver()
const level = useLevel()
const settings = useSettings()
const chosen = computed(() => FORMATS[handing.format])
const isPlan = computed(() => handing.format === 'svg' || handing.format === 'pdf')
const whats = computed(() => [
  { value: 'all' as What, name: 'Everything' },
  { value: 'picked' as What, name: `Picked (${handing.picked.length})` },
  { value: 'layer' as What, name: 'A layer' },
])
const layers = computed(() =>
  [...level.view.layers.values()].sort((a, b) => a.order - b.order).map(({ id, name }) => ({ value: id, name })),
)
const moment = new Intl.DateTimeFormat('en-GB', { dateStyle: 'short', timeStyle: 'short' })
const titleOf = (format: FormatName) => FORMATS[format].title
</script>

<template>
  <FormDialog page="handing-over" v-model="handing.isOpen" title="Hand over" max-width="1040">
    <div class="columns">
      <ul class="cards" aria-label="Formats">
        <li v-for="format in FORMAT_NAMES" :key="format">
          <v-btn
            class="card"
            variant="text"
            :active="format === handing.format"
            :aria-pressed="format === handing.format"
            :data-format="format"
            @click="handing.choose(format)"
          >
            <span class="name">
              {{ FORMATS[format].title }}
              <span class="mono quiet">.{{ FORMATS[format].ending }}</span>
            </span>
            <span class="about">{{ FORMATS[format].keeps }}</span>
            <span class="about quiet">Loses: {{ FORMATS[format].loses }}</span>
          </v-btn>
        </li>
      </ul>
      <div class="right">
        <template v-if="handing.format !== 'level'">
          <FormLine label="What">
            <Segments v-model="handing.what" :options="whats" label="What is handed over" />
          </FormLine>
          <FormLine v-if="handing.what === 'layer'" label="Layer">
            <Choice v-model="handing.layer" :options="layers" label="Layer to hand over" placeholder="choose one" />
          </FormLine>
        </template>
        <PresetBar
          v-if="handing.format !== 'level'"
          :form="`hand-over-${handing.format}`"
          :values="handing.options"
          :check="handing.checkOptions"
          @apply="handing.setAll($event)"
        />
        <HandOverFields />
        <PlanPreview v-if="isPlan" />
        <div v-if="handing.progress.isGoing" class="made" data-test="hand-over-making">
          <p role="status">Being made</p>
          <ProgressLine
            :share="handing.progress.share"
            :bytes="handing.progress.bytes"
            :seconds-left="handing.progress.secondsLeft"
            before="The level is read"
            label="Being made"
          />
        </div>
        <div v-if="handing.done" class="made" role="status" data-test="hand-over-report">
          <p>
            <strong>{{ titleOf(handing.done.format) }},</strong>
            {{ ' ' }}
            <span class="mono">{{ printBytes(handing.done.report.bytes) }}:</span>
            {{ printCounts(handing.done.report.counts) }}
          </p>
          <p v-for="remark in handing.done.report.remarks" :key="remark">{{ remark }}</p>
        </div>
        <p v-if="handing.failed || handing.wrong" role="alert" class="error">{{ handing.failed || handing.wrong }}</p>
        <section v-if="settings.kept.handOver.files.length > 0" class="last" aria-label="Last files">
          <h3>Last files</h3>
          <ul>
            <li v-for="file in settings.kept.handOver.files" :key="file.at">
              <span class="file">{{ file.name }}</span>
              <span class="quiet">{{ titleOf(file.format) }}</span>
              <span class="mono quiet">{{ printBytes(file.report.bytes) }}</span>
              <span class="quiet">{{ moment.format(file.at) }}</span>
            </li>
          </ul>
        </section>
      </div>
    </div>
    <template #buttons>
      <v-btn v-if="handing.progress.isGoing" @click="handing.cancel()">Cancel</v-btn>
      <v-btn v-else @click="handing.isOpen = false">Close</v-btn>
      <v-btn
        color="action"
        variant="flat"
        :prepend-icon="mdiDownload"
        :loading="handing.progress.isGoing"
        :disabled="handing.wrong !== null"
        data-test="hand-over-make"
        @click="handing.make()"
      >
        Download {{ chosen.title }}
      </v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 430px 1fr;
  gap: 18px;
}

.cards {
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding: 0;
  list-style: none;
}

.card {
  display: block;
  width: 100%;
  height: auto !important;
  padding: 7px 10px !important;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
  text-align: left;
  white-space: normal;
}

.card[aria-pressed='true'] {
  border-color: rgb(var(--v-theme-primary));
  box-shadow: inset 3px 0 0 rgb(var(--v-theme-primary));
}

.card :deep(.v-btn__content) {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  white-space: normal;
}

.name {
  font-size: var(--body, 14px);
  font-weight: 600;
}

.about {
  font-family: var(--text);
  font-size: var(--small);
  letter-spacing: 0;
  font-weight: 400;
  line-height: 1.25;
}

.right {
  display: flex;
  flex-direction: column;
  gap: 7px;
  min-width: 0;
}

.made {
  padding: 6px 10px;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
  font-size: var(--small);
}

.last {
  margin-top: auto;
}

.last h3 {
  font-size: var(--small);
}

.last ul {
  max-height: 120px;
  padding: 0;
  overflow: auto;
  list-style: none;
  font-size: var(--small);
}

.last li {
  display: grid;
  grid-template-columns: 1fr 120px 70px 100px;
  gap: 8px;
}

.file {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
