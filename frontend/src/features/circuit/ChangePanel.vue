<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'

import { client } from '@/api/client'
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
  <div v-else-if="result" class="columns">
    <section>
      <h3>Parts</h3>
      <p v-for="p in result.parts_added" :key="p">+ {{ p }}</p>
      <p v-for="p in result.parts_removed" :key="p">− {{ p }}</p>
      <p v-if="!result.parts_added.length && !result.parts_removed.length" class="quiet">None.</p>
    </section>
    <section>
      <h3>Devices and settings</h3>
      <p v-for="p in result.changed" :key="p">{{ p }}</p>
      <p v-if="!result.changed.length" class="quiet">None changes.</p>
    </section>
    <section>
      <h3>Remove {{ result.removed.length }}</h3>
      <p v-for="w in result.removed" :key="w.a + w.b" class="figures">{{ w.a }} – {{ w.b }}</p>
    </section>
    <section>
      <h3>Move {{ result.moved.length }}</h3>
      <p v-for="w in result.moved" :key="w.keeps + w.was" class="figures">
        {{ w.keeps }}: {{ w.was }} → {{ w.goes }}
      </p>
    </section>
    <section>
      <h3>Add {{ result.added.length }}</h3>
      <p v-for="w in result.added" :key="w.a + w.b" class="figures">{{ w.a }} – {{ w.b }}</p>
    </section>
    <p class="quiet">
      {{ result.kept }} wires stay. Isolate, lock and prove dead before any is touched.
    </p>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(12rem, 1fr));
  gap: 0.4rem 1.5rem;
  margin-top: 0.4rem;
}
h3 {
  font-size: 0.93rem;
}
p {
  font-size: 0.9rem;
}
.bad {
  color: var(--stop);
}
</style>
