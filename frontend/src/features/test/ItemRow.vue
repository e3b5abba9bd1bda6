<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { ItemRow } from '@/api/client'
import { SEVERITY } from '@/ui/words'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

/** One thing that is measured, set or tried: how, its limit, what was read, and the verdict with its reason. */
const props = defineProps<{ row: ItemRow; draft?: number; fault: string; next?: boolean }>()
const emit = defineEmits<{ kept: []; typed: [has: boolean] }>()
const journal = useJournal()
const starter = useStarter()
const text = ref('')
const open = ref(false)
const waiting = computed(() =>
  journal.pending(starter.id, 'reading').filter((e) => e.body.item === props.row.item.id),
)
const able = computed(() => journal.who.trim() !== '')
const latest = computed(() => props.row.readings[0])
const problem = computed(() => {
  const mine = journal
    .refusedOf(starter.id)
    .filter((r) => r.entry.kind === 'reading' && r.entry.body.item === props.row.item.id)
  return mine[mine.length - 1]
})
watch(
  () => props.draft,
  (value) => {
    if (value !== undefined) text.value = String(Number(value.toPrecision(4)))
  },
)

function write(value: number | string, more: Record<string, unknown> = {}): void {
  if (problem.value) journal.dismiss(problem.value.entry.key)
  journal.add(starter.id, 'reading', { item: props.row.item.id, value, ...more })
}
function keep(): void {
  const typed = text.value.trim().replace(',', '.')
  if (typed === '') return
  const number = Number(typed)
  const fromMeter =
    props.draft !== undefined && typed === String(Number(props.draft.toPrecision(4)))
  write(Number.isNaN(number) ? typed : number, { source: fromMeter ? 'meter' : 'typed' })
  text.value = ''
  emit('kept')
}
watch(text, (now) => emit('typed', now.trim() !== ''))
defineExpose({ keep })
function meant(): void {
  const p = problem.value
  if (p) write(p.entry.body.value as number, { confirmed: true, source: p.entry.body.source })
}
const RESULT: Record<string, string> = {
  fine: 'Pass',
  attention: 'Investigate',
  stop: 'Fail',
  info: 'Noted',
}
const shown = (value: number | string) =>
  typeof value === 'number' ? String(Number(value.toPrecision(4))) : value
const day = (iso: string) => iso.slice(0, 10)
</script>

