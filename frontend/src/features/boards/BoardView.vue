<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import {
  client,
  problemsOf,
  type BoardOut,
  type BoardsOut,
  type Preset,
  type Problem,
  type StarterDocument,
} from '@/api/client'
import BinBar from '@/features/boards/BinBar.vue'
import BoardCatalogues from '@/features/boards/BoardCatalogues.vue'
import FindBar from '@/features/boards/FindBar.vue'
import UnsizedNote from '@/features/boards/UnsizedNote.vue'
import StarterTable from '@/features/boards/StarterTable.vue'
import { useFound } from '@/stores/found'
import { useMe } from '@/stores/me'
import { useChanged } from '@/stores/presence'
import { useWork } from '@/stores/work'
import WorkBar from '@/ui/WorkBar.vue'

const props = defineProps<{ boardId: number }>()
const router = useRouter()
const me = useMe()
const board = ref<BoardOut | null>(null)
const boards = ref<BoardsOut['boards']>([])
const failed = ref('')
const tag = ref('')
const service = ref('')
const problems = ref<Problem[]>([])
const choosing = ref(false)
const renaming = ref<{ name: string; title: string } | null>(null)
const importing = ref(false)
const work = useWork()
const renumber = ref(true)
const chosenFile = ref<File | null>(null)
const presets = ref<Preset[]>([])
const preset = ref<number | null>(null)
const names = ref(new Map<number, string>())
const chosenNames = computed(() =>
  board.value?.catalogues.map((id) => names.value.get(id) ?? '…').join(', '),
)
const found = useFound(() => props.boardId)
const { find, filter, sort } = found
const total = computed(() => board.value?.total ?? 0)
const params = computed(() => ({ path: { board_id: props.boardId } }))

async function load(): Promise<void> {
  void found.ask()
  const { data, error } = await work.run(
    (headers) => client.GET('/api/boards/{board_id}', { params: params.value, headers }),
    false,
  )
  board.value = data ?? null
  failed.value = data ? '' : (problemsOf(error)[0]?.message ?? '')
  document.title = data ? `${data.name} · Volmek` : 'Volmek'
  const [kept, catalogues, others] = await Promise.all([
    client.GET('/api/presets'),
    client.GET('/api/catalogues'),
    client.GET('/api/boards'),
  ])
  presets.value = kept.data?.presets ?? []
  names.value = new Map(catalogues.data?.catalogues.map((c) => [c.id, c.name]))
  boards.value = others.data?.boards ?? []
}
watch(() => props.boardId, load, { immediate: true })
// What others change comes by itself.
useChanged('/api/boards/state', () => void found.ask())

/** A new starter begins with the board's supply, control and surroundings, or with those of a preset. */
async function add(): Promise<void> {
  const document = {
    ...board.value?.defaults,
    ...presets.value.find((p) => p.id === preset.value)?.parts,
    tag: tag.value.trim(),
    service: service.value.trim(),
  }
  const { data, error } = await client.POST('/api/boards/{board_id}/starters', {
    params: params.value,
    body: { document: document as unknown as StarterDocument },
  })
  if (data) await router.push(`/starters/${data.id}/plate`)
  else problems.value = problemsOf(error)
}
function chosen(now: BoardOut): void {
  board.value = now
  void found.ask()
}
async function rename(): Promise<void> {
  if (!renaming.value) return
  const { data, error } = await client.PUT('/api/boards/{board_id}', {
    params: params.value,
    body: renaming.value,
  })
  problems.value = data ? [] : problemsOf(error)
  if (!data) return
  board.value = data
  renaming.value = null
}
async function bring(): Promise<void> {
  if (!chosenFile.value) return
  const body = { text: await chosenFile.value.text(), renumber: renumber.value }
  const { data, error } = await work.run((headers) =>
    client.POST('/api/boards/{board_id}/import', { params: params.value, body, headers }),
  )
  problems.value = data ? [] : problemsOf(error)
  if (!data) return
  board.value = data
  importing.value = false
  void found.ask()
}
</script>

