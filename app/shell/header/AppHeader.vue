<script setup lang="ts">
import { mdiCogOutline, mdiHelpCircleOutline, mdiWeatherNight, mdiWeatherSunny } from '@mdi/js'
import { computed } from 'vue'
import { useSettings } from '~/editor/settings'
import { useHandbook } from '~/features/handbook/handbook'
import { useSetting } from '~/features/settings/setting'

/** Without what leads elsewhere: of a window that shows a part of a level. */
defineProps<{ slim?: boolean }>()
const settings = useSettings()
const handbook = useHandbook()
const setting = useSetting()
const night = computed(() => settings.board === 'night')
</script>

<template>
  <header class="header">
    <NuxtLink v-if="!slim" to="/" class="product narrow" aria-label="Handy Grid: all levels">Handy Grid</NuxtLink>
    <slot />
    <span class="gap" />
    <IconButton
      :icon="mdiHelpCircleOutline"
      label="Handbook"
      does="Handbook"
      :pressed="handbook.isOpen"
      @click="handbook.isOpen ? handbook.close() : handbook.open()"
    />
    <IconButton
      :icon="night ? mdiWeatherSunny : mdiWeatherNight"
      :label="night ? 'Day board' : 'Night board'"
      @click="settings.kept.board = night ? 'day' : 'night'"
    />
    <IconButton :icon="mdiCogOutline" label="Settings" does="Settings …" @click="setting.open()" />
    <slot name="end" />
  </header>
</template>

<style scoped>
.header {
  display: flex;
  align-items: center;
  gap: 12px;
  flex: none;
  height: max(calc(46px * var(--scale)), calc(var(--target) + 6px));
  padding: 0 14px;
  background: rgb(var(--v-theme-header));
  color: rgb(var(--v-theme-on-header));
}

.product {
  display: flex;
  align-items: center;
  min-width: var(--target);
  min-height: var(--target);
  font-size: var(--title);
  color: inherit;
  text-decoration: none;
}

.gap {
  flex: 1;
}
</style>
