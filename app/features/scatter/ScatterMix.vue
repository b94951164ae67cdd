<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight, mdiClose } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import type { RuleField } from '~~/core/arrange/fields'
import type { Rule } from '~~/core/arrange/rules'
import type { Ingredient } from '~~/core/arrange/scatter/rule'
import { useKit } from '~/editor/kit'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useRepeating } from '~/features/repeat/repeating'
import { useScattering } from './scattering'
import { counted } from '~~/core/units/plural'
import RuleForm from '~/features/repeat/RuleForm.vue'

/** The sources of a scatter in one list: how often each comes, how large, and how it stands. */
const kit = useKit()
const auth = useAuth()
const level = useLevel()
const settings = useSettings()
const repeating = useRepeating()
const scattering = useScattering()
const open = ref<string | null>(null)
const choosing = ref(false)
const chosen = ref<string[]>([])
// What was chosen stays so when the sheet is closed by Esc or beside it.
watch(choosing, now => {
  if (now) void kit.takePictures(!auth.mayOnlyRead)
})

const rule = computed(() => scattering.rule)
const nameOf = (source: string) => level.view.get(source)?.name ?? kit.part(source)?.name ?? 'not there any more'
const pictureOf = (source: string) => {
  const part = kit.part(level.view.get(source)?.partId ?? source)
  return part && kit.pictureOf(part)
}
watch(
  () => rule.value.mix.length,
  () => void kit.takePictures(!auth.mayOnlyRead),
  { immediate: true },
)

function change(next: Rule, joins?: string): void {
  if (next.type === 'scatter') scattering.setRule(next, joins)
}

function takeChosen(): void {
  choosing.value = false
  scattering.addParts(chosen.value)
  chosen.value = []
}

function dropChosen(): void {
  choosing.value = false
  chosen.value = []
}

/** What of a hundred of each is asked for, and obtained. */
function shares(i: number): string {
  const report = scattering.report
  const order =
    scattering.currentId === null ? i : level.view.children(scattering.currentId).indexOf(rule.value.mix[i]!.source)
  const its = report?.sources[order]
  if (!its || report!.obtained === 0) return ''
  return `${Math.round(its.share * 100)} → ${Math.round((its.obtained / report!.obtained) * 100)} %`
}

const number = (
  label: string,
  i: number,
  quantity: 'length' | 'angle' | 'factor' | 'share',
  ...path: (string | number)[]
): RuleField => ({ type: 'number', label, path: ['mix', i, ...path], quantity })
function fieldsOf(i: number, { turn, sizes, room }: Ingredient): RuleField[] {
  return [
    number('Smallest size', i, 'factor', 'size', 0),
    number('Largest size', i, 'factor', 'size', 1),
    {
      type: 'switch',
      label: 'Sized by axis besides',
      path: ['mix', i, 'sizes'],
      on: [
        [0.8, 1.2],
        [0.8, 1.2],
        [0.8, 1.2],
      ],
    },
    ...(sizes
      ? settings.axes.inOrder.flatMap(({ axis, letter }) => [
          number(`${letter} from`, i, 'factor', 'sizes', axis, 0),
          number(`${letter} to`, i, 'factor', 'sizes', axis, 1),
        ])
      : []),
    {
      type: 'choice',
      label: 'Turned',
      path: ['mix', i, 'turn'],
      options: [
        { value: 'free', name: 'any way' },
        { value: 'steps', name: 'in steps' },
        { value: 'kept', name: 'as it is' },
      ],
    },
    ...(turn === 'steps' ? [number('Steps of', i, 'angle', 'step')] : []),
    number('Lean with the surface', i, 'share', 'lean'),
    number('Tilt up to', i, 'angle', 'tilt'),
    number('Height from', i, 'length', 'height', 0),
    number('Height to', i, 'length', 'height', 1),
    { type: 'switch', label: 'Room typed', path: ['mix', i, 'room'], on: 0.25 as unknown as object },
    ...(room !== undefined ? [number('Room around it', i, 'length', 'room')] : []),
  ]
}

