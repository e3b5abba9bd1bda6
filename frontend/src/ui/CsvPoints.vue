<script setup lang="ts">
/** Two columns of figures from a CSV file; a line without figures is a heading. What is wrong the server says. */
import { typedNumber } from '@/stores/document'

defineProps<{ label: string }>()
const emit = defineEmits<{ points: [points: number[][], name: string] }>()

async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const points = (await file.text())
    .split(/\r?\n/)
    .map((line) => line.split(/[;,\t]/).map((cell) => typedNumber(cell)))
    .filter((row) => row.length >= 2 && row.some((cell) => typeof cell === 'number'))
    .map((row) => row.slice(0, 2))
  input.value = ''
  // What is no number goes along as it stands in the file, for the server to say.
  emit('points', points as number[][], file.name.replace(/\.\w+$/, '').slice(0, 40))
}
</script>

<template>
  <label class="link">
    {{ label }}
    <input
      type="file"
      accept=".csv,.txt"
      class="visually-hidden"
      :aria-label="label"
      @change="take"
    />
  </label>
</template>

<style scoped>
.link {
  color: var(--accent);
  text-decoration: underline;
  cursor: pointer;
}
.link:focus-within {
  outline: 2px solid var(--accent);
}
</style>
