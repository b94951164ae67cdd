<script setup lang="ts">
import { mdiLinkVariant, mdiLinkVariantPlus } from '@mdi/js'
import { computed } from 'vue'
import type { Measure } from '~~/core/level/schema'
import { keptOfTape, tapeOffers } from '~~/core/relate/tape'
import { useKeeping } from '~/editor/keeping'
import { useLevel } from '~/editor/level'

/** The menu by which a tape's last length is kept, or let go of. */
const props = defineProps<{ tape: Measure }>()
const level = useLevel()
const keeping = useKeeping()
const kept = computed(() => keptOfTape(level.view, props.tape))
const offers = computed(() => tapeOffers(level.view, props.tape))
</script>

<template>
  <v-menu location="bottom end">
    <template #activator="{ props: menu }">
      <IconButton
        v-bind="menu"
        :size="14"
        :icon="kept ? mdiLinkVariant : mdiLinkVariantPlus"
        :pressed="kept !== null"
        :label="kept ? `${tape.name} is kept` : `Keep ${tape.name}`"
      />
    </template>
    <MenuList :label="`Keep ${tape.name}`">
      <MenuItem
        v-if="kept"
        title="Let go"
        :subtitle="`${keeping.nameOf(kept.held)} ${keeping.say(kept)}`"
        @click="keeping.letGo([kept])"
      />
      <MenuItem v-else-if="typeof offers === 'string'" title="It cannot be kept" :subtitle="offers" disabled />
      <template v-else>
        <MenuItem
          v-for="offer in offers"
          :key="keeping.say(offer)"
          :title="`Keep ${keeping.say(offer)}`"
          :subtitle="`${keeping.nameOf(offer.held)} follows`"
          @click="keeping.keep([offer], '')"
        />
      </template>
    </MenuList>
  </v-menu>
</template>
