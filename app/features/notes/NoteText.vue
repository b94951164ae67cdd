<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { answerFieldsSchema, LONGEST_NOTE } from '~~/core/level/notes'

/** A text that is written: taken by its button or Ctrl and Enter, given up by Escape. */
const props = defineProps<{ label: string; button: string; text?: string }>()
const emit = defineEmits<{ write: [text: string]; cancel: [] }>()
const text = ref(props.text ?? '')
const wrong = ref('')
const field = ref<{ focus: () => void }>()
onMounted(() => field.value?.focus())

function write(): void {
  wrong.value = answerFieldsSchema.shape.text.safeParse(text.value).error?.issues[0]?.message ?? ''
  if (wrong.value) return
  // It stays as long as it was not taken.
  emit('write', text.value)
}
</script>

<template>
  <form class="writing" :aria-label="label" @submit.prevent="write">
    <v-textarea
      ref="field"
      v-model="text"
      :aria-label="label"
      :placeholder="label"
      rows="2"
      auto-grow
      max-rows="8"
      :maxlength="LONGEST_NOTE"
      :error="Boolean(wrong)"
      hide-details
      @keydown.ctrl.enter.prevent="write"
      @keydown.meta.enter.prevent="write"
      @keydown.esc.stop="emit('cancel')"
    />
    <p v-if="wrong" role="alert" class="error">The text {{ wrong }}.</p>
    <div class="buttons">
      <v-btn @click="emit('cancel')">Cancel</v-btn>
      <v-btn type="submit" color="action" variant="flat" :disabled="text.trim() === ''">{{ button }}</v-btn>
    </div>
  </form>
</template>
