<script setup lang="ts">
import type { Answer } from '@/api/client'
import { useWording } from '@/stores/wording'
import VerdictMark from '@/ui/VerdictMark.vue'

/** What to set and fit for one motor, on a plate. */
defineProps<{ answer: Answer }>()
const wording = useWording()
</script>

<template>
  <div class="plate riveted">
    <dl>
      <template v-for="(row, i) in answer.rows" :key="i">
        <dt>{{ i === 0 && row.designation ? 'Set the overload to' : row.subject }}</dt>
        <dd :class="{ first: i === 0 && row.designation }">
          <b class="figures">{{ row.answer }}</b>
          <span class="beside figures">{{ row.beside }}</span>
          <VerdictMark
            v-if="row.verdict && row.verdict !== 'info'"
            :verdict="row.verdict"
            wordless
          />
        </dd>
      </template>
      <dt>Method</dt>
      <dd>{{ wording.say(answer.method) }}</dd>
    </dl>
    <p v-if="answer.devices_from" class="from">{{ answer.devices_from }}</p>
    <slot />
  </div>
</template>

<style scoped>
.plate {
  padding: 1rem 1.4rem 0.7rem;
}
dl {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 0.35rem 1.1rem;
  align-items: baseline;
  margin: 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0.1rem 0.8rem;
}
dd b {
  font-size: 1.15rem;
  font-weight: 600;
}
dd.first b {
  font-size: 1.9rem;
  line-height: 1.15;
}
.beside {
  color: var(--quiet);
}
.from {
  margin-top: 0.6rem;
  font-size: 0.86rem;
  color: var(--quiet);
  text-align: right;
}
@media (max-width: 38.75em) {
  .plate {
    padding-inline: 1.1rem;
  }
  dl {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
  dd {
    margin-bottom: 0.5rem;
  }
}
</style>
