<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ListedLevel } from '~~/core/api/schema'
import { STARTING_POINT_NAMES, STARTING_POINTS } from '~~/core/api/starting-points'
import { LONGEST_NAME } from '~~/core/units/text'
import { api, whatFailed } from '~/api/client'
import { pictureOfBeginning } from './beginning-pictures'

/** A new level: what it is called, and what it begins with. */
const props = defineProps<{ levels: readonly ListedLevel[] }>()
const isOpen = defineModel<boolean>({ required: true })
const name = ref('')
const from = ref<string>('empty')
const failed = ref('')
const isWorking = ref(false)

const beginnings = computed(() => [
  { value: 'empty', name: 'Empty', about: 'Nothing but the ground plane and its grid.', picture: undefined },
  {
    value: 'demo',
    name: 'Lantern Quay',
    about: 'A night market on a canal quay, with one of everything: for looking around.',
    picture: pictureOfBeginning('demo'),
  },
  ...STARTING_POINT_NAMES.map(value => ({ value, ...STARTING_POINTS[value], picture: pictureOfBeginning(value) })),
  ...props.levels
    .filter(({ startingPoint }) => startingPoint)
    .map(({ id, name: called, hasPicture, pictureRevision }) => ({
      value: id,
      name: called,
      about: 'A starting point of your own.',
      picture: hasPicture ? `/api/levels/${id}/picture?${pictureRevision}` : undefined,
    })),
])

watch(isOpen, () => {
  name.value = 'New level'
  from.value = 'empty'
  failed.value = ''
})

async function start(): Promise<void> {
  failed.value = ''
  isWorking.value = true
  try {
    const { id } = await api.createLevel({ name: name.value, from: from.value })
    isOpen.value = false
    await navigateTo(`/levels/${id}`)
  } catch (error) {
    failed.value = whatFailed(error)
  }
  isWorking.value = false
}
</script>

<template>
  <FormDialog page="levels" v-model="isOpen" title="New level" max-width="520">
    <v-text-field
      v-model="name"
      aria-label="Name"
      autofocus
      :maxlength="LONGEST_NAME"
      :error="Boolean(failed)"
      @focus="($event.target as HTMLInputElement).select()"
      @keydown.enter="start"
    />
    <p v-if="failed" role="alert" class="error">{{ failed }}</p>
    <v-radio-group v-model="from" class="beginnings" aria-label="What it begins with">
      <v-radio v-for="each in beginnings" :key="each.value" :value="each.value" :aria-label="each.name">
        <template #label>
          <img v-if="each.picture" class="picture" :src="each.picture" alt="" loading="lazy" />
          <span v-else class="picture" />
          <span class="what">
            <b>{{ each.name }}</b>
            <span class="quiet">{{ each.about }}</span>
          </span>
        </template>
      </v-radio>
    </v-radio-group>
    <template #buttons>
      <v-btn @click="isOpen = false">Cancel</v-btn>
      <v-btn color="action" variant="flat" :loading="isWorking" @click="start">Start level</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.beginnings {
  max-height: 60vh;
  overflow-y: auto;
}

.picture {
  flex: none;
  width: 88px;
  height: 55px;
  margin: 3px 10px 3px 2px;
  object-fit: cover;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
}

.what {
  display: flex;
  flex-direction: column;
  padding: 3px 0;
  color: var(--ink);
}

.what .quiet {
  font-size: var(--small);
}
</style>
