<script setup lang="ts">
import type { Work } from '@/stores/work'

/** What takes long: what is being done, how far it is, and a way to cancel it. */
defineProps<{ work: Work; what: string }>()
</script>

<template>
  <div v-if="work.shown.value" class="work" role="status">
    <span class="words">{{ what }}: {{ work.words.value }}</span>
    <progress
      :aria-label="what"
      :max="work.of.value || undefined"
      :value="work.of.value ? work.done.value : undefined"
    ></progress>
    <span v-if="work.of.value" class="figures">{{ work.done.value }} of {{ work.of.value }}</span>
    <button type="button" @click="work.cancel()">Cancel</button>
  </div>
</template>

<style scoped>
.work {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.4rem 0.9rem;
  padding: 0.4rem 1rem;
  border: 1px solid var(--rule-strong);
  background: var(--tint);
}
progress {
  flex: 1 1 8rem;
  max-width: 22rem;
  height: 0.7rem;
  accent-color: var(--accent);
}
button {
  border: 1px solid var(--accent);
  background: var(--paper);
  color: var(--accent);
  min-height: 2.1rem;
  padding: 0 0.9rem;
  cursor: pointer;
}
</style>
