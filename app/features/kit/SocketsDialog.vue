<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed, ref } from 'vue'
import { socketSchema } from '~~/core/level/part'
import { LEVEL_AXES } from '~~/core/units/height'
import type { Vec3 } from '~~/core/math/vectors'
import { useSettings } from '~/editor/settings'
import { useSockets } from './sockets'
import { useTools } from '~/editor/tools'

const sockets = useSockets()
const tools = useTools()
const failed = ref<string | null>(null)
const settings = useSettings()
const ways = computed(() =>
  settings.axes.inOrder.flatMap(({ axis, letter, sign }) =>
    (['+', '-'] as const).map(way => ({
      name: `${way}${letter}`,
      direction: LEVEL_AXES.map(each => (each === axis ? sign * (way === '+' ? 1 : -1) : 0)),
    })),
  ),
)
const nameOf = (own: readonly number[]) =>
  ways.value.find(({ direction }) => direction.every((value, axis) => value === own[axis]))?.name ?? 'as clicked'
const directions = computed(() => (own: readonly number[]) => [
  ...(nameOf(own) === 'as clicked' ? [{ value: 'as clicked', name: 'as clicked' }] : []),
  ...ways.value.map(({ name }) => ({ value: name, name })),
])
const wrong = computed(
  () =>
    failed.value
    ?? sockets.sockets
      .map(socket => socketSchema.safeParse(socket).error?.issues[0])
      .filter(issue => issue !== undefined)
      .map(({ path, message }) => `${path.join('.')} ${message}.`)[0]
    ?? null,
)

function turn(index: number, name: string): void {
  const found = ways.value.find(each => each.name === name)
  if (found) sockets.change(index, { direction: found.direction as Vec3 })
}

async function save(): Promise<void> {
  failed.value = await sockets.save()
}
</script>

<template>
  <FormDialog
    page="your-own-parts"
    :model-value="sockets.isShown"
    :title="`Sockets of ${sockets.part?.name ?? ''}`"
    max-width="620"
    @update:model-value="sockets.isShown && sockets.close()"
  >
    <p class="quiet">
      Where others connect: ends of the same kind click together while they are moved or placed, pointing against each
      other.
    </p>
    <ul class="list" aria-label="Sockets">
      <li v-for="(socket, i) in sockets.sockets" :key="i">
        <TextBox
          :value="socket.name"
          :label="`Name of socket ${i + 1}`"
          @commit="sockets.change(i, { name: $event })"
        />
        <TextBox
          :value="socket.kind"
          :label="`Kind of socket ${i + 1}`"
          @commit="sockets.change(i, { kind: $event })"
        />
        <Choice
          :model-value="nameOf(socket.direction)"
          :options="directions(socket.direction)"
          :label="`Direction of socket ${i + 1}`"
          @update:model-value="turn(i, $event)"
        />
        <span class="mono quiet">{{ socket.at.map(value => tools.printLength(value)).join(' ') }}</span>
        <IconButton :icon="mdiClose" :label="`Remove socket ${i + 1}`" @click="sockets.remove(i)" />
      </li>
    </ul>
    <p v-if="sockets.sockets.length === 0" class="quiet">None yet.</p>
    <p v-if="sockets.kinds.length > 0" class="quiet">Kinds there are: {{ sockets.kinds.join(', ') }}</p>
    <v-btn @click="sockets.clickPoint()">Put one by clicking on the stage</v-btn>
    <p v-if="wrong" role="alert" class="error">{{ wrong }}</p>
    <template #buttons>
      <v-btn @click="sockets.close()">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="Boolean(wrong)" @click="save">Save</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.list {
  padding: 0;
  list-style: none;
}

.list li {
  display: grid;
  grid-template-columns: 1fr 1fr 100px auto auto;
  gap: 6px;
  align-items: center;
  padding: 3px 0;
}
</style>