<template>
  <div class="item" :class="[latest?.severity, { next }]">
    <div class="what">
      <p class="title">
        {{ $say(row.item.title) }}<span v-if="next" class="nextmark"> ◂ next</span>
      </p>
      <p class="quiet">{{ row.item.how }}</p>
      <p v-if="row.item.caution" class="caution">▲ {{ $say(row.item.caution) }}</p>
    </div>
    <div class="limit">
      <p v-if="row.item.expected">{{ row.item.expected }}</p>
      <p v-if="row.item.kind === 'number' && row.limit" class="quiet">{{ $say(row.limit) }}</p>
      <p v-if="row.item.source" class="source">{{ row.item.source }}</p>
    </div>
    <div class="value">
      <form v-if="row.item.kind === 'number'" class="entry" @submit.prevent="keep">
        <input
          v-model="text"
          inputmode="decimal"
          :aria-label="row.item.title"
          :class="{ meter: draft !== undefined && text !== '' }"
        />
        <span class="unit">{{ row.item.unit }}</span>
        <button type="submit" :disabled="!able || text.trim() === ''">Save</button>
      </form>
      <div v-else class="choices" role="group" :aria-label="row.item.title">
        <button
          v-for="c in row.item.choices"
          :key="c"
          type="button"
          :aria-pressed="latest?.value === c"
          :disabled="!able"
          @click="write(c)"
        >
          {{ c }}
        </button>
      </div>
      <p v-if="problem" class="problem" role="alert">
        ■ {{ problem.problems[0]?.message }}
        <button v-if="problem.problems[0]?.field === 'confirmed'" type="button" @click="meant">
          Confirm
        </button>
      </p>
      <p v-if="fault" class="problem">▲ {{ fault }}</p>
      <p v-for="e in waiting" :key="e.key" class="quiet">
        … {{ shown(e.body.value as number) }} {{ row.item.unit }} on its way
      </p>
      <p v-if="latest" class="verdict">
        <b class="figures">{{ shown(latest.value) }} {{ row.item.unit }}</b>
        <span class="mark"
          >{{ SEVERITY[latest.severity]?.mark }} {{ RESULT[latest.severity] }}</span
        >
        <span v-if="latest.severity !== 'fine'">{{ $say(latest.words) }}</span>
        <span class="quiet">
          {{ latest.who }}, {{ day(latest.said) }}{{ latest.source === 'meter' ? ', meter' : '' }}
        </span>
        <button
          v-if="row.readings.length > 1"
          type="button"
          class="link"
          :aria-expanded="open"
          @click="open = !open"
        >
          {{ row.readings.length - 1 }} earlier
        </button>
      </p>
      <ul v-if="open" class="earlier">
        <li v-for="r in row.readings.slice(1)" :key="r.id" class="figures">
          {{ day(r.said) }} {{ shown(r.value) }} {{ row.item.unit }}
          <span class="quiet">{{ r.who }}</span>
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.item {
  display: grid;
  grid-template-columns: minmax(0, 1.3fr) minmax(0, 0.9fr) minmax(0, 1.4fr);
  gap: 0.3rem 1.2rem;
  padding: 0.5rem 0;
  border-bottom: 1px solid var(--rule);
}
.title {
  font-weight: 650;
}
.what .quiet,
.limit .quiet {
  font-size: 0.92rem;
}
.source {
  font-size: 0.82rem;
  color: var(--quiet);
}
.caution {
  color: var(--attention);
  font-size: 0.88rem;
}
.entry {
  display: flex;
  align-items: center;
  gap: 0.4rem;
}
input {
  width: 7rem;
  min-height: 2.6rem;
  font-family: var(--figures);
  font-size: 1.1rem;
  text-align: right;
  padding: 0 0.5rem;
  border: 1px solid var(--rule-strong);
  background: var(--paper);
}
input.meter {
  border: 2px solid var(--accent);
}
.unit {
  min-width: 2.2rem;
}
button {
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  min-height: 2.6rem;
  padding: 0.2rem 0.9rem;
  cursor: pointer;
  text-align: left;
}
button:disabled {
  color: var(--quiet);
  cursor: not-allowed;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
}
.choices [aria-pressed='true'] {
  background: var(--ink);
  color: var(--paper);
}
.verdict {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 0.8rem;
  align-items: baseline;
  margin-top: 0.25rem;
}
.mark {
  font-weight: 650;
}
.stop .mark {
  color: var(--stop);
}
.attention .mark {
  color: var(--attention);
}
.fine .mark {
  color: var(--fine);
}
.problem {
  color: var(--stop);
  margin-top: 0.25rem;
}
.problem button {
  margin-left: 0.6rem;
}
.link {
  border: 0;
  background: none;
  color: var(--accent);
  text-decoration: underline;
  padding: 0;
  min-height: 1.8rem;
}
.earlier {
  margin: 0;
  padding-left: 1rem;
}
.next {
  box-shadow: inset 3px 0 0 var(--accent);
  margin-left: -0.7rem;
  padding-left: 0.7rem;
}
.nextmark {
  color: var(--accent);
  font-weight: 500;
}
@media (max-width: 68.75em) {
  .item {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  .limit {
    grid-row: 2;
  }
  .value {
    grid-row: 1 / span 2;
    grid-column: 2;
  }
}
@media (max-width: 38.75em) {
  .item {
    grid-template-columns: minmax(0, 1fr);
    border: 1px solid var(--rule-strong);
    background: var(--sheet);
    padding: 0.7rem;
    margin: 0.7rem 0 0;
    scroll-margin-top: 0.5rem;
  }
  .limit,
  .value {
    grid-column: 1;
    grid-row: auto;
  }
  .entry {
    flex-wrap: wrap;
  }
  .entry input {
    flex: 1;
    min-height: 48px;
    font-size: 1.3rem;
  }
  .entry button {
    flex-basis: 100%;
    min-height: 48px;
    text-align: center;
    border-color: var(--accent);
  }
  .choices button {
    flex: 1 1 100%;
    min-height: 48px;
  }
}
</style>
