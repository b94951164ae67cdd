<script setup lang="ts">
import 'splitpanes/dist/splitpanes.css'
import { useElementSize } from '@vueuse/core'
import { Pane, Splitpanes } from 'splitpanes'
import { computed, ref, watch } from 'vue'

/** A panel of a width that can be dragged, beside the rest. */
const props = defineProps<{
  side: 'left' | 'right'
  open: boolean
  /** Pixels. */
  width: number
  least: number
  most: number
  label: string
}>()
const emit = defineEmits<{ 'update:width': [width: number] }>()
const room = ref<HTMLElement>()
const { width: whole } = useElementSize(room)
const share = (pixels: number) => (whole.value > 0 ? Math.min((pixels / whole.value) * 100, 100) : 0)
const size = computed(() => (!props.open ? 0 : share(Math.min(Math.max(props.width, props.least), props.most))))

/**
 * The border is a control of its own for assistive technology; its package says neither what it is nor how far along.
 */
function nameBorder(): void {
  const border = room.value?.querySelector(':scope > .splitpanes > .splitpanes__splitter')
  const values = {
    'aria-label': props.label,
    'aria-valuenow': props.width,
    'aria-valuemin': props.least,
    'aria-valuemax': props.most,
  }
  for (const [name, value] of Object.entries(values)) border?.setAttribute(name, String(value))
}
watch(() => props.width, nameBorder)

function resized({ event, panes }: { event?: Event; panes: { size: number }[] }): void {
  // Panes that come and go share the room among them first, which is no width that anybody wanted.
  if (!event || !props.open || panes.length < 2) return
  const width = Math.round((panes[props.side === 'left' ? 0 : 1]!.size * whole.value) / 100)
  if (width !== props.width) emit('update:width', width)
}
</script>

<template>
  <div ref="room" class="room">
    <Splitpanes
      v-if="whole > 0"
      :dbl-click-splitter="false"
      @ready="nameBorder"
      @pane-add="nameBorder"
      @resized="resized"
    >
      <Pane v-if="open && side === 'left'" :size="size" :min-size="share(least)" :max-size="share(most)">
        <slot name="panel" />
      </Pane>
      <Pane :size="100 - size"><slot /></Pane>
      <Pane v-if="open && side === 'right'" :size="size" :min-size="share(least)" :max-size="share(most)">
        <slot name="panel" />
      </Pane>
    </Splitpanes>
  </div>
</template>

<style scoped>
.room {
  flex: 1;
  min-width: 0;
  min-height: 0;
}

/* The border of the panel is taken hold of, a little to either side. */
.room :deep(> .splitpanes > .splitpanes__splitter) {
  position: relative;
  z-index: 3;
  width: 7px;
  margin: 0 -3px;
}

.room :deep(> .splitpanes > .splitpanes__splitter:hover) {
  background: rgba(var(--v-theme-primary), 0.25);
}

.room :deep(.splitpanes__pane) {
  transition: none;
}
</style>
