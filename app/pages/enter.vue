<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { whatFailed } from '~/api/client'
import { useAuth } from '~/editor/auth'
import AppHeader from '~/shell/header/AppHeader.vue'

const auth = useAuth()
const route = useRoute()
const key = ref('')
const error = ref('')

useHead({ title: 'Key · Handy Grid' })

// The link that is printed at the start has the key behind the #, which browsers send nowhere.
onMounted(() => {
  const given = new URLSearchParams(location.hash.slice(1)).get('key')
  if (!given) return
  history.replaceState(history.state, '', location.pathname + location.search)
  key.value = given
  void enter()
})

async function enter(): Promise<void> {
  error.value = ''
  try {
    await auth.enter(key.value.trim())
    const to = String(route.query.to ?? '/')
    // Only to pages of our own.
    await navigateTo(/^\/(?![/\\])/.test(to) ? to : '/')
  } catch (failure) {
    error.value = whatFailed(failure)
  }
}
</script>

<template>
  <main class="door">
    <AppHeader />
    <section class="sheet">
      <h1>A key is needed</h1>
      <p class="quiet">
        This Handy Grid is open to others on the network. Whoever started it has a link with the key, or the key itself.
      </p>
      <v-text-field
        v-model="key"
        aria-label="Key"
        placeholder="Key"
        type="password"
        autocomplete="current-password"
        autofocus
        :error="Boolean(error)"
        @keydown.enter="enter"
      />
      <p v-if="error" role="alert" class="error">{{ error }}</p>
      <v-btn class="main" block color="action" variant="flat" :disabled="key.trim() === ''" @click="enter">Enter</v-btn>
    </section>
  </main>
</template>

<style scoped>
.door {
  min-height: 100dvh;
  background: rgb(var(--v-theme-background));
}

.sheet {
  width: 400px;
  margin: 12vh auto 0;
  padding: 20px 22px 22px;
  border: 1px solid var(--line);
  border-radius: var(--round);
}
</style>
