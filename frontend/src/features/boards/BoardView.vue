<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import {
  client,
  problemsOf,
  type BoardOut,
  type Preset,
  type Problem,
  type StarterDocument,
} from '@/api/client'
import BoardCatalogues from '@/features/boards/BoardCatalogues.vue'
import VerdictMark from '@/ui/VerdictMark.vue'

const props = defineProps<{ boardId: number }>()
const router = useRouter()
const board = ref<BoardOut | null>(null)
const failed = ref('')
const tag = ref('')
const service = ref('')
const problems = ref<Problem[]>([])
const removing = ref<number | null>(null)
const copying = ref<number | null>(null)
const copyOf = computed(() => board.value?.starters.find((s) => s.id === copying.value))
const choosing = ref(false)
const presets = ref<Preset[]>([])
const preset = ref<number | null>(null)
const names = ref(new Map<number, string>())
const chosenNames = computed(() =>
  board.value?.catalogues.map((id) => names.value.get(id) ?? '…').join(', '),
)
const tagField = ref<InstanceType<typeof InputText> & { $el?: unknown }>()

async function load(): Promise<void> {
  const { data, error } = await client.GET('/api/boards/{board_id}', {
    params: { path: { board_id: props.boardId } },
  })
  board.value = data ?? null
  const [kept, catalogues] = await Promise.all([
    client.GET('/api/presets'),
    client.GET('/api/catalogues'),
  ])
  presets.value = kept.data?.presets ?? []
  names.value = new Map(catalogues.data?.catalogues.map((c) => [c.id, c.name]))
  failed.value = data ? '' : (problemsOf(error)[0]?.message ?? '')
  document.title = data ? `${data.name} · Volmek` : 'Volmek'
}
watch(() => props.boardId, load, { immediate: true })

function prepareCopy(id: number, of: string): void {
  copying.value = id
  service.value = of
  tag.value = ''
  problems.value = []
  ;(tagField.value?.$el as HTMLInputElement | undefined)?.focus()
}

async function copy(id: number): Promise<void> {
  const { data, error } = await client.POST('/api/starters/{starter_id}/copy', {
    params: { path: { starter_id: id } },
    body: { tag: tag.value.trim(), service: service.value.trim() },
  })
  if (data) await router.push(`/starters/${data.id}/plate`)
  else problems.value = problemsOf(error)
}

/** A new starter begins with the board's supply, control and surroundings, or with those of a preset. */
async function add(): Promise<void> {
  if (copying.value !== null) return copy(copying.value)
  const document = {
    ...board.value?.defaults,
    ...presets.value.find((p) => p.id === preset.value)?.parts,
    tag: tag.value.trim(),
    service: service.value.trim(),
  }
  const { data, error } = await client.POST('/api/boards/{board_id}/starters', {
    params: { path: { board_id: props.boardId } },
    body: { document: document as unknown as StarterDocument },
  })
  if (data) await router.push(`/starters/${data.id}/plate`)
  else problems.value = problemsOf(error)
}

async function remove(id: number): Promise<void> {
  const { error } = await client.DELETE('/api/starters/{starter_id}', {
    params: { path: { starter_id: id } },
  })
  removing.value = null
  await load()
  if (error) problems.value = problemsOf(error)
}
</script>

<template>
  <main class="page">
    <p v-if="failed" class="problem">■ {{ failed }}</p>
    <template v-if="board">
      <p class="quiet">{{ board.job }}</p>
      <h1>
        <span class="figures">{{ board.name }}</span> {{ board.title }}
      </h1>
      <p class="from">
        Devices from
        <b>{{ chosenNames }}</b>
        <Button label="Choose catalogues" size="small" text @click="choosing = true" />
      </p>
      <BoardCatalogues v-model:visible="choosing" :board="board" @chosen="board = $event" />
      <table>
        <thead>
          <tr>
            <th>Tag</th>
            <th>Service</th>
            <th class="num">Power</th>
            <th class="num">Supply</th>
            <th class="num">In</th>
            <th>Breaker or fuse</th>
            <th>Contactor</th>
            <th>Overload</th>
            <th class="num">Dial</th>
            <th>Findings</th>
            <th>Open</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in board.starters" :key="s.id">
            <td>
              <RouterLink :to="`/starters/${s.id}/plate`" class="figures tag">{{
                s.tag
              }}</RouterLink>
            </td>
            <td>
              {{ s.service
              }}<span v-if="s.practice === 'nec'" class="quiet practice">
                North American practice</span
              >
            </td>
            <td class="num figures">{{ s.power }}</td>
            <template v-if="!s.problem">
              <td class="num figures">{{ s.voltage }}</td>
              <td class="num figures">{{ s.current }}<span class="unit">A</span></td>
              <td class="figures">{{ s.breaker }}</td>
              <td class="figures">{{ s.contactor }}</td>
              <td :class="{ figures: s.relay, quiet: !s.relay }">
                {{ s.relay || 'in the breaker' }}
              </td>
              <td class="num figures">
                <b>{{ s.dial }}</b><span class="unit">A</span>
              </td>
              <td class="marks">
                <span v-if="s.stop"><VerdictMark verdict="stop" wordless /> {{ s.stop }}</span>
                <span v-if="s.attention"
                  ><VerdictMark verdict="attention" wordless /> {{ s.attention }}</span
                >
                <VerdictMark v-if="!s.stop && !s.attention" verdict="fine" />
              </td>
            </template>
            <td v-else colspan="7" class="quiet">○ only a plate so far: {{ s.problem }}</td>
            <td>
              <RouterLink v-if="s.open_points" :to="`/starters/${s.id}/test`" class="points"
                >▲ {{ s.open_points }}</RouterLink
              >
            </td>
            <td class="num">
              <template v-if="removing === s.id">
                <Button
                  label="Remove for good"
                  size="small"
                  severity="danger"
                  outlined
                  @click="remove(s.id)"
                />
                <Button label="Keep" size="small" text @click="removing = null" />
              </template>
              <template v-else>
                <Button
                  label="Copy"
                  size="small"
                  text
                  :aria-label="`Copy ${s.tag}`"
                  @click="prepareCopy(s.id, s.service)"
                />
                <Button
                  label="Remove"
                  size="small"
                  text
                  :aria-label="`Remove ${s.tag}`"
                  @click="removing = s.id"
                />
              </template>
            </td>
          </tr>
        </tbody>
      </table>
      <form class="entry" @submit.prevent="add">
        <label
          >{{ copyOf ? `Copy of ${copyOf.tag}, tag` : 'New starter, tag' }}
          <InputText ref="tagField" v-model="tag" size="small"
        /></label>
        <label class="wide">Service <InputText v-model="service" size="small" /></label>
        <label v-if="!copyOf && presets.length">
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
        <Button type="submit" :label="copyOf ? 'Copy' : 'Add'" size="small" />
        <Button
          v-if="copyOf"
          type="button"
          label="Cancel"
          size="small"
          text
          @click="copying = null"
        />
        <p v-for="p in problems" :key="p.field" class="problem" role="alert">
          ■ {{ p.field }}: {{ p.message }}
        </p>
      </form>
    </template>
  </main>
</template>

<style scoped src="@/ui/page.css"></style>
