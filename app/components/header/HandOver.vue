<script setup lang="ts">
import { useHandingOver } from '~/stores/handing-over'

const handing = useHandingOver()
</script>

<template>
  <v-btn color="action" variant="flat" @click="handing.isOpen = true">Hand over</v-btn>
  <HandOverSheet />
</template>
