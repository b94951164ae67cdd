<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp } from '@mdi/js'
import { useCameras } from './cameras'

/** The order in which cameras are shown, and for how long. */
const cameras = useCameras()
const check = (value: number) => (value >= 0.1 && value <= 3600 ? null : 'A shot lasts from 0.1 s to an hour.')
</script>

<template>
  <section class="form-part" aria-label="Cut list">
    <h3>
      Cut list
      <span class="mono quiet">{{ cameras.cut.reduce((sum, { own }) => sum + own.cut!.seconds, 0).toFixed(1) }} s</span>
    </h3>
    <p v-if="cameras.cut.length === 0" class="quiet hint">Put cameras into it, in the form of each.</p>
    <div
      v-for="(camera, i) in cameras.cut"
      :key="camera.id"
      class="line shot"
      :class="{ current: cameras.playing === camera.id }"
    >
      <v-btn class="link name" variant="plain" @click="cameras.lookThrough(camera.id)">
        {{ i + 1 }}. {{ camera.name }}
      </v-btn>
      <QuantityField
        :label="`Seconds of ${camera.name}`"
        quantity="factor"
        suffix="s"
        :decimals="1"
        :value="camera.own.cut!.seconds"
        :check="check"
        @commit="cameras.setSeconds(camera.id, $event)"
      />
      <IconButton
        :size="13"
        :icon="mdiArrowUp"
        :label="`${camera.name} earlier`"
        :disabled="i === 0"
        @click="cameras.moveInCut(camera.id, -1)"
      />
      <IconButton
        :size="13"
        :icon="mdiArrowDown"
        :label="`${camera.name} later`"
        :disabled="i === cameras.cut.length - 1"
        @click="cameras.moveInCut(camera.id, 1)"
      />
    </div>
    <v-btn :disabled="cameras.cut.length === 0" @click="cameras.isPlaying ? cameras.stop() : cameras.play()">
      {{ cameras.isPlaying ? 'Stop' : 'Play the cut list' }}
    </v-btn>
  </section>
</template>

<style scoped>
.shot {
  gap: 1px;
}

.name.name {
  flex: 1;
  justify-content: start;
  min-width: 0;
  overflow: hidden;
}

.shot :deep(.field) {
  width: 54px;
}

.current {
  box-shadow: inset 3px 0 var(--picked);
}
</style>
