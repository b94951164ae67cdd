<script setup lang="ts">
import type { ViewKind } from '~~/core/math/pose'
import type { PaneState } from '~/editor/stage-session'
import { useStageSession } from '~/editor/stage-session'

defineProps<{
  pane: PaneState
  /** The only one shown. */
  alone: boolean
  /** Whether there is room for all names side by side. */
  wide: boolean
  /** Pixels down to where the strip over the first pane ends. */
  below: number
}>()
const session = useStageSession()
const kinds: { value: ViewKind; name: string; title: string }[] = [
  { value: 'plan', name: 'Plan', title: 'Key 7' },
  { value: 'front', name: 'Front', title: 'Key 8' },
  { value: 'side', name: 'Side', title: 'Key 9' },
  { value: 'walkaround', name: 'Walkaround', title: 'Key 6' },
]
</script>

<template>
  <div
    class="pane"
    :class="{ active: pane.active && !alone }"
    :style="{
      left: `${pane.rect.x}px`,
      top: `${pane.rect.y}px`,
      width: `${pane.rect.width}px`,
      height: `${pane.rect.height}px`,
    }"
  >
    <Segments
      v-if="alone && wide"
      data-fixture
      class="bar alone"
      :model-value="pane.kind"
      :options="kinds"
      label="View of the pane"
      @update:model-value="session.changePane({ kind: $event }, pane.pane)"
    />
    <Choice
      v-else
      data-fixture
      class="bar narrow"
      :class="{ alone }"
      :style="!alone && pane.rect.y === 0 && pane.rect.x === 0 ? { top: `${below}px` } : undefined"
      :model-value="pane.kind"
      :options="kinds"
      label="View of the pane"
      @update:model-value="session.changePane({ kind: $event }, pane.pane)"
    />
  </div>
</template>

<style scoped>
.pane {
  position: absolute;
  pointer-events: none;
}

.active {
  outline: 2px solid var(--petrol);
  outline-offset: -2px;
}

.bar {
  position: absolute;
  top: 10px;
  left: 10px;
  pointer-events: auto;
}

.bar.narrow {
  width: 108px;
}

.bar.alone {
  top: 10px;
  right: 10px;
  left: auto;
}

.bar.alone.narrow {
  --v-input-control-height: max(calc(29px * var(--scale)), var(--target));
}
</style>
