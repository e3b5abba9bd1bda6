<script setup lang="ts">
import { computed, ref } from 'vue'

import { client, problemsOf, type Cause, type CheckRow, type StageRow } from '@/api/client'
import CausesList from '@/features/build/CausesList.vue'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

/** Readings with everything dead: what the meter must read, what it read, and what it can be when it reads something else. */
const props = defineProps<{ stage: StageRow }>()
const journal = useJournal()
const starter = useStarter()
const READS = [
  { value: 'closed', label: 'closed' },
  { value: 'coil', label: 'coil' },
  { value: 'open', label: 'open' },
]
const able = computed(
  () =>
    journal.who.trim() !== '' &&
    props.stage.isolated &&
    props.stage.locked &&
    props.stage.proved_dead,
)
const onTheWay = computed(
  () =>
    new Map(
      journal
        .pending(starter.id, 'check')
        .filter((e) => e.body.stage === props.stage.title)
        .map((e) => [e.body.check as string, e.body.reads as string]),
    ),
)
const rows = computed(() =>
  props.stage.checks.map((c) => ({ ...c, read: onTheWay.value.get(c.id) ?? c.read })),
)
const causes = ref<{ id: string; causes: Cause[]; covers: string[] } | null>(null)
const failed = ref('')

async function read(c: CheckRow, reads: string): Promise<void> {
  journal.add(starter.id, 'check', { stage: props.stage.title, check: c.id, reads })
  causes.value = null
  failed.value = ''
  if (reads === c.reads) return
  const { data, error } = await client
    .POST('/api/starters/{starter_id}/build/causes', {
      params: { path: { starter_id: starter.id } },
      body: { order: journal.order, stage: props.stage.title, check: c.id, reads },
    })
    .catch((e: unknown) => ({ data: undefined, error: e }))
  if (data) causes.value = { id: c.id, ...data }
  else failed.value = problemsOf(error)[0]?.message ?? ''
}
</script>

<template>
  <section>
    <h3 class="heading">Read with everything dead</h3>
    <p v-if="!stage.isolated || !stage.locked || !stage.proved_dead" class="quiet">
      First isolate, lock off and prove dead, above.
    </p>
    <table>
      <thead>
        <tr>
          <th>From</th>
          <th>To</th>
          <th>Condition</th>
          <th>Must read</th>
          <th>Reads</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="c in rows" :key="c.id">
          <tr :class="{ wrong: c.read && c.read !== c.reads }">
            <td class="figures">{{ c.a }}</td>
            <td class="figures">{{ c.b }}</td>
            <td>{{ $say(c.held) }}</td>
            <td>
              <b>{{ c.reads }}</b>
            </td>
            <td>
              <span role="group" :aria-label="`${c.a} to ${c.b}, ${c.held}, reads`" class="choice">
                <button
                  v-for="r in READS"
                  :key="r.value"
                  type="button"
                  :aria-pressed="c.read === r.value"
                  :disabled="!able"
                  @click="read(c, r.value)"
                >
                  {{ r.label }}
                </button>
              </span>
              <span v-if="c.read" class="mark">{{ c.read === c.reads ? '✓' : '■ differs' }}</span>
            </td>
          </tr>
          <tr v-if="causes?.id === c.id">
            <td colspan="5"><CausesList :causes="causes.causes" :covers="causes.covers" /></td>
          </tr>
        </template>
      </tbody>
    </table>
    <p v-if="failed" class="wrong">■ {{ failed }}</p>
  </section>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-size: 0.86rem;
  padding: 0.15rem 0.4rem;
  border-bottom: 1px solid var(--rule-strong);
}
td {
  padding: 0.2rem 0.4rem;
  border-bottom: 1px solid var(--rule);
}
.wrong td,
.wrong .mark {
  color: var(--stop);
}
.choice {
  display: inline-flex;
}
.choice button {
  border: 1px solid var(--rule-strong);
  margin-left: -1px;
  background: var(--paper);
  padding: 0.2rem 0.6rem;
  min-height: 2.4rem;
  cursor: pointer;
}
.choice button:disabled {
  color: var(--quiet);
  cursor: not-allowed;
}
.choice button[aria-pressed='true'] {
  background: var(--ink);
  color: var(--paper);
  font-weight: 650;
}
.mark {
  margin-left: 0.5rem;
  white-space: nowrap;
}
@media (max-width: 40em) {
  thead {
    display: none;
  }
  table,
  tbody {
    display: block;
  }
  tr {
    display: grid;
    grid-template-columns: auto auto minmax(0, 1fr);
    gap: 0.1rem 0.8rem;
    border: 1px solid var(--rule-strong);
    background: var(--paper);
    margin-bottom: 0.5rem;
    padding: 0.3rem;
  }
  td {
    border: 0;
  }
  td:nth-child(4),
  td:nth-child(5),
  td[colspan] {
    grid-column: 1 / -1;
  }
  td:nth-child(4)::before {
    content: 'must read ';
    color: var(--quiet);
  }
  .choice {
    display: flex;
  }
  .choice button {
    flex: 1;
    min-height: 48px;
  }
}
</style>
