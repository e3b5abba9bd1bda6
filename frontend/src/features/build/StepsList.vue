<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { client, problemsOf, type Cause, type StageRow, type StepRow } from '@/api/client'
import CausesList from '@/features/build/CausesList.vue'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

/** "Test under voltage": each operation with what must be seen; where something else is seen, what gives exactly that. */
const props = defineProps<{ stage: StageRow }>()
const journal = useJournal()
const starter = useStarter()
const able = computed(() => journal.who.trim() !== '' && props.stage.missing === '')
const telling = ref<number | null>(null)
const seen = ref<Record<string, string>>({})
const causes = ref<Cause[] | null>(null)
const covers = ref<string[]>([])
const failed = ref('')
const onTheWay = computed(
  () =>
    new Map(
      journal
        .pending(starter.id, 'step')
        .filter((e) => e.body.stage === props.stage.title)
        .map((e) => [e.body.step as number, e.body.different as Record<string, string>]),
    ),
)
const rows = computed(() =>
  props.stage.steps.map((s) => {
    const mine = onTheWay.value.get(s.number)
    return mine ? { ...s, seen: Object.keys(mine).length === 0, different: mine } : s
  }),
)
watch(
  () => props.stage.title,
  () => (telling.value = null),
)

function right(s: StepRow): void {
  telling.value = null
  journal.add(starter.id, 'step', { stage: props.stage.title, step: s.number, different: {} })
}
function tell(s: StepRow): void {
  telling.value = telling.value === s.number ? null : s.number
  seen.value = { ...s.state }
  causes.value = null
  failed.value = ''
}
function differences(s: StepRow): Record<string, string> {
  return Object.fromEntries(Object.entries(seen.value).filter(([k, v]) => s.state[k] !== v))
}
function save(s: StepRow): void {
  const different = differences(s)
  journal.add(starter.id, 'step', { stage: props.stage.title, step: s.number, different })
}
/** Asking writes nothing. */
async function look(s: StepRow): Promise<void> {
  const different = differences(s)
  const { data, error } = await client
    .POST('/api/starters/{starter_id}/build/causes', {
      params: { path: { starter_id: starter.id } },
      body: { order: journal.order, stage: props.stage.title, step: s.number, seen: different },
    })
    .catch((e: unknown) => ({ data: undefined, error: e }))
  causes.value = data?.causes ?? null
  covers.value = data?.covers ?? []
  if (!data) failed.value = problemsOf(error)[0]?.message ?? ''
}
</script>

<template>
  <section>
    <h3 class="heading">Test under voltage</h3>
    <p v-if="stage.missing" class="warn">▲ Not energised yet: {{ stage.missing }}.</p>
    <ol>
      <li v-for="s in rows" :key="s.number" :class="{ wrong: s.seen === false }">
        <div class="row">
          <div>
            <p>{{ $say(s.words) }}</p>
            <p class="sees">
              <b>{{ $say(s.sees.join('; ')) }}</b>
              <span v-if="s.because" class="quiet">, {{ $say(s.because) }}</span>
            </p>
            <p v-if="s.seen === false" class="differs">
              ■ seen instead:
              {{
                Object.entries(s.different)
                  .map(([k, v]) => `${k} ${v}`)
                  .join(', ')
              }}
            </p>
          </div>
          <span class="answer">
            <button
              type="button"
              :aria-pressed="s.seen === true"
              :disabled="!able"
              :aria-label="`Step ${s.number + 1}: as expected`"
              @click="right(s)"
            >
              <span v-if="s.seen === true" aria-hidden="true">✓ </span>As expected
            </button>
            <button
              type="button"
              :aria-expanded="telling === s.number"
              :aria-label="`Step ${s.number + 1}: different`"
              @click="tell(s)"
            >
              Different
            </button>
          </span>
        </div>
        <div v-if="telling === s.number" class="tell">
          <p>What was seen?</p>
          <div class="states">
            <label v-for="(state, name) in s.state" :key="name">
              <span class="figures">{{ name }}</span>
              <select v-model="seen[name]" :aria-label="`${name} was`">
                <option v-for="o in s.choices[name] ?? [state]" :key="o" :value="o">
                  {{ o }}{{ o === state ? ' (as expected)' : '' }}
                </option>
              </select>
            </label>
          </div>
          <button
            type="button"
            class="ask"
            :disabled="Object.keys(differences(s)).length === 0"
            @click="look(s)"
          >
            Possible causes
          </button>
          <button
            type="button"
            :disabled="!able || Object.keys(differences(s)).length === 0"
            @click="save(s)"
          >
            Save as different
          </button>
          <CausesList v-if="causes" :causes="causes" :covers="covers" />
          <p v-if="failed" class="differs">■ {{ failed }}</p>
        </div>
      </li>
    </ol>
  </section>
</template>

<style scoped>
ol {
  margin: 0;
  padding-left: 1.6rem;
}
li {
  border-bottom: 1px solid var(--rule);
  padding: 0.25rem 0;
}
li::marker {
  font-family: var(--figures);
}
.row {
  display: flex;
  gap: 1rem;
  justify-content: space-between;
  align-items: center;
}
.warn {
  color: var(--attention);
  padding-bottom: 0.3rem;
}
.differs {
  color: var(--stop);
}
.answer {
  display: flex;
  flex-shrink: 0;
}
button,
select {
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  padding: 0.2rem 0.8rem;
  min-height: 2.5rem;
  cursor: pointer;
}
button:disabled {
  color: var(--quiet);
  cursor: not-allowed;
}
button + button {
  margin-left: -1px;
}
button[aria-pressed='true'] {
  background: var(--ink);
  color: var(--paper);
}
.tell {
  background: var(--tint);
  padding: 0.6rem 0.8rem;
  margin: 0.3rem 0;
}
.states {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 1rem;
  margin: 0.4rem 0;
}
.states label {
  display: flex;
  gap: 0.4rem;
  align-items: center;
}
.ask {
  border-color: var(--accent);
  color: var(--accent);
  font-weight: 650;
}
@media (max-width: 40em) {
  .row {
    flex-direction: column;
    align-items: stretch;
    gap: 0.4rem;
  }
  .answer > button {
    flex: 1;
  }
  button,
  select {
    min-height: 48px;
  }
}
</style>
