<script setup lang="ts">
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'

import { client, type Cause } from '@/api/client'
import CausesList from '@/features/build/CausesList.vue'
import { useAsked, wordsOf } from '@/stores/asked'
import { useJournal } from '@/stores/journal'
import { usePlayer } from '@/stores/player'
import { useStarter } from '@/stores/starter'

/** From a complaint to what to look at. Nothing is written into the record unless somebody says so. */
const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ shown: [] }>()
const starter = useStarter()
const journal = useJournal()
const player = usePlayer()
const { data, said, ask } = useAsked(() =>
  client.GET('/api/starters/{starter_id}/symptoms', {
    params: { path: { starter_id: starter.id }, query: { order: journal.order } },
  }),
)
const find = ref('')
const list = computed(() =>
  (data.value?.symptoms ?? []).filter((s) =>
    find.value
      .toLowerCase()
      .split(/\s+/)
      .every((w) => s.words.toLowerCase().includes(w)),
  ),
)
const chosen = ref('')
const causes = ref<Cause[] | null>(null)
const covers = ref<string[]>([])
const failed = ref('')
const saved = ref(false)
watch(visible, (open) => {
  if (!open) return
  chosen.value = ''
  causes.value = null
  find.value = ''
  void ask()
})

async function choose(words: string): Promise<void> {
  const s = data.value?.symptoms.find((x) => x.words === words)
  if (!s) return
  chosen.value = words
  causes.value = null
  failed.value = ''
  saved.value = false
  const { data: answer, error } = await client
    .POST('/api/starters/{starter_id}/build/causes', {
      params: { path: { starter_id: starter.id } },
      body: {
        order: journal.order,
        stage: s.stage,
        step: s.step,
        seen: s.seen,
        measured: false,
        everywhere: true,
      },
    })
    .catch((e: unknown) => ({ data: undefined, error: e }))
  if (chosen.value !== words) return
  if (answer) {
    causes.value = answer.causes
    covers.value = answer.covers
  } else failed.value = wordsOf(error)
}
function save(): void {
  journal.add(starter.id, 'open', { text: `${chosen.value}: find the cause` })
  saved.value = true
}
async function insert(faults: readonly string[]): Promise<void> {
  await player.open(starter.id)
  await player.setFaults([...faults])
  visible.value = false
  emit('shown')
}
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    header="What is wrong?"
    :style="{ width: 'min(46rem, 96vw)' }"
    dismissable-mask
  >
    <p v-if="said" class="quiet">{{ said }}</p>
    <p v-else-if="!data" class="quiet">… working out what can be seen</p>
    <template v-else-if="!chosen">
      <InputText
        v-model="find"
        size="small"
        placeholder="drops out, lamp, S2 …"
        aria-label="Find"
      />
      <ul class="symptoms">
        <li v-for="s in list" :key="s.words">
          <button type="button" @click="choose(s.words)">{{ $say(s.words) }}</button>
        </li>
      </ul>
      <p v-if="!list.length" class="quiet">
        Not among the usual complaints. In Build, “Different” beside a step takes any observation.
      </p>
    </template>
    <template v-else>
      <p class="chosen">
        <b>{{ chosen }}</b>
        <button type="button" class="link" @click="chosen = ''">another</button>
      </p>
      <p v-if="failed" class="bad" role="alert">■ {{ failed }}</p>
      <p v-else-if="!causes" class="quiet" role="status">… trying every single fault</p>
      <template v-else>
        <CausesList :causes="causes" :covers="covers" whole @insert="insert" />
        <p class="caution">▲ Isolate, lock off and prove dead before touching.</p>
        <p class="foot">
          <button
            type="button"
            class="save"
            :disabled="!journal.who.trim() || saved"
            :title="journal.who.trim() ? '' : 'Enter your name under Recorded by first'"
            @click="save"
          >
            {{ saved ? '✓ saved as an open item' : 'Save as an open item' }}
          </button>
          <span class="quiet">Nothing is written into the record unless you save it.</span>
        </p>
      </template>
    </template>
  </Dialog>
</template>

<style scoped>
.symptoms {
  list-style: none;
  margin: 0.5rem 0 0;
  padding: 0;
}
.symptoms button {
  width: 100%;
  text-align: left;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: none;
  padding: 0.5rem 0.4rem;
  min-height: 2.6rem;
  cursor: pointer;
}
.symptoms button:hover {
  background: var(--accent-tint);
}
.chosen {
  display: flex;
  gap: 1rem;
  align-items: baseline;
  font-size: 1.1rem;
}
.caution {
  color: var(--attention);
}
.bad {
  color: var(--stop);
}
.foot {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1rem;
  align-items: center;
  margin-top: 0.6rem;
}
.save {
  border: 1px solid var(--accent);
  color: var(--accent);
  background: none;
  padding: 0.3rem 0.9rem;
  min-height: 2.4rem;
  cursor: pointer;
}
.save:disabled {
  color: var(--quiet);
  border-color: var(--rule-strong);
  cursor: not-allowed;
}
</style>
