<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { signInQuerySchema } from '~~/core/api/schema'
import { api, whatFailed } from '~/api/client'
import { useAuth } from '~/editor/auth'
import { orNothing } from '~/errors/or-nothing'
import BesideHandbook from '~/features/handbook/BesideHandbook.vue'
import AppHeader from '~/shell/header/AppHeader.vue'

const auth = useAuth()
const route = useRoute()
const key = ref('')
const error = ref('')
const ways = shallowRef<{ provider: string | null; isKeyNeeded: boolean } | null>(null)
/** Only to pages of our own. */
const to = computed(() => signInQuerySchema.safeParse({ to: route.query.to }).data?.to ?? '/')
const signIn = computed(() => `/api/session/provider?${new URLSearchParams({ to: to.value })}`)

/** What who comes back from the identity provider is told. */
const REFUSED: Readonly<Record<string, string>> = {
  'no-role': 'You are known there, but have no role here. Whoever keeps the groups can give you one.',
  'ended': 'You are not let in here any more. A keeper can let you in again.',
  'not-signed-in': 'You were not signed in. Try again; if it took long, it has to begin anew.',
}

useHead({ title: 'Key · Handy Grid' })

// The link that is printed at the start has the key behind the #, which browsers send nowhere.
onMounted(() => {
  const refused = route.query.refused
  if (typeof refused === 'string') error.value = REFUSED[refused] ?? REFUSED['not-signed-in']!
  // Without knowing, the key does.
  void api.ways().then(known => (ways.value = known), orNothing)
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
    await navigateTo(to.value)
  } catch (failure) {
    error.value = whatFailed(failure)
  }
}
</script>

<template>
  <main class="door">
    <AppHeader />
    <BesideHandbook is-alone>
      <section class="sheet">
        <h1>A key is needed</h1>
        <p class="quiet">
          This Handy Grid is open to others on the network. Whoever keeps it has a link or a key for you.
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
        <v-btn class="main" block color="action" variant="flat" :disabled="key.trim() === ''" @click="enter">
          Enter
        </v-btn>
        <v-btn v-if="ways?.provider" class="provider" block :href="signIn">Sign in with {{ ways.provider }}</v-btn>
      </section>
    </BesideHandbook>
  </main>
</template>

<style scoped>
.door {
  display: flex;
  flex-direction: column;
  height: 100dvh;
  background: rgb(var(--v-theme-background));
}

.provider {
  margin-top: 8px;
}

.sheet {
  width: 400px;
  margin: 12vh auto 0;
  padding: 20px 22px 22px;
  border: 1px solid var(--line);
  border-radius: var(--round);
}
</style>
