<script setup lang="ts">
defineProps<{ seed: number; label: string }>()
const emit = defineEmits<{ change: [seed: number] }>()
const check = (value: number) =>
  Number.isInteger(value) && value >= 0 && value <= 999_999 ? null : 'A whole number up to 999,999.'
const another = () => emit('change', Math.floor(Math.random() * 1_000_000))
</script>

<template>
  <FormLine label="Seed">
    <template #label>
      Seed
      <v-btn class="link" variant="plain" @click="another">another</v-btn>
    </template>
    <QuantityField
      :label="label"
      quantity="factor"
      :decimals="0"
      :value="seed"
      :check="check"
      @commit="emit('change', $event)"
    />
  </FormLine>
</template>
