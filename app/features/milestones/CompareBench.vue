<script setup lang="ts">
import {
  mdiArrowExpand,
  mdiArrowRight,
  mdiChevronDown,
  mdiChevronUp,
  mdiClose,
  mdiFileTreeOutline,
  mdiMinus,
  mdiPencilOutline,
  mdiPlus,
  mdiRotateRight,
  mdiTune,
} from '@mdi/js'
import { computed } from 'vue'
import type { Effect } from '~~/core/compare/effects'
import { EFFECTS } from '~~/core/compare/effects'
import { RECORD_NOUNS } from '~~/core/compare/nouns'
import { counted } from '~~/core/units/plural'
import { useAuth } from '~/editor/auth'
import type { Row } from './compare-work'
import type { Shown } from './comparing'
import { useComparing } from './comparing'

/** What is not the same here and there: a list to go through, and to take from. */
const comparing = useComparing()
const auth = useAuth()
/** Rows of one effect that are listed; the rest is counted. */
const MOST_ROWS = 200

const ICONS: Record<Effect, string> = {
  'added': mdiPlus,
  'gone': mdiMinus,
  'moved': mdiArrowRight,
  'turned': mdiRotateRight,
  'sized': mdiArrowExpand,
  'hung elsewhere': mdiFileTreeOutline,
  'rule': mdiTune,
  'changed': mdiPencilOutline,
}

const isSince = computed(() => comparing.other?.reading === 'since')
const takes = computed(() => (isSince.value ? 'As it was' : 'Take it'))

/** What of the list can be shown: only what there is. */
const choices = computed(() => {
  const { news } = comparing
  if (!news) return []
  return [
    { value: null as Shown, name: `all ${news.all.toLocaleString('en')}` },
    ...EFFECTS.filter(effect => news.counts[effect] > 0).map(effect => ({
      value: effect as Shown,
      name: `${effect}: ${news.counts[effect].toLocaleString('en')}`,
    })),
    ...(news.conflicts > 0
      ? [{ value: 'on both' as Shown, name: `changed on both: ${news.conflicts.toLocaleString('en')}` }]
      : []),
  ]
})

const tells = (row: Row) => {
  const more = row.effects.slice(1)
  return [row.record === null ? '' : RECORD_NOUNS[row.record], ...more].filter(Boolean).join(', ')
}

function press(event: KeyboardEvent): void {
  if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return
  event.preventDefault()
  comparing.step(event.key === 'ArrowDown' ? 1 : -1)
}
</script>

