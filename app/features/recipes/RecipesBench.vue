<script setup lang="ts">
import { mdiClose, mdiDeleteOutline, mdiKeyboardOutline } from '@mdi/js'
import { useFileDialog } from '@vueuse/core'
import { computed } from 'vue'
import { counted } from '~~/core/units/plural'
import { nameSchema } from '~~/core/level/fields'
import type { RecipeInput } from '~~/core/level/recipe'
import { needsOf } from '~~/core/recipe/playing'
import type { Field } from '~~/core/units/field'
import { numberField } from '~~/core/units/field'
import { useAuth } from '~/editor/auth'
import { useCommands } from '~/editor/commands'
import { useKeys } from '~/editor/keys/keys'
import { saveFile } from '~/editor/saving/save-file'
import { writeRecipe } from './recipe-file'
import type { Kept } from './recipes'
import { useRecipes } from './recipes'

/** The recipes there are; of the chosen one its inputs, with what it would do shown on the stage. */
const here = useRecipes()
const auth = useAuth()
const keys = useKeys()
const commands = useCommands()
const current = computed(() => here.current)
const fields = computed((): Field[] =>
  (current.value?.recipe.inputs ?? []).map(({ name, label, quantity, axis }) =>
    numberField(label, [name], quantity, { decimals: 3, axis }),
  ),
)
const first = computed(() =>
  Object.fromEntries((current.value?.recipe.inputs ?? []).map(each => [each.name, each.first])),
)
const values = computed(() => ({ ...first.value, ...here.inputs }))
const areOthers = computed(() => Object.entries(values.value).some(([name, value]) => first.value[name] !== value))
const needs = computed(() => current.value && needsOf(current.value.recipe))
const problem = computed(() => {
  const { would } = here
  return would && !would.ok ? here.sayRefused(would) : null
})
const playedOn = computed(() =>
  needs.value === 'each'
    ? `Play on ${counted(here.on.length, 'thing')}`
    : needs.value === 0
      ? 'Play'
      : `Play on the ${counted(Number(needs.value), 'thing')} picked`,
)

const { open: chooseFile, onChange } = useFileDialog({ multiple: false, accept: '.json', reset: true })
onChange(files => {
  const file = files?.[0]
  if (file) void here.takeFile(file)
})
const save = ({ recipe }: Kept) =>
  saveFile(
    new Blob([writeRecipe(recipe)], { type: 'application/json' }),
    `${recipe.name.replace(/[^\p{L}\p{N} -]/gu, '')}.recipe.json`,
  )

function rename(each: Kept, name: string): void {
  here.failed = here.put(each, { ...each.recipe, name: name.trim() }) ?? ''
}

const checkName = (text: unknown) => {
  const read = nameSchema.safeParse(text)
  return read.success ? null : `A name ${read.error.issues[0]!.message}.`
}

/** The numbers as they are now become those that it begins with. */
function keepNumbers(each: Kept): void {
  const inputs = each.recipe.inputs.map(
    (input): RecipeInput => ({ ...input, first: values.value[input.name] ?? input.first }),
  )
  here.failed = here.put(each, { ...each.recipe, inputs }) ?? ''
  here.inputs = {}
}

function giveKey({ recipe, of }: Kept): void {
  keys.sought = `Play “${recipe.name}”${of === 'level' ? ' of the level' : ''}`
  commands.run('Keys …')
}

const whose = (of: Kept['of']) => here.all.filter(each => each.of === of)
const GROUPS = [
  { of: 'me', name: 'Mine' },
  { of: 'level', name: "The level's" },
] as const
</script>

<template>
  <section class="bench-form" aria-labelledby="recipes-title" data-test="recipes">
    <PanelHead title-id="recipes-title" title="Recipes">
      <IconButton :icon="mdiClose" label="Put the recipes away" @click="here.close()" />
    </PanelHead>
    <p class="quiet hint">
      Steps kept as one, to be played on other things. Take some down while you do them, or mark them in the list of
      changes.
    </p>
    <div class="buttons">
      <v-btn @click="chooseFile()">From a file …</v-btn>
      <v-btn :color="here.recording ? 'action' : undefined" @click="here.toggleRecording()">
        {{ here.recording ? 'That is all' : 'Take down …' }}
      </v-btn>
    </div>
    <p v-if="here.failed" role="alert" class="error">{{ here.failed }}</p>
    <p v-if="here.told" role="status">{{ here.told }}</p>
    <section v-for="group in GROUPS" :key="group.of" :aria-label="group.name">
      <h3>{{ group.name }}</h3>
      <p v-if="whose(group.of).length === 0" class="quiet hint">None yet.</p>
      <v-list v-else class="list" :aria-label="group.name">
        <v-list-item
          v-for="each in whose(group.of)"
          :key="here.keyOf(each)"
          :title="each.recipe.name"
          :subtitle="counted(each.recipe.steps.length, 'step')"
          :active="here.chosen === here.keyOf(each)"
          @click="here.choose(here.chosen === here.keyOf(each) ? null : here.keyOf(each))"
        />
      </v-list>
    </section>
    <section v-if="current" class="form-part" :aria-label="current.recipe.name" data-test="recipe">
      <FormLine label="Name">
        <TextBox
          label="Name of the recipe"
          :value="current.recipe.name"
          :check="checkName"
          @commit="rename(current, $event)"
        />
      </FormLine>
      <ol class="steps">
        <li
          v-for="(step, i) in current.recipe.steps"
          :key="i"
          :class="{ wrong: here.would && !here.would.ok && here.would.step === i + 1 }"
        >
          {{ step.label }}
        </li>
      </ol>
      <FieldRows
        :fields="fields"
        :of="values"
        @set="(field, value) => (here.inputs = { ...here.inputs, [String(field.path[0])]: Number(value) })"
      />
      <p v-if="problem" role="alert" class="error" data-test="recipe-problem">{{ problem }}</p>
      <v-btn
        class="main"
        color="action"
        variant="flat"
        :disabled="problem !== null || auth.mayOnlyRead"
        @click="here.playNow(current.recipe, here.inputs)"
      >
        {{ playedOn }}
      </v-btn>
      <div class="buttons">
        <v-btn v-if="areOthers" @click="keepNumbers(current)">Begin with these numbers</v-btn>
        <v-btn v-if="areOthers" @click="here.inputs = {}">As it was</v-btn>
      </div>
      <div class="buttons">
        <v-btn :disabled="auth.mayOnlyRead && current.of === 'me'" @click="here.moveOver(current)">
          {{ current.of === 'me' ? 'To the level' : 'Keep with me too' }}
        </v-btn>
        <v-btn @click="save(current)">As a file</v-btn>
        <IconButton :icon="mdiKeyboardOutline" label="Give it a key" @click="giveKey(current)" />
        <IconButton :icon="mdiDeleteOutline" label="Delete the recipe" @click="here.remove(current)" />
      </div>
    </section>
  </section>
</template>

<style scoped>
.list {
  padding: 0;
}

.steps {
  margin: 0;
  padding-left: 22px;
  font-size: var(--small);
}

.wrong {
  color: rgb(var(--v-theme-error));
}

.buttons {
  flex-wrap: wrap;
  justify-content: start;
}
</style>
