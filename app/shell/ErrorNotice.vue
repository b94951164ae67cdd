<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { ref, watch } from 'vue'
import { unexpected } from '~/errors/page-errors'

/** Says that something failed that should not have, whatever it was. */
const copied = ref<'no' | 'yes' | 'failed'>('no')
watch(unexpected, () => (copied.value = 'no'))

async function copy(): Promise<void> {
  copied.value = await navigator.clipboard.writeText(unexpected.value!.details).then(
    () => 'yes' as const,
    () => 'failed' as const,
  )
}

function reload(): void {
  location.reload()
}
</script>

<template>
  <v-alert
    v-if="unexpected"
    class="notice-box"
    role="alert"
    data-test="error-notice"
    closable
    :close-icon="mdiClose"
    close-label="Close"
    title="Something went wrong here; your work is kept"
    @click:close="unexpected = null"
  >
    <p>What you do goes on being saved. If something looks wrong now, load the page again.</p>
    <p v-if="copied === 'failed'" class="details mono">{{ unexpected.details }}</p>
    <v-btn color="action" variant="flat" @click="reload">Load again</v-btn>
    <v-btn variant="text" @click="copy">{{ copied === 'yes' ? 'Copied' : 'Copy the details' }}</v-btn>
  </v-alert>
</template>

<style scoped>
.details {
  max-height: 120px;
  overflow: auto;
  font-size: var(--note);
  white-space: pre-wrap;
}
</style>
