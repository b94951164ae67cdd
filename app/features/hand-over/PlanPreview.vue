<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { onBeforeUnmount, ref, watch } from 'vue'
import { whatFailed } from '~/api/client'
import { useHandingOver } from './handing-over'

/** The sheet as it would be printed, drawn anew after each choice. */
const handing = useHandingOver()
const address = ref('')
const failed = ref('')
const isDrawing = ref(false)
let gone: AbortController | null = null

const draw = useDebounceFn(async () => {
  gone?.abort()
  const mine = (gone = new AbortController())
  failed.value = ''
  isDrawing.value = true
  try {
    const sheet = await handing.preview(mine.signal)
    if (mine !== gone) return
    forget()
    if (sheet) address.value = URL.createObjectURL(sheet)
  } catch (error) {
    if (mine.signal.aborted) return
    failed.value = whatFailed(error)
  }
  isDrawing.value = false
}, 250)

function forget(): void {
  if (address.value) URL.revokeObjectURL(address.value)
  address.value = ''
}

watch(
  () => (handing.wrong === null ? JSON.stringify(handing.query) : null),
  query => query !== null && void draw(),
  { immediate: true },
)
onBeforeUnmount(() => {
  gone?.abort()
  forget()
})
</script>

<template>
  <div class="paper">
    <img v-if="address" :src="address" alt="The plan sheet as it would be printed" data-test="plan-preview" />
    <v-progress-circular v-if="isDrawing" class="wait" indeterminate color="primary" aria-label="Drawing the sheet" />
    <p v-if="failed" role="alert" class="error">{{ failed }}</p>
  </div>
</template>

<style scoped>
.paper {
  position: relative;
  display: flex;
  align-items: center;
  justify-content: center;
  min-height: 220px;
  max-height: 330px;
  padding: 8px;
  background: rgb(var(--v-theme-rail));
  border-radius: var(--round-small);
}

img {
  max-width: 100%;
  max-height: 314px;
  box-shadow: 0 1px 4px rgb(0 0 0 / 30%);
}

.wait {
  position: absolute;
}
</style>
