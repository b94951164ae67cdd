<script setup lang="ts">
import { mdiAlertOutline, mdiClose } from '@mdi/js'
import { onMounted } from 'vue'
import { useCameras } from './cameras'
import { useMarking } from './marking'

/** A small picture of what each camera sees; a click looks through it. */
const cameras = useCameras()
const marking = useMarking()
onMounted(() => void cameras.takePictures())
</script>

<template>
  <section class="strip" data-fixture aria-label="Picture strip">
    <div class="shots">
      <p v-if="cameras.cameras.length === 0" class="quiet none">
        No camera yet.
        <v-btn class="link" variant="plain" @click="marking.cameraHere()">Put one at this view</v-btn>
      </p>
      <v-btn
        v-for="camera in cameras.cameras"
        :key="camera.id"
        class="shot"
        variant="text"
        stacked
        :aria-pressed="cameras.throughActive === camera.id"
        :class="{ current: cameras.throughActive === camera.id }"
        :title="
          cameras.blocked.get(camera.id)
            ? `${cameras.blocked.get(camera.id)} is right before ${camera.name}`
            : camera.name
        "
        @click="cameras.throughActive === camera.id ? cameras.lookFree() : cameras.lookThrough(camera.id)"
      >
        <img
          v-if="cameras.pictures.get(camera.id)"
          :src="cameras.pictures.get(camera.id)"
          :alt="`What ${camera.name} sees`"
          height="64"
        />
        <span v-else class="blank" />
        <span class="name">
          <v-icon
            v-if="cameras.blocked.get(camera.id)"
            :icon="mdiAlertOutline"
            size="13"
            aria-label="Its view is blocked"
          />
          {{ camera.name }}
        </span>
      </v-btn>
    </div>
    <IconButton
      class="close"
      :icon="mdiClose"
      :size="14"
      label="Put the picture strip away"
      @click="cameras.showStrip = false"
    />
  </section>
</template>

<style scoped>
.strip {
  position: absolute;
  z-index: 3;
  right: 118px;
  bottom: 40px;
  left: 10px;
  width: fit-content;
  max-width: calc(100% - 128px);
  padding: 6px 28px 6px 6px;
  background: rgba(var(--v-theme-surface), 0.94);
  border: 1px solid var(--line);
  border-radius: var(--round);
}

.shots {
  display: flex;
  gap: 5px;
  overflow-x: auto;
  scrollbar-width: thin;
}

.shot.shot {
  flex: none;
  height: auto;
  padding: 2px;
  border: 2px solid transparent;
}

.shot img,
.blank {
  display: block;
  border-radius: 3px;
}

.blank {
  width: 113px;
  height: 64px;
  background: rgb(var(--v-theme-background));
}

.current.current {
  border-color: var(--picked);
}

.name {
  max-width: 130px;
  padding-top: 3px;
  overflow: hidden;
  font-size: var(--note);
  text-overflow: ellipsis;
  white-space: nowrap;
}

.none {
  padding: 8px 12px;
}

.close {
  position: absolute;
  top: 3px;
  right: 3px;
}
</style>