<template>
  <main id="content" class="page">
    <p v-if="failed" class="problem">■ {{ failed }}</p>
    <WorkBar v-if="!importing" :work="work" what="Board" />
    <p v-if="!failed && !board && !work.shown.value" class="quiet" role="status">
      … loading the board
    </p>
    <template v-if="board">
      <p class="quiet">{{ board.job }}</p>
      <h1>
        <span class="figures">{{ board.name }}</span> {{ board.title }}
      </h1>
      <p v-if="me.may('designs')" class="from">
        <Button
          label="Rename"
          size="small"
          text
          @click="renaming = { name: board.name, title: board.title }"
        />
        <Button label="Import starters" size="small" text @click="importing = true" />
        Devices from <b>{{ chosenNames }}</b>
        <Button label="Choose catalogues" size="small" text @click="choosing = true" />
        <RouterLink to="/catalogue">Import devices</RouterLink>
      </p>
      <BoardCatalogues v-model:visible="choosing" :board="board" @chosen="chosen" />
      <FindBar
        v-if="total > 3"
        v-model:find="find"
        v-model:filter="filter"
        v-model:sort="sort"
        :count="found.ready.value ? found.total.value : total"
        :of="total"
      />
      <UnsizedNote :unsized="found.unsized.value" :of="total" />
      <StarterTable
        v-if="total"
        :rows="found.rows.value"
        :boards="boards"
        @changed="load"
        @look="found.look"
      />
      <ol v-else class="steps" aria-label="First steps">
        <li><b>1</b> Give the first starter a tag below.</li>
        <li><b>2</b> Type power, voltage and current from the plate.</li>
        <li><b>3</b> Read setting and devices; then circuit, build and test.</li>
      </ol>
      <BinBar @changed="load" />
      <form v-if="me.may('designs')" class="entry" data-screen @submit.prevent="add">
        <label>New starter, tag <InputText v-model="tag" size="small" /></label>
        <label class="wide">Description <InputText v-model="service" size="small" /></label>
        <label v-if="presets.length">
          <span id="preset-label">Beginning with</span>
          <Select
            v-model="preset"
            :options="presets"
            option-label="name"
            option-value="id"
            placeholder="the board’s supply"
            show-clear
            aria-labelledby="preset-label"
            size="small"
          />
        </label>
        <Button type="submit" label="Add" size="small" />
        <p v-for="p in problems" :key="p.field" class="problem" role="alert">
          ■ {{ p.field }}: {{ p.message }}
        </p>
      </form>
      <Dialog
        :visible="renaming !== null"
        modal
        header="Rename board"
        @update:visible="renaming = null"
      >
        <form v-if="renaming" class="form" @submit.prevent="rename">
          <label>Board <InputText v-model="renaming.name" size="small" maxlength="40" /></label>
          <label>Title <InputText v-model="renaming.title" size="small" maxlength="120" /></label>
          <p v-for="p in problems" :key="p.field" class="problem" role="alert">■ {{ p.message }}</p>
          <Button type="submit" label="Save" size="small" />
        </form>
      </Dialog>
      <Dialog v-model:visible="importing" modal header="Import starters">
        <WorkBar :work="work" what="Import" />
        <form class="form" @submit.prevent="bring">
          <label
            >Starter file (JSON), one starter or a list
            <input
              type="file"
              accept=".json,application/json"
              @change="chosenFile = ($event.target as HTMLInputElement).files?.[0] ?? null"
          /></label>
          <label class="tick"
            ><input v-model="renumber" type="checkbox" /> Give the next free tag where one is
            taken</label
          >
          <p v-for="p in problems" :key="p.field" class="problem" role="alert">
            ■ {{ p.field }}: {{ p.message }}
          </p>
          <Button type="submit" label="Import" size="small" :disabled="!chosenFile" />
        </form>
      </Dialog>
    </template>
  </main>
</template>

<style scoped src="@/ui/page.css"></style>
<style scoped>
.form {
  display: grid;
  gap: 0.7rem;
  min-width: min(24rem, 80vw);
}
.form label {
  display: grid;
  gap: 0.2rem;
}
.form .tick {
  display: flex;
  gap: 0.5rem;
}
</style>
