<script setup lang="ts">
import { computed, watch } from 'vue'

import { client } from '@/api/client'
import DrawingView from '@/ui/DrawingView.vue'
import { SEVERITY } from '@/ui/words'
import { useJournal } from '@/stores/journal'
import { useAsked } from '@/stores/asked'
import { useStarter } from '@/stores/starter'

/** Readings over the years; what creeps stands first, with a sentence. */
const starter = useStarter()
const journal = useJournal()
const { data, said, ask } = useAsked(() =>
  client.GET('/api/starters/{starter_id}/readings', {
    params: { path: { starter_id: starter.id } },
  }),
)
const series = computed(() => data.value?.series ?? [])
watch(() => [starter.saved, journal.arrived], ask, { immediate: true })
</script>

<template>
  <div>
    <p v-if="said" class="quiet">{{ said }}</p>
    <p v-else-if="!series.length" class="quiet">
      No readings yet. Readings in the record show here as trends.
    </p>
    <div class="charts">
      <figure v-for="s in series" :key="s.id" :class="{ creeps: s.creeps }">
        <figcaption>
          <b>{{ $say(s.title) }}</b> <span class="unit">{{ s.unit }}</span>
          <span class="last" :class="s.severity"
            >{{ SEVERITY[s.severity]?.mark }}
            <span class="figures">{{ Number(s.last.value.toPrecision(3)) }}</span></span
          >
        </figcaption>
        <DrawingView :drawing="s.chart" />
        <p :class="s.creeps ? 'warn' : 'quiet'">{{ s.creeps ? '▲ ' : '' }}{{ s.words }}</p>
      </figure>
    </div>
  </div>
</template>

<style scoped>
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(19rem, 1fr));
  gap: 1rem 1.6rem;
}
figure {
  margin: 0;
  border-top: 1px solid var(--rule-strong);
  padding-top: 0.3rem;
}
.creeps {
  border-top: 3px solid var(--attention);
}
figcaption {
  display: flex;
  gap: 0.4rem;
  align-items: baseline;
}
.last {
  margin-left: auto;
}
.last.stop {
  color: var(--stop);
}
.warn,
.last.attention {
  color: var(--attention);
}
p {
  font-size: 0.92rem;
}
</style>
