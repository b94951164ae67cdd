<script setup lang="ts">
/**
 * One thing to do in a menu, with the key that does it too, or a number that belongs to it, at its end; or one of
 * several to choose, which is checked or not.
 */
withDefaults(
  defineProps<{
    title: string
    end?: string
    /** The action that it is, whose key is shown. */
    does?: string
    disabled?: boolean
    checked?: boolean | null
    /** Whether a star makes it a favourite. */
    starred?: boolean
  }>(),
  { end: undefined, does: undefined, checked: null },
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
    <template v-if="$slots.prepend" #prepend><slot name="prepend" /></template>
    <template v-if="does || end" #append>
      <StarMark v-if="does && starred" :does="does" />
      <KeyCap v-if="does" class="quiet" :does="does" />
      <span v-if="end" class="mono quiet">{{ end }}</span>
    </template>
  </v-list-item>
</template>

<style scoped>
.mono {
  font-size: var(--note);
}
</style>
