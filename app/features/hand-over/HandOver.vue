<script setup lang="ts">
import { useHandingOver } from './handing-over'
import HandOverSheet from './HandOverSheet.vue'

const handing = useHandingOver()
</script>

<template>
  <v-btn color="action" variant="flat" @click="handing.isOpen = true">Hand over</v-btn>
  <HandOverSheet />
</template>
