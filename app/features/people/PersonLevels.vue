<script setup lang="ts">
import { ref } from 'vue'
import type { Account } from '~~/core/api/accounts'
import type { LevelRole } from '~~/core/api/roles'
import { LEVEL_ROLES, mayDo, ROLE_WORDS } from '~~/core/api/roles'
import type { ListedLevel } from '~~/core/api/schema'

/** In which levels somebody may do less than elsewhere. */
const props = defineProps<{ person: Account; levels: readonly ListedLevel[] }>()
const emit = defineEmits<{ close: []; save: [person: Account, levels: Account['levels']] }>()

const roles = ref(new Map(props.person.levels.map(({ level, role }) => [level, role])))
const options = [
  { value: 'same' as const, name: `${ROLE_WORDS[props.person.role]}, as elsewhere` },
  ...LEVEL_ROLES.filter(role => role === 'none' || !mayDo(role, props.person.role)).map(value => ({
    value,
    name: value === 'none' ? 'Not at all' : ROLE_WORDS[value],
  })),
]

function set(level: string, role: LevelRole | 'same'): void {
  if (role === 'same') roles.value.delete(level)
  else roles.value.set(level, role)
}

/** A level that was deleted keeps what was said of it: it may be brought back. */
function save(): void {
  emit(
    'save',
    props.person,
    [...roles.value].map(([level, role]) => ({ level, role })),
  )
  emit('close')
}
</script>

<template>
  <FormDialog
    page="together"
    model-value
    :title="`What ${person.name} may do`"
    max-width="560"
    @update:model-value="emit('close')"
  >
    <p v-if="levels.length === 0" class="quiet">There is no level yet.</p>
    <div class="list">
      <FormLine v-for="level in levels" :key="level.id" :label="level.name">
        <Choice
          :model-value="roles.get(level.id) ?? 'same'"
          :label="`Role in ${level.name}`"
          :options="options"
          @update:model-value="set(level.id, $event)"
        />
      </FormLine>
    </div>
    <template #buttons>
      <v-btn @click="emit('close')">Cancel</v-btn>
      <v-btn color="action" variant="flat" @click="save">Save</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.list {
  max-height: 50vh;
  overflow-y: auto;
}
</style>
