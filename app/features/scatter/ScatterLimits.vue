<script setup lang="ts">
import { mdiClose, mdiEyeOff, mdiEyeOutline } from '@mdi/js'
import { computed } from 'vue'
import type { RuleField } from '~~/core/arrange/fields'
import type { Rule } from '~~/core/arrange/rules'
import type { Limit, LimitType } from '~~/core/arrange/scatter/limits'
import { LIMIT_TYPES, limitDefinition, LIMITS } from '~~/core/arrange/scatter/limits'
import type { ThingsLimit } from '~~/core/arrange/scatter/limits/things'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useScattering } from './scattering'
import { counted } from '~~/core/units/plural'
import RuleForm from '~/features/repeat/RuleForm.vue'

/** The limits of a scatter, each with its numbers, and its picture on the surface while it is looked at. */
const kit = useKit()
const level = useLevel()
const scattering = useScattering()
const rule = computed(() => scattering.rule)
const set = (limits: Limit[]) => scattering.setRule({ ...rule.value, limits })
const add = (type: LimitType | null) => {
  if (type) set([...rule.value.limits, structuredClone(LIMITS[type].first)])
}
const kinds = LIMIT_TYPES.map(value => ({ value: value as LimitType | null, name: LIMITS[value].name }))

function change(next: Rule, joins?: string): void {
  if (next.type === 'scatter') scattering.setRule(next, joins)
}

function fieldsOf(limit: Limit, i: number): RuleField[] {
  const { quantity } = limitDefinition(limit)
  const number = (label: string, key: string, of = quantity): RuleField => ({
    type: 'number',
    label,
    path: ['limits', i, key],
    quantity: of,
  })
  return [
    number('From', 'from'),
    ...(hasEnd(limit) ? [number('To', 'to')] : []),
    number('Soft over', 'soft'),
    ...(limit.type === 'noise' ? [number('Patches across', 'scale', 'length'), number('Seed', 'seed', 'count')] : []),
    { type: 'switch', label: 'Invert', path: ['limits', i, 'invert'] },
  ]
}

/** Lengths go on without an end until one is given. */
const hasEnd = (limit: Limit) =>
  limitDefinition(limit).quantity !== 'length' || limit.to < limitDefinition(limit).span[1]
const giveEnd = (i: number) =>
  set(rule.value.limits.map((limit, k) => (k === i ? { ...limit, to: limit.from + 5 } : limit)))

const isTinted = (i: number) => scattering.tinted === i
const toggleTint = (i: number) => {
  scattering.tinted = isTinted(i) ? null : i
}

const tags = computed(() =>
  [...new Set(kit.parts.flatMap(part => part.tags))].sort().map(tag => ({ value: tag, name: tag })),
)
const layers = computed(() => [...level.view.layers.values()].map(({ id, name }) => ({ value: id, name })))
const ways = [
  { value: 'chosen', name: 'chosen things' },
  { value: 'layer', name: 'a layer' },
  { value: 'tag', name: 'parts by tag' },
] as const

function setWhich(i: number, which: ThingsLimit['which']): void {
  set(rule.value.limits.map((limit, k) => (k === i && limit.type === 'things' ? { ...limit, which } : limit)))
}

function setBy(i: number, by: ThingsLimit['which']['by']): void {
  if (by === 'chosen') setWhich(i, { by, ids: scattering.picked() })
  else if (by === 'tag' && tags.value[0]) setWhich(i, { by, tag: tags.value[0].value })
  else if (by === 'layer' && layers.value[0]) setWhich(i, { by, layer: layers.value[0].value })
  else level.notify('There is none', [by === 'layer' ? 'This level has no layer.' : 'No part has a tag.'])
}

function remove(i: number): void {
  scattering.tinted = null
  set(rule.value.limits.filter((_, k) => k !== i))
}
</script>

<template>
  <h3>Limits</h3>
  <ul class="limits" aria-label="Limits">
    <li v-for="(limit, i) in rule.limits" :key="i" :data-limit="limit.type">
      <div class="row">
        <Tick
          :model-value="!limit.off"
          :label="limitDefinition(limit).name"
          @update:model-value="set(rule.limits.map((other, k) => (k === i ? { ...other, off: !$event } : other)))"
        />
        <span class="end">
          <IconButton
            :size="15"
            :icon="isTinted(i) ? mdiEyeOutline : mdiEyeOff"
            :label="`Show ${limitDefinition(limit).name} on the stage`"
            :pressed="isTinted(i)"
            @click="toggleTint(i)"
          />
          <IconButton
            :size="15"
            :icon="mdiClose"
            :label="`Remove limit ${limitDefinition(limit).name}`"
            @click="remove(i)"
          />
        </span>
      </div>
      <template v-if="!limit.off">
        <template v-if="limit.type === 'things'">
          <FormLine label="Away from">
            <Choice
              :model-value="limit.which.by"
              :options="ways"
              label="Away from"
              @update:model-value="setBy(i, $event)"
            />
          </FormLine>
          <FormLine v-if="limit.which.by === 'tag'" label="Tag">
            <Choice
              :model-value="limit.which.tag"
              :options="tags"
              label="Tag"
              @update:model-value="setWhich(i, { by: 'tag', tag: $event })"
            />
          </FormLine>
          <FormLine v-if="limit.which.by === 'layer'" label="Layer">
            <Choice
              :model-value="limit.which.layer"
              :options="layers"
              label="Layer"
              @update:model-value="setWhich(i, { by: 'layer', layer: $event })"
            />
          </FormLine>
          <p v-if="limit.which.by === 'chosen'" class="line">
            <span class="quiet">{{ counted(limit.which.ids.length, 'thing') }}</span>
            <v-btn
              class="link"
              variant="plain"
              :disabled="scattering.picked().length === 0"
              @click="setWhich(i, { by: 'chosen', ids: [...new Set([...limit.which.ids, ...scattering.picked()])] })"
            >
              Add what is picked
            </v-btn>
          </p>
        </template>
        <RuleForm :rule="rule" :some="fieldsOf(limit, i)" @change="change" />
        <p v-if="!hasEnd(limit)" class="line">
          <span class="quiet">and everything farther</span>
          <v-btn class="link" variant="plain" @click="giveEnd(i)">up to an end</v-btn>
        </p>
      </template>
    </li>
  </ul>
  <Choice
    :model-value="null"
    :options="kinds"
    label="Add a limit"
    placeholder="Add a limit …"
    @update:model-value="add"
  />
  <Tick
    :model-value="scattering.tinted === -1"
    label="Show all limits and paint on the stage"
    @update:model-value="scattering.tinted = $event ? -1 : null"
  />
</template>

<style scoped>
.limits {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 0;
  list-style: none;
}

.limits:empty {
  display: none;
}

.limits li {
  padding: 2px 6px 6px;
  border: 1px solid var(--line);
  border-radius: var(--round);
}

.row {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.end {
  display: flex;
}
</style>
