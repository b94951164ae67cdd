<script setup lang="ts">
import { useCameras } from '~/features/cameras/cameras'
import { useModes } from '~/editor/modes'
import { useFirstUse } from './first-use'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

const modes = useModes()
const cameras = useCameras()
const firstUse = useFirstUse()
</script>

<template>
  <div
    v-if="modes.told.length > 0 || modes.justDropped"
    class="banner"
    :class="{ raised: cameras.showStrip }"
    data-fixture
    role="status"
    data-test="modes"
  >
    <span>{{ [...modes.told, ...(modes.justDropped ? [`Dropped: ${modes.justDropped}`] : [])].join(' · ') }}</span>
    <v-btn v-if="modes.justDropped" variant="text" @click="modes.bringBack()">
      Bring it back
      <KeyCap does="Undo" />
    </v-btn>
    <template v-if="modes.work">
      <v-btn v-if="modes.work.keep" variant="text" :title="`Keeps ${modes.work.what}`" @click="modes.done()">
        Done
        <KeyCap does="Finish what is drawn" />
      </v-btn>
      <v-btn variant="text" :title="`Drops ${modes.work.what}; undo brings it back`" @click="modes.escape()">
        Drop
        <KeyCap does="Back to plain picking" />
      </v-btn>
    </template>
    <v-btn v-else-if="modes.told.length > 0" variant="text" @click="modes.escape()">
      End
      <KeyCap does="Back to plain picking" />
    </v-btn>
  </div>
  <p v-if="firstUse" class="first-use" :class="{ raised: cameras.showStrip }" role="status" data-test="first-use">
    {{ keys.said(firstUse) }}
  </p>
</template>

<style scoped>
.banner {
  position: absolute;
  z-index: 4;
  bottom: 46px;
  left: 50%;
  display: flex;
  gap: 14px;
  padding: 5px 8px 5px 14px;
  transform: translateX(-50%);
  border-radius: 16px;
  background: var(--picked);
  color: rgb(var(--v-theme-on-picked));
  font-weight: 600;
  white-space: nowrap;
}

/* Over the banner, and in nobody's way. */
.first-use {
  position: absolute;
  z-index: 4;
  bottom: 82px;
  left: 50%;
  width: max-content;
  max-width: 80%;
  padding: 4px 12px;
  transform: translateX(-50%);
  border-radius: var(--round-small);
  background: rgb(var(--v-theme-slate));
  color: rgb(var(--v-theme-on-slate));
  font-size: var(--body);
  pointer-events: none;
}

.first-use.raised {
  bottom: 190px;
}

/* Above the picture strip. */
.banner.raised {
  bottom: 154px;
}

.banner .v-btn {
  --v-btn-height: max(calc(20px * var(--scale)), var(--target));

  border: 1px solid currentcolor;
  border-radius: 10px;
}
</style>
