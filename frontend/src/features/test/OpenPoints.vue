<script setup lang="ts">
import { computed, watch } from 'vue'

import { client } from '@/api/client'
import { useAsked } from '@/stores/asked'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

/** What is still open stays in sight on every stage of a starter. */
const emit = defineEmits<{ open: [] }>()
const starter = useStarter()
const journal = useJournal()
const { data, ask } = useAsked(() =>
  starter.id === 0
    ? null
    : client.GET('/api/starters/{starter_id}/points', {
        params: { path: { starter_id: starter.id } },
      }),
)
const points = computed(() => data.value?.points ?? [])
watch(() => [starter.id, journal.arrived], ask, { immediate: true })
</script>

<template>
  <button
    v-if="points.length"
    type="button"
    class="points"
    :title="points.join('\n')"
    @click="emit('open')"
  >
    ▲ {{ points.length }} open
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
