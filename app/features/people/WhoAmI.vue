<script setup lang="ts">
import { mdiAccount } from '@mdi/js'
import { onMounted, ref } from 'vue'
import { ROLE_WORDS } from '~~/core/api/roles'
import { api } from '~/api/client'
import { orNothing } from '~/errors/or-nothing'
import { useAuth } from '~/editor/auth'

/** Who one is here and what one may do, the way to all people for keepers, and the way out. */
const auth = useAuth()
const isKeyNeeded = ref(false)
onMounted(() => api.ways().then(ways => (isKeyNeeded.value = ways.isKeyNeeded), orNothing))

async function leave(): Promise<void> {
  await auth.leave()
  await navigateTo('/enter')
}
</script>

<template>
  <v-menu>
    <template #activator="{ props }">
      <v-btn v-bind="props" class="who" variant="text" :prepend-icon="mdiAccount" data-test="who-am-i">
        {{ auth.session.person?.name ?? ROLE_WORDS[auth.session.role] }}
      </v-btn>
    </template>
    <section class="sheet about" aria-label="Who you are here">
      <p v-if="auth.session.person">
        You are {{ auth.session.person.name }}. Your role is {{ ROLE_WORDS[auth.session.role] }}.
      </p>
      <p v-else-if="isKeyNeeded">You came in by a shared key. Your role is {{ ROLE_WORDS[auth.session.role] }}.</p>
      <p v-else>This server is for this computer alone: nobody is asked for a key, and everything may be done.</p>
      <MenuList label="Who you are here">
        <MenuItem v-if="auth.may('keep')" title="People and their roles" @click="navigateTo('/people')" />
        <MenuItem v-if="isKeyNeeded" title="Go out" @click="leave" />
      </MenuList>
    </section>
  </v-menu>
</template>

<style scoped>
.who.who {
  color: inherit;
}

.about {
  width: 300px;
}
</style>
