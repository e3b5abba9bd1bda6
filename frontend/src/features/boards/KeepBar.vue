<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { ref } from 'vue'

import { client, problemsOf, type Problem } from '@/api/client'
import { useInstalled } from '@/stores/installed'
import { useMe } from '@/stores/me'

/** What keeps the work elsewhere: a backup of everything, and a job as one file, out and in. */
defineProps<{ jobs: string[] }>()
const emit = defineEmits<{ changed: [] }>()
const me = useMe()
const installed = useInstalled()
const open = ref(false)
const file = ref<File | null>(null)
const name = ref('')
const problems = ref<Problem[]>([])
const done = ref('')
const busy = ref(false)

function choose(e: Event): void {
  file.value = (e.target as HTMLInputElement).files?.[0] ?? null
  problems.value = []
}
async function take(): Promise<void> {
  if (!file.value) return
  busy.value = true
  const text = await file.value.text()
  const { data, error } = await client.POST('/api/jobs/import', {
    body: { text, name: name.value.trim() },
  })
  busy.value = false
  problems.value = data ? [] : problemsOf(error)
  if (!data) return
  done.value = `${data.name}: ${data.boards} boards, ${data.starters} starters, ${data.entries} entries imported.`
  open.value = false
  name.value = ''
  emit('changed')
}
const address = (job: string) => `/api/jobs/file?name=${encodeURIComponent(job)}`
</script>

<template>
  <div class="keep" data-screen>
    <a v-if="me.may('administers')" href="/api/backup" download>Back up everything</a>
    <a v-for="job in jobs" :key="job" :href="address(job)" download>Save {{ job }} as a file</a>
    <button v-if="me.may('designs')" type="button" class="link" @click="open = true">
      Import a job
    </button>
    <RouterLink to="/licences">Licences</RouterLink>
    <p v-if="installed.why" class="quiet why">○ {{ installed.why }}</p>
    <p v-if="done" role="status">✓ {{ done }}</p>
    <Dialog
      v-model:visible="open"
      modal
      header="Import a job"
      :style="{ width: 'min(34rem, 94vw)' }"
    >
      <p class="quiet">
        A job file holds boards, starters, history, records, seals and catalogues. It is checked
        first; all of it is imported, or nothing.
      </p>
      <form @submit.prevent="take">
        <label>File <input type="file" accept=".json" @change="choose" /></label>
        <label>
          Another name, where its own is taken
          <InputText v-model="name" size="small" maxlength="120" />
        </label>
        <p v-for="p in problems" :key="p.field + p.message" class="problem" role="alert">
          ■ {{ p.field }}: {{ p.message }}
        </p>
        <Button type="submit" label="Import" :disabled="!file || busy" />
      </form>
    </Dialog>
  </div>
</template>

<style scoped>
.keep {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1.4rem;
  align-items: center;
  margin-top: 1.4rem;
  padding-top: 0.6rem;
  border-top: 1px solid var(--rule);
}
a,
.link {
  color: var(--accent);
  min-height: 2rem;
  display: inline-flex;
  align-items: center;
}
.link {
  border: 0;
  background: none;
  padding: 0;
  text-decoration: underline;
  cursor: pointer;
}
form {
  display: grid;
  gap: 0.7rem;
  justify-items: start;
}
form label {
  display: grid;
  gap: 0.15rem;
}
.why {
  flex-basis: 100%;
}
.problem {
  color: var(--stop);
}
</style>
