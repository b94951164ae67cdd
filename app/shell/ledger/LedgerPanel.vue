<script setup lang="ts">
import { mdiMenuDown } from '@mdi/js'
import { computed } from 'vue'
import { useTransformNumbers } from './use-transform-numbers'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import BlockMenu from '~/features/blocks/BlockMenu.vue'
import LevelNumbers from './LevelNumbers.vue'
import PickedFacts from './PickedFacts.vue'
import PickedWho from './PickedWho.vue'
import PivotMenu from './PivotMenu.vue'
import TransformMenu from './TransformMenu.vue'

const level = useLevel()
const settings = useSettings()
const { axesSaid, picked, last, rows, inMetres, shared, held, commit, step, check } = useTransformNumbers()
// Where the bench shows the numbers of the picked block they are not shown twice.
const block = computed(() =>
  last.value?.blockId && !(settings.kept.bench === 'blocks' && settings.panels.showBench)
    ? level.view.blocks.get(last.value.blockId)
    : undefined,
)
</script>

<template>
  <section class="ledger" aria-label="Ledger">
    <LevelNumbers v-if="!last" />
    <template v-else>
      <PickedWho :last="last" :count="picked.length" />
      <div
        v-for="entry in rows"
        :key="entry.row"
        class="numbers"
        role="group"
        :aria-label="entry.label"
        :title="entry.row === 'size' ? undefined : axesSaid"
      >
        <p class="title">
          <v-btn
            v-if="entry.row === 'size'"
            class="link"
            variant="plain"
            title="Sizes as factors or in units of length"
            @click="settings.kept.sizeInMetres = !inMetres"
          >
            Size {{ entry.suffix }}
            <v-icon :icon="mdiMenuDown" size="14" />
          </v-btn>
          <template v-else>{{ entry.label }} {{ entry.suffix }}</template>
        </p>
        <QuantityField
          v-for="{ axis } in settings.axes.inOrder"
          :key="axis"
          :label="`${entry.label} ${'XYZ'[axis]}`"
          :axis="axis"
          :is-amount="entry.row === 'size'"
          :value="shared(entry.row, axis)"
          :quantity="entry.quantity"
          :unit="entry.unit"
          :decimals="entry.decimals"
          :check="check(entry.row)"
          :held="held(entry.row, axis)"
          operators="+*/"
          steps
          @commit="(value, typed) => commit(entry, axis, typed)"
          @step="step(entry, axis, $event)"
          @focusout="level.endJoining()"
        />
      </div>
      <PickedFacts :picked="picked" :last-id="last.id" />
      <div class="menus">
        <BlockMenu v-if="block" :block="block" />
        <PivotMenu />
        <TransformMenu :last="last" />
      </div>
    </template>
    <AskMark />
    <span class="sr" data-test="selection-count">{{ picked.length }} picked</span>
  </section>
</template>

<style scoped>
.ledger {
  container: ledger / inline-size;
  display: flex;
  align-items: center;
  gap: 10px;
  flex: none;
  height: max(calc(56px * var(--scale)), calc(15px * var(--scale) + var(--target) + 6px));
  padding: 0 12px;
  background: rgb(var(--v-theme-surface));
  border-top: 1px solid var(--line);
}

.numbers {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 1px 3px;
  flex: 0 0 calc(186px * var(--scale));
}

.numbers .title {
  grid-column: 1 / -1;
  height: calc(15px * var(--scale));
  font: 500 var(--note) / calc(15px * var(--scale)) var(--text);
  color: var(--quiet);
}

.numbers .link {
  font-size: var(--note);
  color: var(--quiet);
}

.numbers :deep(.v-input) {
  --v-input-control-height: max(calc(25px * var(--scale)), var(--target));
}

.numbers :deep(.v-field) {
  --v-field-padding-start: 4px;
  --v-field-padding-end: 2px;

  font-size: calc(11.5px * var(--scale));
  letter-spacing: -0.03em;
}

.menus {
  display: flex;
  flex: none;
  gap: 2px;
  margin-left: auto;
}

@container ledger (min-width: 88.5em) {
  .numbers {
    flex-basis: calc(216px * var(--scale));
  }
}

@container ledger (max-width: 56.9em) {
  .numbers {
    flex-basis: calc(172px * var(--scale));
    margin-right: -4px;
  }
  .numbers:nth-of-type(4) {
    flex-basis: calc(136px * var(--scale));
  }
  :deep(.who) {
    flex-basis: calc(54px * var(--scale));
    min-width: 54px;
  }
}

@container ledger (max-width: 66.2em) {
  :deep(.facts) {
    display: none;
  }
}

/* Where there is not room for all, the key says it. */
@container ledger (max-width: 43.1em) {
  .ledger > :deep(.ask-mark) {
    display: none;
  }
}
</style>
