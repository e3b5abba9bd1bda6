<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import { client, problemsOf, type Problem } from '@/api/client'
import BinBar from '@/features/boards/BinBar.vue'
import FindBar from '@/features/boards/FindBar.vue'
import KeepBar from '@/features/boards/KeepBar.vue'
import StarterMenu from '@/features/boards/StarterMenu.vue'
import UnsizedNote from '@/features/boards/UnsizedNote.vue'
import StarterTable from '@/features/boards/StarterTable.vue'
import QuickStart from '@/features/quick/QuickStart.vue'
import { useAsked } from '@/stores/asked'
import { useFound } from '@/stores/found'
import { useMe } from '@/stores/me'
import { useChanged } from '@/stores/presence'
import { useWork } from '@/stores/work'
import VerdictMark from '@/ui/VerdictMark.vue'
import WorkBar from '@/ui/WorkBar.vue'

const router = useRouter()
const me = useMe()
const work = useWork()
const {
  data,
  said: failed,
  ask,
} = useAsked(() => work.run((headers) => client.GET('/api/boards', { headers }), false))
const boards = computed(() => data.value?.boards ?? null)
const adding = ref(false)
const entry = ref({ job: '', name: '', title: '' })
const problems = ref<Problem[]>([])
const jobs = computed(() => [...new Set((boards.value ?? []).map((b) => b.job))])
const total = computed(() => data.value?.total ?? 0)
const found = useFound(() => null, false)
const { find, filter, sort, active } = found

/** While starters are still sized the page looks again by itself. */
let timer = 0
async function askAll(): Promise<void> {
  window.clearTimeout(timer)
  await Promise.all([ask(), found.ask()])
  if (data.value?.unsized) timer = window.setTimeout(() => void again(), 3000)
}
async function again(): Promise<void> {
  const { data: now } = await client.GET('/api/boards').catch(() => ({ data: undefined }))
  if (now) data.value = now
  if (now?.unsized) timer = window.setTimeout(() => void again(), 3000)
}
onMounted(() => {
  document.title = 'Volmek'
  void askAll()
})
onBeforeUnmount(() => window.clearTimeout(timer))
// What others change comes by itself.
useChanged('/api/boards/state', () => void again().then(() => found.ask()))

async function add(): Promise<void> {
  const { data, error } = await client.POST('/api/boards', {
    body: { ...entry.value, defaults: {} },
  })
  if (data) await router.push(`/boards/${data.id}`)
  else problems.value = problemsOf(error)
}
</script>

<template>
  <main id="content" class="page">
    <h1 class="visually-hidden">Volmek: motor starters</h1>
    <QuickStart :boards="boards ?? []" />
    <p v-if="failed" class="problem">■ {{ failed }}</p>
    <WorkBar :work="work" what="Boards" />
    <p v-if="!failed && boards === null && !work.shown.value" class="quiet" role="status">
      … loading the boards
    </p>
    <template v-else-if="!failed && boards">
      <ol v-if="total === 0" class="steps" aria-label="First steps">
        <li><b>1</b> Type a motor plate into the line above.</li>
        <li><b>2</b> Open it as a starter: method, devices, start, circuit.</li>
        <li><b>3</b> Build it wire by wire, test it, print sheet and labels.</li>
      </ol>
      <FindBar
        v-else
        v-model:find="find"
        v-model:filter="filter"
        v-model:sort="sort"
        :count="active && found.ready.value ? found.total.value : total"
        :of="total"
      />
      <UnsizedNote :unsized="data?.unsized ?? 0" :of="total" />
      <StarterTable
        v-if="active"
        :rows="found.rows.value"
        :boards="boards"
        with-board
        @changed="askAll"
        @look="found.look"
      />
      <p v-if="active && found.said.value" class="problem" role="alert">■ {{ found.said.value }}</p>
      <p v-else-if="active && found.ready.value && found.total.value === 0" class="quiet">
        No starter matches.
      </p>
      <template v-if="!active">
        <section v-for="job in jobs" :key="job">
          <h2 class="job">{{ job }}</h2>
          <article v-for="b in boards.filter((x) => x.job === job)" :key="b.id" class="board">
            <h3>
              <RouterLink :to="`/boards/${b.id}`"
                ><span class="figures">{{ b.name }}</span> {{ b.title }}</RouterLink
              >
              <span class="counts">
                {{ b.total }} {{ b.total === 1 ? 'starter' : 'starters' }}
                <span v-if="b.stop"><VerdictMark verdict="stop" wordless /> {{ b.stop }}</span>
                <span v-if="b.attention"
                  ><VerdictMark verdict="attention" wordless /> {{ b.attention }}</span
                >
              </span>
            </h3>
            <ul class="tags">
              <li v-for="s in b.starters" :key="s.id">
                <RouterLink :to="`/starters/${s.id}/plate`" class="figures">{{ s.tag }}</RouterLink>
                <VerdictMark
                  :verdict="
                    !s.sized || s.problem
                      ? 'info'
                      : s.stop
                        ? 'stop'
                        : s.attention
                          ? 'attention'
                          : 'fine'
                  "
                  wordless
                />
                <span class="quiet words">{{ s.service }}</span>
                <StarterMenu :starter="s" :board-id="b.id" :boards="boards" @changed="askAll" />
              </li>
            </ul>
            <p v-if="b.total > b.starters.length" class="quiet">
              The first {{ b.starters.length }} of {{ b.total }}:
              <RouterLink :to="`/boards/${b.id}`">all of {{ b.name }}</RouterLink>
            </p>
          </article>
        </section>
      </template>
      <BinBar @changed="askAll" />
      <Button
        v-if="!adding && me.may('designs')"
        label="New board"
        size="small"
        outlined
        @click="adding = true"
      />
      <form v-else-if="adding" class="entry" @submit.prevent="add">
        <label>Job <InputText v-model="entry.job" size="small" /></label>
        <label>Board <InputText v-model="entry.name" size="small" /></label>
        <label>Title <InputText v-model="entry.title" size="small" /></label>
        <Button type="submit" label="Create" size="small" />
        <Button type="button" label="Cancel" size="small" text @click="adding = false" />
        <p v-for="p in problems" :key="p.field" class="problem" role="alert">
          ■ {{ p.field }}: {{ p.message }}
        </p>
      </form>
      <KeepBar :jobs="jobs" @changed="askAll" />
    </template>
  </main>
</template>

<style scoped src="@/ui/page.css"></style>
<style scoped>
.job {
  font-size: 1.35rem;
  font-weight: 650;
  margin: 0.4rem 0 0.3rem;
}
.board {
  border-top: 1.5px solid var(--ink);
  background: var(--sheet);
  padding: 0.55rem 0.9rem 0.8rem;
  margin-bottom: 0.6rem;
}
.board h3 {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 1.2rem;
  font-size: 1.05rem;
  font-weight: 600;
}
.counts {
  margin-left: auto;
  display: flex;
  gap: 0.9rem;
  font-weight: 400;
  font-size: 0.93rem;
}
.tags {
  grid-template-columns: repeat(auto-fill, minmax(17rem, 1fr));
  font-size: 1rem;
}
.words {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
}
@media (max-width: 38.75em) {
  .tags {
    grid-template-columns: minmax(0, 1fr);
  }
  .tags li {
    min-height: 44px;
    align-items: center;
  }
}
</style>
