<script setup lang="ts">
import { computed, ref } from 'vue'
import { useCameras } from './cameras'
import { useMarking } from './marking'
import { LONGEST_SIDE, useStills } from './stills'

/** How large pictures are, and what is in them. */
const isOpen = defineModel<boolean>({ required: true })
const cameras = useCameras()
const marking = useMarking()
const stills = useStills()
const width = ref(1920)
const grid = ref(false)
const marks = ref(false)
const one = computed(
  () => cameras.cameras.find(({ id }) => id === (marking.camera?.id ?? cameras.throughActive)) ?? null,
)
const size = computed(() => stills.sizeOf(one.value ?? cameras.cameras[0]!, width.value))
const check = (value: number) =>
  !Number.isInteger(value) || value < 16
    ? 'At least 16 whole pixels.'
    : value > LONGEST_SIDE
      ? `At most ${LONGEST_SIDE} pixels.`
      : null

async function take(all: boolean): Promise<void> {
  await stills.take(all ? cameras.cameras : one.value!, { width: width.value, grid: grid.value, marks: marks.value })
  isOpen.value = false
}
</script>

<template>
  <FormDialog page="cameras-and-lights" v-model="isOpen" title="Take pictures" max-width="420">
    <NumberLine
      label="Width"
      named="Width of the picture"
      suffix="px"
      :decimals="0"
      :value="width"
      :check="check"
      @commit="width = $event"
    />
    <p v-if="cameras.cameras.length > 0" class="quiet">
      {{ one ? one.name : 'The first camera' }}:
      <span class="mono">{{ size.width }} × {{ size.height }},</span>
      as PNG
    </p>
    <Tick v-model="grid" label="With the grid" />
    <Tick v-model="marks" label="With marks" />
    <p v-if="stills.progress" role="status">Taking {{ stills.progress.done + 1 }} of {{ stills.progress.of }} …</p>
    <template #buttons>
      <v-btn @click="isOpen = false">Cancel</v-btn>
      <v-btn :disabled="stills.progress !== null" @click="take(true)">All {{ cameras.cameras.length }} as a ZIP</v-btn>
      <v-btn color="action" variant="flat" :disabled="!one || stills.progress !== null" @click="take(false)">
        {{ one ? `Take ${one.name}` : 'Pick a camera' }}
      </v-btn>
    </template>
  </FormDialog>
</template>
