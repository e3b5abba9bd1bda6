<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { client, type HandbookOut } from '@/api/client'
import { aligned, tailOf } from '@/ui/figures'
import { useAsked } from '@/stores/asked'

const props = defineProps<{ name: string }>()
const route = useRoute()
const router = useRouter()
const find = ref(typeof route.query.find === 'string' ? route.query.find : '')
const {
  data,
  said: failed,
  ask,
} = useAsked(() => client.GET('/api/tables', { params: { query: { find: find.value } } }))
/** What was found last stays while nothing can be asked. */
const found = ref<HandbookOut | null>(null)
watch(
  find,
  async (words) => {
    await ask()
    if (data.value) found.value = data.value
    void router.replace({ params: route.params, query: words ? { find: words } : {} })
  },
  { immediate: true },
)
document.title = 'Tables · Volmek'

const questions = computed(() => [...new Set((found.value?.schools ?? []).map((s) => s.question))])
/** The table chosen if it is among those found, else the first found. */
const page = computed(
  () => found.value?.tables.find((t) => t.name === props.name) ?? found.value?.tables[0],
)
const decimals = computed(() =>
  (page.value?.headings ?? []).map((_, i) => tailOf(page.value!.rows.map((row) => row[i] ?? ''))),
)
</script>

<template>
  <div class="view">
    <nav class="list" aria-label="Tables and schools">
      <label>
        Find
        <InputText
          v-model="find"
          size="small"
          maxlength="100"
          placeholder="wye, latch, gG, AWG …"
        />
      </label>
      <p v-if="failed" class="problem" role="alert">■ {{ failed }}</p>
      <p v-else-if="found" class="quiet" role="status">
        Tables: {{ found.tables.length }} · questions on which practice differs:
        {{ questions.length }}
      </p>
      <h2 v-if="questions.length">Where practice differs</h2>
      <ul>
        <li v-for="(q, i) in questions" :key="q">
          <a :href="`#school-${i}`">{{ q }}</a>
        </li>
      </ul>
      <h2 v-if="found?.tables.length">Tables</h2>
      <ul>
        <li v-for="t in found?.tables" :key="t.name">
          <RouterLink
            :to="{ params: { name: t.name }, query: route.query }"
            :aria-current="t === page ? 'true' : undefined"
            >{{ t.title }}</RouterLink
          >
        </li>
      </ul>
    </nav>
    <main id="content">
      <section v-if="page" :key="page.name" :aria-label="page.title">
        <h1>{{ page.title }}</h1>
        <p>{{ page.used_for }}</p>
        <p class="quiet">{{ page.source }}</p>
        <div class="wide" tabindex="0" role="region" aria-label="The table">
          <table>
            <thead>
              <tr>
                <th
                  v-for="(h, i) in page.headings"
                  :key="h"
                  scope="col"
                  :class="{ num: decimals[i] !== null }"
                >
                  {{ h }}
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(row, n) in page.rows" :key="n">
                <td
                  v-for="(cell, i) in row"
                  :key="i"
                  :class="decimals[i] === null ? undefined : 'num figures'"
                >
                  {{ aligned(cell, decimals[i]) || '–' }}
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>
      <div v-if="questions.length" class="schools">
        <section v-for="(q, i) in questions" :id="`school-${i}`" :key="q" :aria-label="q">
          <h2>{{ q }}</h2>
          <dl>
            <template v-for="s in found!.schools.filter((x) => x.question === q)" :key="s.answer">
              <dt>
                {{ s.answer }} <span class="quiet">{{ s.followed }}</span>
              </dt>
              <dd>{{ s.reason }}</dd>
            </template>
          </dl>
        </section>
      </div>
      <p v-if="found && !page && !questions.length">
        Nothing holds all of these words. Try fewer, or another name of the thing.
      </p>
    </main>
  </div>
</template>

<style scoped>
.view {
  display: grid;
  grid-template-columns: 21rem minmax(0, 1fr);
  height: calc(100vh - 2.4rem);
}
.list {
  border-right: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.9rem;
  overflow-y: auto;
}
.list label {
  display: grid;
  gap: 0.15rem;
  font-size: 0.93rem;
}
.list .quiet {
  font-size: 0.86rem;
  margin: 0.3rem 0 0;
}
.list ul {
  list-style: none;
  margin: 0.2rem 0 0.6rem;
  padding: 0;
}
.list li a {
  display: block;
  padding: 0.16rem 0.4rem;
  text-decoration: none;
  color: inherit;
  border-left: 3px solid transparent;
}
.list li a:hover {
  text-decoration: underline;
}
.list li a[aria-current] {
  border-color: var(--accent);
  background: var(--tint);
}
main {
  display: flex;
  flex-wrap: wrap;
  align-content: start;
  align-items: start;
  gap: 1.2rem 2rem;
  padding: 1rem 1.4rem 3rem;
  overflow-y: auto;
}
main > section {
  min-width: 0;
  max-width: 100%;
}
.schools {
  flex: 1 1 20rem;
}
h1 {
  font-size: 1.3rem;
  font-weight: 650;
}
h2 {
  font-size: 1rem;
  font-weight: 650;
  margin: 0.7rem 0 0.1rem;
}
.schools section + section {
  margin-top: 1rem;
}
section p {
  margin: 0.2rem 0;
}
.wide {
  overflow-x: auto;
  margin-top: 0.6rem;
}
table {
  border-collapse: collapse;
  background: var(--sheet);
  border-top: 2px solid var(--ink);
  border-bottom: 1px solid var(--ink);
}
th {
  text-align: left;
  vertical-align: bottom;
  max-width: 8rem;
  font-size: 0.82rem;
  font-weight: 500;
  color: var(--quiet);
  padding: 0.35rem 0.8rem;
  border-bottom: 1px solid var(--rule-strong);
}
td {
  padding: 0.22rem 0.8rem;
  border-bottom: 1px solid var(--rule);
}
.num {
  text-align: right;
}
/* A wide table is scrolled under its first column, so that the row can still be read. */
th:first-child,
td:first-child {
  position: sticky;
  left: 0;
  background: var(--sheet);
  border-right: 1px solid var(--rule);
}
tbody tr:hover {
  background: var(--tint);
}
dl {
  max-width: 48rem;
  margin: 0.3rem 0;
  border-top: 1px solid var(--rule-strong);
}
dt {
  margin-top: 0.4rem;
  font-weight: 600;
}
dt .quiet {
  font-weight: 400;
  margin-left: 0.5rem;
}
dd {
  margin: 0.1rem 0 0.5rem;
}
.problem {
  color: var(--stop);
}
@media (max-width: 62.5em) {
  .view {
    grid-template-columns: 15rem minmax(0, 1fr);
  }
}
@media (max-width: 40em) {
  .view {
    display: block;
    height: auto;
  }
  .list {
    border-right: 0;
  }
}
</style>
