<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { PartUses } from '~~/core/api/schema'
import type { Part } from '~~/core/level/part'
import { partSize } from '~~/core/level/part'
import { nameSchema } from '~~/core/level/fields'
import { picturesOf } from '~~/core/mesh/mesh'
import { api } from '~/api/client'
import { usePartFields } from './use-part-fields'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useTools } from '~/editor/tools'
import { useWorkshop } from './workshop'
import { orNothing } from '~/errors/or-nothing'
import { counted } from '~~/core/units/plural'
import { instancesOf } from '~~/core/level/find'
import PartFields from './PartFields.vue'
import TurningView from './TurningView.vue'

/** All there is to know about a part, and what can be changed of it. */
const props = defineProps<{ part: Part | null }>()
const emit = defineEmits<{ close: []; remove: [part: Part] }>()
const kit = useKit()
const level = useLevel()
const tools = useTools()
const workshop = useWorkshop()
const { fields, wrong: wrongFields, ready } = usePartFields()
const kitName = ref('')
const failed = ref<string | null>(null)
const uses = shallowRef<PartUses | null>(null)
watch(
  () => props.part?.id,
  async () => {
    const { part } = props
    uses.value = null
    failed.value = null
    if (!part) return
    Object.assign(fields, { name: part.name, kind: part.kind, tags: part.tags.join(', ') })
    kitName.value = part.kit
    const found = await api.usesOfPart(part.id).catch(orNothing)
    if (props.part?.id === part.id) uses.value = found
  },
  { immediate: true },
)

const mesh = computed(() => (props.part ? kit.solid(props.part.id)?.mesh : undefined))
const materials = computed(() => [
  ...new Set(mesh.value?.primitives.map(({ material }) => material.name || 'without a name')),
])
const textures = computed(() => (mesh.value ? picturesOf(mesh.value).size : 0))
const wrong = computed(() => {
  const kitWrong = nameSchema.safeParse(kitName.value).error?.issues[0]?.message
  return failed.value ?? wrongFields.value ?? (kitWrong === undefined ? null : `The name of the kit ${kitWrong}.`)
})
const isUsed = computed(() => (uses.value?.levels.length ?? 0) + (uses.value?.parts.length ?? 0) > 0)

async function save(): Promise<void> {
  const { part } = props
  if (!part || wrong.value) return
  const changed = { ...ready.value, kit: kitName.value.trim() }
  failed.value = await kit.attempt(() => kit.patch(part.id, changed))
  if (failed.value === null) emit('close')
}

function open(): void {
  if (props.part) void workshop.open(props.part.id, instancesOf(level.view, props.part.id)[0] ?? null)
}
</script>

<template>
  <FormDialog
    page="your-own-parts"
    :model-value="part !== null"
    :title="part?.name ?? ''"
    max-width="680"
    @update:model-value="emit('close')"
  >
    <div v-if="part" class="columns">
      <div class="left">
        <div class="picture"><TurningView v-if="mesh" :parts="[mesh]" /></div>
        <p class="mono">
          {{
            partSize(part)
              .map(side => tools.printLength(side))
              .join(' × ')
          }}
        </p>
        <p>
          <span class="mono">{{ part.triangles.toLocaleString('en') }}</span>
          triangles · {{ counted(textures, 'texture') }}
        </p>
        <p>
          {{ counted(materials.length, 'material') }}:
          <span class="quiet">{{ materials.slice(0, 6).join(', ') }}</span>
        </p>
        <p>
          {{ part.sockets.length === 0 ? 'No sockets' : `${part.sockets.length} sockets:` }}
          <span class="quiet">{{ part.sockets.map(socket => `${socket.name} (${socket.kind})`).join(', ') }}</span>
        </p>
      </div>
      <div class="right">
        <PartFields v-model="fields" @enter="save">
          <FormLine label="Kit">
            <v-combobox v-model="kitName" :items="kit.kits" aria-label="Kit of the part" />
          </FormLine>
        </PartFields>
        <h3>Where it is used</h3>
        <p v-if="!uses" class="quiet">Being looked for …</p>
        <p v-else-if="!isUsed" class="quiet">Nowhere: it can be deleted.</p>
        <ul v-else class="uses" aria-label="Where it is used">
          <li v-for="each in uses.levels" :key="each.id">
            <NuxtLink :to="`/levels/${each.id}`">{{ each.name }}</NuxtLink>
            <span class="mono quiet">{{ each.placements }}</span>
          </li>
          <li v-for="each in uses.parts" :key="each.id">
            <span>in the part {{ each.name }}</span>
            <span class="mono quiet">{{ each.placements }}</span>
          </li>
        </ul>
      </div>
    </div>
    <p v-if="wrong" role="alert" class="error">{{ wrong }}</p>
    <template #buttons>
      <v-btn
        v-if="part"
        :disabled="isUsed"
        :title="isUsed ? 'Swap it for another part first, where it is used' : ''"
        @click="emit('remove', part)"
      >
        Delete
      </v-btn>
      <v-btn @click="open">Edit the part</v-btn>
      <v-btn @click="emit('close')">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="Boolean(wrong)" @click="save">Save</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 240px 1fr;
  gap: 18px;
}

.left,
.right {
  display: flex;
  flex-direction: column;
  gap: 7px;
  min-width: 0;
}

.picture {
  height: 200px;
}

.uses {
  max-height: 130px;
  padding: 0;
  overflow: auto;
  list-style: none;
}

.uses li {
  display: flex;
  justify-content: space-between;
}
</style>
