<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Cause } from '@/api/client'

/** What gives exactly what was seen: the likely ones first, the others on demand. */
const props = defineProps<{ causes: Cause[]; covers: string[]; whole?: boolean }>()
const emit = defineEmits<{ insert: [faults: readonly string[]] }>()
const all = ref(false)
const FIRST = 6
watch(
  () => props.causes,
  () => (all.value = false),
)
const shown = computed(() => (all.value ? props.causes : props.causes.slice(0, FIRST)))
</script>

<template>
  <div class="causes" role="status" aria-label="Likely causes">
    <p v-if="!causes.length">
      None of the single faults that were tried gives exactly this. Check again what was seen, or
      for two faults at once.
    </p>
    <template v-else>
      <p class="heading">
        Possible causes: {{ causes.length }} single
        {{ causes.length === 1 ? 'fault gives' : 'faults give' }} exactly this
      </p>
      <ol>
        <li v-for="c in shown" :key="c.faults.join()">
          {{ c.what }}
          <details v-if="c.alike.length">
            <summary>or {{ c.alike.length }} more like it</summary>
            <ul>
              <li v-for="a in c.alike" :key="a">{{ a }}</li>
            </ul>
          </details>
          <span class="quiet">Check: {{ c.mend }}</span>
          <span v-if="!c.fresh && !whole" class="quiet">(from an earlier stage)</span>
          <button v-if="whole" type="button" class="link beside" @click="emit('insert', c.faults)">
            show in circuit
          </button>
        </li>
      </ol>
      <button v-if="causes.length > FIRST && !all" type="button" class="link" @click="all = true">
        Show the other {{ causes.length - FIRST }}
      </button>
    </template>
    <details class="quiet">
      <summary>What was tried</summary>
      <ul>
        <li v-for="c in covers" :key="c">{{ c }}</li>
      </ul>
    </details>
  </div>
</template>

<style scoped>
.beside {
  margin-left: 0.6rem;
}
.causes {
  border-left: 3px solid var(--attention);
  padding: 0.3rem 0 0.3rem 0.9rem;
  margin: 0.4rem 0;
}
ol {
  margin: 0;
  padding-left: 1.3rem;
}
.link {
  border: 0;
  background: none;
  color: var(--accent);
  text-decoration: underline;
  cursor: pointer;
  min-height: 2.2rem;
}
</style>