<template>
  <section class="bench-form" aria-label="Compare" data-test="compare">
    <PanelHead title="Compare">
      <IconButton :icon="mdiChevronUp" label="Difference before" does="Difference before" @click="comparing.step(-1)" />
      <IconButton :icon="mdiChevronDown" label="Next difference" does="Next difference" @click="comparing.step(1)" />
      <IconButton :icon="mdiClose" label="End comparing" does="Back to plain picking" @click="comparing.end()" />
    </PanelHead>
    <p class="quiet hint">
      <template v-if="isSince">
        What has become of it since “{{ comparing.other?.name }}”. Hatched is gone, dotted is where something was,
        corners are new.
      </template>
      <template v-else>
        What is otherwise in “{{ comparing.other?.name }}”. Hatched is only there, dotted is where something is there,
        corners are only here.
      </template>
    </p>
    <p v-if="comparing.failed" role="alert" class="error">{{ comparing.failed }}</p>
    <div v-else-if="!comparing.news" class="quiet hint" role="status">
      Comparing …
      <v-progress-linear indeterminate color="primary" aria-label="Comparing" />
    </div>
    <p v-else-if="comparing.news.all === 0" class="told">Nothing is otherwise: both are the same to the last digit.</p>
    <template v-else>
      <p v-if="comparing.gone > 0" class="told">
        {{ counted(comparing.gone, 'thing') }} there {{ comparing.gone === 1 ? 'shows a part' : 'show parts' }} that
        {{ comparing.gone === 1 ? 'is' : 'are' }} not in the kit any more, and
        {{ comparing.gone === 1 ? 'stands as a group' : 'stand as groups' }}.
      </p>
      <Choice v-model="comparing.shown" :options="choices" label="What is listed" />
      <v-btn
        class="main"
        color="action"
        variant="flat"
        :disabled="comparing.offered.length === 0 || auth.mayOnlyRead"
        @click="void comparing.takeShown()"
      >
        {{ isSince ? 'All of it as it was' : 'Take all of it' }}
      </v-btn>
      <div class="list" tabindex="0" role="group" aria-label="Differences" @keydown="press">
        <section v-for="{ effect, rows } in comparing.groups" :key="effect">
          <h3>
            <PathIcon :path="ICONS[effect]" :size="15" />
            {{ effect }}
            <span class="mono quiet">{{ rows.length }}</span>
          </h3>
          <ul>
            <li
              v-for="row in rows.slice(0, MOST_ROWS)"
              :key="row.key"
              :class="{ current: comparing.current === row.key, mine: row.since === 'here' }"
              :data-difference="row.key"
            >
              <v-btn
                class="say"
                variant="text"
                :aria-current="comparing.current === row.key"
                @click="void comparing.look(row)"
              >
                <LongName :name="row.name" />
                <span class="quiet more">{{ tells(row) }}</span>
                <span v-if="row.since === 'both'" class="both">changed on both</span>
                <span v-else-if="row.since === 'here'" class="quiet more">only here</span>
              </v-btn>
              <div v-if="comparing.current === row.key" class="about">
                <p v-if="comparing.details?.way" class="quiet">{{ comparing.details.way }}</p>
                <table v-if="comparing.details && comparing.details.values.length > 0">
                  <thead>
                    <tr>
                      <th />
                      <th>{{ isSince ? 'then' : 'here' }}</th>
                      <th>{{ isSince ? 'now' : 'there' }}</th>
                    </tr>
                  </thead>
                  <tbody>
                    <tr v-for="(value, i) in comparing.details.values.slice(0, 40)" :key="i">
                      <td>{{ value.what }}</td>
                      <td class="mono">{{ isSince ? value.there : value.here }}</td>
                      <td class="mono">{{ isSince ? value.here : value.there }}</td>
                    </tr>
                  </tbody>
                </table>
                <div class="line acts">
                  <v-btn size="small" :disabled="auth.mayOnlyRead" @click="void comparing.take({ keys: [row.key] })">
                    {{ takes }}
                  </v-btn>
                  <v-btn size="small" @click="comparing.keep([row.key])">Keep mine</v-btn>
                </div>
              </div>
            </li>
            <li v-if="rows.length > MOST_ROWS" class="quiet hint">and {{ rows.length - MOST_ROWS }} more</li>
          </ul>
        </section>
      </div>
    </template>
  </section>
</template>

<style scoped>
.grow {
  flex: 1;
}

.list h3 {
  display: flex;
  align-items: center;
  gap: 6px;
}

ul {
  padding: 0;
  margin: 0;
  list-style: none;
}

.say.say {
  justify-content: flex-start;
  width: 100%;
  height: auto;
  min-height: 26px;
  padding: 2px 6px;
  text-align: left;
}

.say :deep(.v-btn__content) {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  min-width: 0;
  white-space: normal;
}

.more,
.both {
  font-size: var(--note);
}

.both {
  font-weight: 600;
}

.mine .say {
  color: var(--quiet);
}

.current {
  border-left: 3px solid rgb(var(--v-theme-picked));
}

.about {
  padding: 2px 6px 6px;
  font-size: var(--small);
}

table {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}

th {
  font: 600 var(--small) var(--narrow);
  text-align: left;
}

td {
  padding: 2px 4px 2px 0;
  overflow-wrap: anywhere;
  vertical-align: top;
}

td.mono {
  font-size: var(--note);
}

.acts {
  flex-wrap: wrap;
  margin-top: 4px;
}
</style>
