<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'

import { client } from '@/api/client'
import DifferenceList from '@/features/circuit/DifferenceList.vue'
import { useAsked } from '@/stores/asked'
import { useStarter } from '@/stores/starter'

/** What changing this starter means at the panel: wires removed, moved, added; parts that come and go. */
const starter = useStarter()
const CHANGES = [
  { key: 'star_delta', label: 'To star-delta, timed', query: { type: 'star_delta' } },
  { key: 'direct', label: 'To direct on line', query: { type: 'direct_on_line' } },
  { key: 'reversing', label: 'To reversing', query: { type: 'reversing' } },
  { key: 'soft', label: 'To a soft starter', query: { type: 'soft_starter' } },
  {
    key: 'monitor',
    label: 'Add a three-wire phase monitor',
    query: { phase_monitor: 'three_wire' },
  },
  {
    key: 'lamps',
    label: 'Add lamps: running, stopped, tripped',
    query: { lamps: ['running', 'stopped', 'tripped'] },
  },
] as const
const change = ref<string>('monitor')
const { data, said, ask } = useAsked(() => {
  if (starter.id === 0) return null
  const query = CHANGES.find((c) => c.key === change.value)?.query ?? {}
  return client.GET('/api/starters/{starter_id}/circuit/difference', {
    params: { path: { starter_id: starter.id }, query: JSON.parse(JSON.stringify(query)) },
  })
})
const result = computed(() => data.value?.difference ?? null)
watch(() => [change.value, starter.id, starter.saved], ask, { immediate: true })
</script>

<template>
  <Select
    v-model="change"
    :options="[...CHANGES]"
    option-label="label"
    option-value="key"
    size="small"
    aria-label="Change"
  />
  <p v-if="said" class="bad">■ {{ said }}</p>
  <DifferenceList v-else-if="result" :difference="result" />
</template>

<style scoped>
.bad {
  color: var(--stop);
}
</style>
