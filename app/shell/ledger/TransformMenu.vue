<script setup lang="ts">
import { mdiArrowCollapseDown, mdiDotsHorizontal } from '@mdi/js'
import { computed } from 'vue'
import type { Placement } from '~~/core/level/schema'
import { useEdits } from '~/editor/edits'
import { useBaking } from '~/editor/baking'
import { useDuplicating } from '~/features/repeat/duplicating'
import { usePartMaking } from '~/features/kit/part-making'
import { useShaping } from '~/features/transform/shaping'
import { useReserving } from '~/features/people/reserving'
import { useFacing } from '~/features/line-up/facing'
import { useSockets } from '~/features/kit/sockets'
import { useSwapping } from '~/features/kit/swapping'
import { useWorkshop } from '~/features/kit/workshop'

const props = defineProps<{ last: Placement }>()
const baking = useBaking()
const shaping = useShaping()
const facing = useFacing()
const making = usePartMaking()
const workshop = useWorkshop()
const duplicating = useDuplicating()
const swapping = useSwapping()
const sockets = useSockets()
const edits = useEdits()
const reserving = useReserving()
const isOpenGroup = computed(() => 'open' in props.last.own && props.last.own.open === true)
</script>

<template>
  <IconButton
    :icon="mdiArrowCollapseDown"
    label="Set down onto what is below"
    does="Set down"
    @click="facing.setDownPicked()"
  />
  <v-menu location="top end">
    <template #activator="{ props: activator }">
      <IconButton v-bind="activator" :icon="mdiDotsHorizontal" label="More for what is picked" />
    </template>
    <MenuList label="For what is picked">
      <MenuItem
        v-if="last.kind === 'group'"
        title="A click picks what is inside"
        :subtitle="isOpenGroup ? 'the group is open' : 'now it picks the group'"
        :active="isOpenGroup"
        @click="edits.setOpen(last.id, !isOpenGroup)"
      />
      <MenuItem
        title="Reserve for yourself"
        subtitle="others are asked before they change it"
        :active="reserving.isPickedReserved"
        @click="reserving.togglePicked()"
      />
      <MenuItem title="Save as a part …" subtitle="goes into the kit" @click="making.ask()" />
      <MenuItem title="Swap for another part …" subtitle="keeps place, turn and size" @click="swapping.start()" />
      <MenuItem
        v-if="last.partId !== null"
        title="Edit the part"
        subtitle="all its instances follow"
        @click="workshop.open(last.partId, last.id)"
      />
      <MenuItem
        v-if="last.partId !== null"
        title="Sockets of the part …"
        subtitle="where others connect"
        @click="sockets.partId = last.partId"
      />
      <MenuItem
        v-if="last.partId !== null"
        title="Make independent"
        subtitle="a part of its own"
        @click="duplicating.makeIndependent()"
      />
      <MenuItem title="Copy position, turn and size" @click="shaping.copyTransform()" does="Copy the transform" />
      <MenuItem
        title="Paste position, turn and size"
        :subtitle="shaping.copied ? `of ${shaping.copied.from}` : 'nothing copied yet'"
        :disabled="!shaping.copied"
        @click="shaping.pasteTransform()"
        does="Paste the transform"
      />
      <MenuItem title="Reset turn" @click="baking.bakeQuestion = { what: 'reset-turn' }" />
      <MenuItem title="Reset size" @click="baking.bakeQuestion = { what: 'reset-size' }" />
      <MenuItem
        title="Bake …"
        subtitle="folds size or turn into the shape"
        @click="baking.bakeQuestion = { what: 'both' }"
      />
    </MenuList>
  </v-menu>
</template>
