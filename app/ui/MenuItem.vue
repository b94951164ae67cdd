<script setup lang="ts">
/**
 * One thing to do in a menu, with the key that does it too, or a number that belongs to it, at its end; or one of
 * several to choose, which is checked or not.
 */
withDefaults(
  defineProps<{ title: string; end?: string; keys?: string; disabled?: boolean; checked?: boolean | null }>(),
  { checked: null },
)
</script>

<template>
  <v-list-item
    :role="checked === null ? 'menuitem' : 'menuitemradio'"
    :aria-checked="checked ?? undefined"
    :active="checked ?? undefined"
    :title="title"
    :disabled="disabled"
    :aria-disabled="disabled || undefined"
  >
    <template v-if="keys || end" #append>
      <kbd v-if="keys" class="mono quiet">{{ keys }}</kbd>
      <span v-else class="mono quiet">{{ end }}</span>
    </template>
  </v-list-item>
</template>

<style scoped>
.mono {
  font-size: var(--note);
}
</style>
