<script setup lang="ts">
import { useProgress } from '@/stores/progress'

/** Open items stay in sight on every stage of a starter. */
const emit = defineEmits<{ open: [] }>()
const progress = useProgress()
</script>

<template>
  <button
    v-if="progress.points.length"
    type="button"
    class="points"
    :title="progress.points.join('\n')"
    @click="emit('open')"
  >
    ▲ {{ progress.points.length }} open
  </button>
</template>

<style scoped>
.points {
  border: 1px solid var(--attention);
  color: var(--attention);
  background: none;
  padding: 0.15rem 0.5rem;
  cursor: pointer;
  white-space: nowrap;
}
</style>
