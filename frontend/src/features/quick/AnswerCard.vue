<script setup lang="ts">
import type { Answer, ToFindOut } from '@/api/client'
import AnswerPlate from '@/features/quick/AnswerPlate.vue'
import VerdictMark from '@/ui/VerdictMark.vue'

/** What to set and fit for one motor, what it rests on, and what to find out next. */
defineProps<{ answer: Answer; findOut: ToFindOut[] | null; assumed?: string[]; stale?: boolean }>()
</script>

<template>
  <section class="card" :class="{ stale }" aria-label="Answer" :aria-busy="stale">
    <AnswerPlate :answer="answer" />
    <div class="why">
      <h3>Rests on</h3>
      <p>
        <VerdictMark :verdict="answer.on_plate ? 'fine' : 'attention'" wordless />
        {{ answer.rests }}
      </p>
      <p v-for="a in assumed ?? []" :key="a" class="quiet">{{ a }}</p>
      <template v-if="answer.findings.length">
        <h3>Findings</h3>
        <p v-for="f in answer.findings" :key="f.message">
          <VerdictMark :verdict="f.severity" wordless /> {{ f.message }}
        </p>
      </template>
      <h3>Find out next</h3>
      <p v-if="findOut === null" class="quiet">… computing what would change the answer</p>
      <p v-else-if="findOut.length === 0" class="quiet">Nothing that is not typed changes it.</p>
      <ul v-else>
        <li v-for="u in findOut.slice(0, 4)" :key="u.label">
          <b>{{ u.label }}</b> <span class="quiet figures">usual {{ u.span }}</span>
          <span class="changes">changes {{ u.changes.slice(0, 2).join('; ') }}</span>
        </li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.card {
  display: grid;
  grid-template-columns: minmax(24rem, 1.15fr) minmax(18rem, 1fr);
  gap: 1.4rem;
  align-items: start;
  width: 100%;
}
.stale {
  opacity: 0.6;
}
h3 {
  font-size: 0.86rem;
  font-weight: 650;
  margin: 0.7rem 0 0.15rem;
}
h3:first-child {
  margin-top: 0;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 0.3rem;
}
.changes {
  display: block;
  font-size: 0.9rem;
}
@media (max-width: 51.25em) {
  .card {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
