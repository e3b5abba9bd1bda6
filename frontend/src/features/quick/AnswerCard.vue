<script setup lang="ts">
import type { Answer, ToFindOut } from '@/api/client'
import VerdictMark from '@/ui/VerdictMark.vue'

/** What to set and fit for one motor, what it rests on, and what to find out next. */
defineProps<{ answer: Answer; findOut: ToFindOut[] | null; assumed?: string[]; stale?: boolean }>()
</script>

<template>
  <section class="card" :class="{ stale }" aria-label="Answer" :aria-busy="stale">
    <div class="plate">
      <dl>
        <template v-for="(row, i) in answer.rows" :key="i">
          <dt>{{ i === 0 && row.designation ? 'Set the overload to' : row.subject }}</dt>
          <dd :class="{ first: i === 0 }">
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
        <dd>{{ answer.method }}</dd>
      </dl>
      <p class="from">{{ answer.devices_from }}</p>
    </div>
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
.plate {
  border: 1.5px solid var(--ink);
  border-radius: 5px;
  padding: 1rem 1.4rem 0.7rem;
  background:
    radial-gradient(circle at 9px 9px, var(--rule-strong) 2.5px, transparent 3px),
    radial-gradient(circle at calc(100% - 9px) 9px, var(--rule-strong) 2.5px, transparent 3px),
    radial-gradient(circle at 9px calc(100% - 9px), var(--rule-strong) 2.5px, transparent 3px),
    radial-gradient(
      circle at calc(100% - 9px) calc(100% - 9px),
      var(--rule-strong) 2.5px,
      transparent 3px
    ),
    var(--sheet);
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
@media (max-width: 820px) {
  .card {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 620px) {
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
