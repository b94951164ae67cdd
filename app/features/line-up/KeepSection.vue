<script setup lang="ts">
import { mdiLinkVariantOff } from '@mdi/js'
import { computed } from 'vue'
import { counted } from '~~/core/units/plural'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useKeeping } from '~/editor/keeping'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

/** What is kept of the last picked thing, and what could be. */
const keeping = useKeeping()
const level = useLevel()
const settings = useSettings()
const count = computed(() => level.selection.ids.size)
</script>

<template>
  <section aria-labelledby="keep-title" data-test="keep">
    <h3 id="keep-title">Keep</h3>
    <p class="quiet hint">
      It stays so, whatever moves that it is kept to. While a drag shows a snap,
      {{ keys.labelOf('Keep what the drag has caught') }} keeps that.
    </p>
    <p v-if="keeping.held === null" class="quiet hint">
      Pick a thing that is to stay on, flush with or between others.
    </p>
    <ul v-else class="list" aria-label="Kept">
      <li v-for="relation in keeping.own" :key="relation.id" class="kept">
        <div class="line">
          <span class="says">{{ keeping.say(relation) }}</span>
          <IconButton
            :icon="mdiLinkVariantOff"
            :size="16"
            :label="`Let go: ${keeping.say(relation)}`"
            @click="keeping.letGo([relation])"
          />
        </div>
        <FormLine v-for="number in keeping.numbersOf(relation)" :key="number.label" :label="number.label">
          <QuantityField
            :label="`${number.label}, ${keeping.say(relation)}`"
            :quantity="number.quantity"
            :unit="number.quantity === 'length' ? settings.kept.unit : undefined"
            :decimals="number.quantity === 'length' ? settings.decimals : 4"
            :suffix="number.quantity === 'length' ? settings.suffix : ''"
            :value="number.value"
            @commit="number.set($event)"
          />
        </FormLine>
      </li>
    </ul>
    <p v-if="keeping.holds.length > 0" class="quiet hint">
      Holds {{ counted(keeping.holds.length, 'thing') }}:
      <v-btn size="small" @click="level.pick(keeping.holds)">Pick</v-btn>
    </p>
    <v-btn v-if="count > 1" class="main" @click="keeping.keepOn()">Keep each on what is below</v-btn>
    <ul v-if="keeping.offers.length > 0" class="list" aria-label="What can be kept">
      <li
        v-for="(offer, i) in keeping.offers"
        :key="i"
        class="line"
        @pointerenter="keeping.pointed = offer"
        @pointerleave="keeping.pointed = null"
        @focusin="keeping.pointed = offer"
        @focusout="keeping.pointed = null"
      >
        <span class="says">{{ keeping.say(offer) }}</span>
        <v-btn size="small" :aria-label="`Keep ${keeping.say(offer)}`" @click="keeping.keep([offer], '')">Keep</v-btn>
      </li>
    </ul>
    <p v-else-if="keeping.held !== null && keeping.own.length === 0" class="quiet hint">
      It touches nothing and lies in the middle of nothing. Pick another thing with it, or set it down.
    </p>
  </section>
</template>

<style scoped>
.list {
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}

.line {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 30px;
}

.says {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}

.kept {
  padding-left: 8px;
  border-left: 3px double var(--petrol);
}
</style>