const weightField = (i: number, source: string): RuleField[] => [
  {
    type: 'number',
    label: 'Weight',
    named: `Weight of ${nameOf(source)}`,
    path: ['mix', i, 'weight'],
    quantity: 'number',
  },
]
const freePicked = computed(
  () =>
    repeating
      .movable()
      .filter(
        id =>
          id !== scattering.currentId
          && !rule.value.on.some(on => on.id === id)
          && !rule.value.mix.some(({ source }) => source === id)
          && level.view.get(id)?.parentId !== scattering.currentId,
      ).length,
)
</script>

<template>
  <h3>Parts</h3>
  <ul class="mix" aria-label="Parts of the scatter">
    <li v-for="(each, i) in rule.mix" :key="each.source" :data-source="nameOf(each.source)">
      <div class="row">
        <img v-if="pictureOf(each.source)" :src="pictureOf(each.source) ?? undefined" alt="" width="34" height="34" />
        <span v-else class="blank" />
        <span class="name">
          {{ nameOf(each.source) }}
          <small class="mono quiet">{{ shares(i) }}</small>
        </span>
        <IconButton
          :size="15"
          :icon="open === each.source ? mdiChevronDown : mdiChevronRight"
          :label="`Details of ${nameOf(each.source)}`"
          :aria-expanded="open === each.source"
          @click="open = open === each.source ? null : each.source"
        />
        <IconButton
          :size="15"
          :icon="mdiClose"
          :label="`Take ${nameOf(each.source)} out`"
          @click="scattering.removeSource(each.source)"
        />
      </div>
      <RuleForm :rule="rule" :some="weightField(i, each.source)" @change="change" />
      <RuleForm v-if="open === each.source" class="details" :rule="rule" :some="fieldsOf(i, each)" @change="change" />
    </li>
  </ul>
  <div class="buttons">
    <v-btn @click="choosing = true">
      Add from the kit …
      <template v-if="chosen.length > 0">({{ chosen.length }})</template>
    </v-btn>
    <v-btn :disabled="freePicked === 0" title="What is picked becomes a source" @click="scattering.addPicked()">
      Add picked
    </v-btn>
  </div>
  <FormDialog page="scattering" v-model="choosing" title="Parts to scatter" max-width="560">
    <div class="parts" role="group" aria-label="Parts of the kit">
      <v-btn
        v-for="part in kit.parts"
        :key="part.id"
        class="card"
        stacked
        :aria-pressed="chosen.includes(part.id)"
        @click="chosen = chosen.includes(part.id) ? chosen.filter(id => id !== part.id) : [...chosen, part.id]"
      >
        <img v-if="kit.pictureOf(part)" :src="kit.pictureOf(part)!" alt="" width="52" height="52" />
        <span>{{ part.name }}</span>
      </v-btn>
    </div>
    <template #buttons>
      <v-btn @click="dropChosen">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="chosen.length === 0" @click="takeChosen">
        Add {{ counted(chosen.length, 'part') }}
      </v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.mix {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 0;
  list-style: none;
}

.mix li {
  padding: 4px 6px;
  border: 1px solid var(--line);
  border-radius: var(--round);
}

.row {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-bottom: 3px;
}

.row img,
.card img {
  background: rgb(var(--v-theme-picture));
  border-radius: 5px;
}

.blank {
  width: 34px;
}

.name {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
}

.details {
  margin-top: 6px;
}

.buttons {
  display: grid;
  flex: none;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}

.parts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(96px, 1fr));
  gap: 6px;
  max-height: 380px;
  overflow: auto;
}

.card.card {
  height: auto;
  padding: 4px;
}

.card :deep(.v-btn__content) {
  white-space: normal;
}

.card[aria-pressed='true'] {
  border-color: var(--picked);
  box-shadow: inset 0 0 0 1px var(--picked);
}
</style>
