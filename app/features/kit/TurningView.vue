<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Mesh } from '~~/core/mesh/mesh'
import type { Picture } from '~~/core/mesh/texture'
import { decodePicture, textureImage } from '~/api/texture-images'
import { useSettings } from '~/editor/settings'
import { TurningPicture } from '~/stage/turning-picture'

/** Parts that are turned before one's eyes. */
const props = defineProps<{
  parts: readonly Mesh[]
  /** Pictures that are not stored yet. */
  pictures?: ReadonlyMap<string, Picture>
}>()
const canvas = ref<HTMLCanvasElement>()
const settings = useSettings()
let view: TurningPicture | null = null

function load(name: string): Promise<ImageBitmap> {
  const own = props.pictures?.get(name)
  return own ? decodePicture(new Blob([own.bytes as Uint8Array<ArrayBuffer>], { type: own.type })) : textureImage(name)
}

onMounted(() => {
  if (!canvas.value) return
  try {
    view = new TurningPicture(canvas.value, load, settings.movesLess)
    view.show(props.parts)
  } catch {
    // Without WebGL the numbers have to do.
  }
})
watch(
  () => props.parts,
  parts => view?.show(parts),
)
useResizeObserver(canvas, ([entry]) => {
  if (entry && entry.contentRect.width > 0) view?.resize(entry.contentRect.width, entry.contentRect.height)
})
onBeforeUnmount(() => view?.dispose())
</script>

<template>
  <canvas ref="canvas" class="turning" role="img" aria-label="How it will look; drag turns it" />
</template>

<style scoped>
.turning {
  width: 100%;
  height: 100%;
  background: rgb(var(--v-theme-picture));
  border-radius: var(--round-small);
  cursor: grab;
  touch-action: none;
}
</style>
