<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import { client, problemsOf, type Problem } from '@/api/client'
import { useAsked } from '@/stores/asked'
import QuickStart from '@/features/quick/QuickStart.vue'
import VerdictMark from '@/ui/VerdictMark.vue'

const router = useRouter()
const { data, said: failed, ask } = useAsked(() => client.GET('/api/boards'))
const boards = computed(() => data.value?.boards ?? null)
const adding = ref(false)
const entry = ref({ job: '', name: '', title: '' })
const problems = ref<Problem[]>([])
const jobs = computed(() => [...new Set((boards.value ?? []).map((b) => b.job))])

onMounted(() => {
  document.title = 'Boards · Volmek'
  void ask()
})

async function add(): Promise<void> {
  const { data, error } = await client.POST('/api/boards', {
    body: { ...entry.value, defaults: {} },
  })
  if (data) await router.push(`/boards/${data.id}`)
  else problems.value = problemsOf(error)
}
</script>

<template>
  <main class="page">
    <QuickStart :boards="boards ?? []" />
    <p v-if="failed" class="problem">■ {{ failed }}</p>
    <section v-for="job in jobs" :key="job">
      <h1>{{ job }}</h1>
      <table>
        <thead>
          <tr>
            <th>Board</th>
            <th>Title</th>
            <th class="num">Starters</th>
            <th class="num">Stop</th>
            <th class="num">Attention</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="b in boards!.filter((x) => x.job === job)" :key="b.id">
            <td>
              <RouterLink :to="`/boards/${b.id}`" class="figures">{{ b.name }}</RouterLink>
            </td>
            <td>
              {{ b.title }}
              <ul class="tags">
                <li v-for="s in b.starters" :key="s.id">
                  <RouterLink :to="`/starters/${s.id}/plate`" class="figures">{{
                    s.tag
                  }}</RouterLink>
                  <VerdictMark
                    :verdict="
                      s.problem ? 'info' : s.stop ? 'stop' : s.attention ? 'attention' : 'fine'
                    "
                    wordless
                  />
                  <span class="quiet">{{ s.service }}</span>
                </li>
              </ul>
            </td>
            <td class="num figures">{{ b.starters.length }}</td>
            <td class="num figures">
              <VerdictMark v-if="b.stop" verdict="stop" wordless /> {{ b.stop || '–' }}
            </td>
            <td class="num figures">
              <VerdictMark v-if="b.attention" verdict="attention" wordless />
              {{ b.attention || '–' }}
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <p v-if="boards && boards.length === 0" class="quiet">No board yet. Make the first one.</p>
    <Button v-if="!adding" label="New board" size="small" outlined @click="adding = true" />
    <form v-else class="entry" @submit.prevent="add">
      <label>Job <InputText v-model="entry.job" size="small" /></label>
      <label>Board <InputText v-model="entry.name" size="small" /></label>
      <label>Title <InputText v-model="entry.title" size="small" /></label>
      <Button type="submit" label="Make it" size="small" />
      <Button type="button" label="Cancel" size="small" text @click="adding = false" />
      <p v-for="p in problems" :key="p.field" class="problem" role="alert">
        ■ {{ p.field }}: {{ p.message }}
      </p>
    </form>
  </main>
</template>

<style scoped src="@/ui/page.css"></style>
