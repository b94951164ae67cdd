<script setup lang="ts">
import {
  mdiClose,
  mdiEyeOff,
  mdiEyeOutline,
  mdiHandBackLeft,
  mdiHandBackLeftOutline,
  mdiLock,
  mdiLockOpenVariantOutline,
  mdiPlus,
  mdiTrayArrowDown,
} from '@mdi/js'
import { computed } from 'vue'
import { nameSchema } from '~~/core/level/fields'
import { useEdits } from '~/editor/edits'
import { useLevel } from '~/editor/level'
import { usePeople } from '~/features/people/people'
import { useReserving } from '~/features/people/reserving'

const level = useLevel()
const edits = useEdits()
const people = usePeople()
const reserving = useReserving()
const layers = computed(() => {
  return [...level.view.layers.values()].sort((a, b) => a.order - b.order)
})

const checkName = (text: string) => (nameSchema.safeParse(text).success ? null : 'This is no name.')
</script>

<template>
  <section class="layers" aria-labelledby="layers-title">
    <h3 id="layers-title">
      Layers
      <IconButton :icon="mdiPlus" label="Add a layer" @click="edits.addLayer()" />
    </h3>
    <div v-for="layer in layers" :key="layer.id" class="row">
      <ColorBox
        :value="layer.color"
        :size="14"
        :label="`Colour of ${layer.name}`"
        @commit="edits.changeLayer(layer.id, { color: $event })"
      />
      <TextBox
        bare
        :value="layer.name"
        :label="`Name of ${layer.name}`"
        :check="checkName"
        @commit="edits.changeLayer(layer.id, { name: $event.trim() })"
      />
      <IconButton
        :size="15"
        :icon="mdiTrayArrowDown"
        :disabled="level.selection.ids.size === 0"
        :label="`Put what is picked on ${layer.name}`"
        @click="edits.putOnLayer(layer.id)"
      />
      <IconButton
        :size="15"
        :icon="layer.visible ? mdiEyeOutline : mdiEyeOff"
        :label="`${layer.visible ? 'Hide' : 'Show'} layer ${layer.name}`"
        @click="edits.changeLayer(layer.id, { visible: !layer.visible })"
      />
      <IconButton
        :size="15"
        :icon="layer.locked ? mdiLock : mdiLockOpenVariantOutline"
        :label="`${layer.locked ? 'Unlock' : 'Lock'} layer ${layer.name}`"
        @click="edits.changeLayer(layer.id, { locked: !layer.locked })"
      />
      <IconButton
        :size="15"
        :icon="people.holderOf(layer.id) ? mdiHandBackLeft : mdiHandBackLeftOutline"
        :label="`${people.holderOf(layer.id)?.says ?? 'Reserve'}: layer ${layer.name}`"
        @click="reserving.toggle([layer.id])"
      />
      <IconButton
        :size="15"
        :icon="mdiClose"
        :label="`Remove layer ${layer.name}`"
        @click="edits.removeLayer(layer.id)"
      />
    </div>
    <p v-if="layers.length === 0" class="quiet">None yet.</p>
  </section>
</template>

<style scoped>
.layers {
  flex: none;
  max-height: 34%;
  padding: 6px 10px 8px 12px;
  overflow: auto;
  border-top: 1px solid var(--line);
}

h3 {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.row {
  display: flex;
  align-items: center;
  min-height: 26px;
}

/* With buttons for fingers a layer takes two lines. */
[data-hand='finger'] .layers {
  padding-inline: 0;
}

[data-hand='finger'] h3,
[data-hand='finger'] .row > :deep(.color-box) {
  margin-left: 10px;
}

[data-hand='finger'] .row {
  flex-wrap: wrap;
}

[data-hand='finger'] .row > :deep(.text-box) {
  flex: 1 0 calc(100% - var(--target));
}
</style>
