<script setup lang="ts">
import { computed, ref } from 'vue'

import { client, problemsOf, type RecordView } from '@/api/client'
import ItemRow from '@/features/test/ItemRow.vue'
import ThumbFoot from '@/ui/ThumbFoot.vue'
import { SEVERITY } from '@/ui/words'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

/** Everything measured, set and tried, in working order; typed, or read from the panel meter. */
const props = defineProps<{ sheet: RecordView }>()
const emit = defineEmits<{ meter: [] }>()
const starter = useStarter()
const journal = useJournal()
const drafts = ref<Record<string, number>>({})
const said = ref('')
const reading = ref('')
const rows = ref<InstanceType<typeof ItemRow>[]>([])
const WORDS: Record<string, string> = {
  voltage: 'the voltages',
  frequency: 'the frequency',
  no_load: 'the no-load currents',
  load: 'the load currents',
  start: 'the start',
}
/** Items that are read together: the voltages, the currents without load, under load, the start. */
const kindOf = (id: string) => id.split('.')[0] ?? ''
const kinds = computed(() => {
  const found = new Map<string, string[]>()
  for (const g of props.sheet.groups)
    for (const r of g.items) {
      if (!r.item.meter) continue
      const key = `${g.key}|${kindOf(r.item.id)}`
      found.set(key, [...(found.get(key) ?? []), r.item.id])
    }
  return found
})
const kindsOf = (group: string) =>
  [...kinds.value.keys()].filter((k) => k.startsWith(`${group}|`)).map((k) => k.split('|')[1] ?? '')

async function read(group: string, kind: string): Promise<void> {
  const items = props.sheet.groups
    .flatMap((g) => g.items)
    .filter((r) => kinds.value.get(`${group}|${kind}`)?.includes(r.item.id))
  reading.value = kind
  said.value = ''
  const { data, error } = await client
    .POST('/api/starters/{starter_id}/meter/read', {
      params: { path: { starter_id: starter.id } },
      body: { quantities: items.map((r) => r.item.meter) },
    })
    .catch((e: unknown) => ({ data: undefined, error: e }))
  reading.value = ''
  if (!data) {
    said.value = problemsOf(error)[0]?.message ?? ''
    return
  }
  said.value = data.readout.problem
  for (const r of items) {
    const value = data.readout.values[r.item.meter]
    if (value !== undefined) drafts.value = { ...drafts.value, [r.item.id]: value }
  }
}
/** Typed or read, and not saved yet. */
const typed = ref(new Set<string>())
function note(id: string, has: boolean): void {
  const next = new Set(typed.value)
  if (has) next.add(id)
  else next.delete(id)
  typed.value = next
}
/** What is measured next stands first, marked. */
const nextItem = computed(
  () => props.sheet.groups.flatMap((g) => g.items).find((r) => !r.readings.length)?.item.id ?? '',
)
const list = ref<HTMLElement>()
function step(by: number): void {
  const items = [...(list.value?.querySelectorAll<HTMLElement>('.item') ?? [])]
  const top = items.findIndex((x) => x.getBoundingClientRect().bottom > 120)
  const to = items[Math.min(Math.max(top + by, 0), items.length - 1)]
  to?.scrollIntoView({ block: 'start' })
  to?.querySelector<HTMLElement>('input, button')?.focus({ preventScroll: true })
}
function toNext(): void {
  const to = list.value?.querySelector<HTMLElement>('.item.next')
  to?.scrollIntoView({ block: 'center' })
  to?.querySelector<HTMLElement>('input, button')?.focus({ preventScroll: true })
}
function forget(id: string): void {
  drafts.value = Object.fromEntries(Object.entries(drafts.value).filter(([k]) => k !== id))
}
function keepAll(): void {
  rows.value.forEach((r) => r.keep())
}
</script>

<template>
  <div ref="list" class="record">
    <p class="quiet">
      {{ sheet.measured }} of {{ sheet.wanted }} recorded. Earlier readings are kept; the last one
      counts.
    </p>
    <p v-for="w in [...sheet.clashes, ...sheet.clocks]" :key="w" class="warn" role="alert">
      ▲ {{ w }}
    </p>
    <p v-if="said" class="warn" role="alert">▲ {{ said }}</p>

    <section v-for="g in sheet.groups" :key="g.key" :aria-label="g.title">
      <div class="head">
        <h2 class="heading">{{ $say(g.title) }}</h2>
        <button
          v-for="k in kindsOf(g.key)"
          :key="k"
          type="button"
          :disabled="reading !== ''"
          @click="read(g.key, k)"
        >
          {{ reading === k ? 'Reading…' : `Read ${WORDS[k] ?? k} from the meter` }}
        </button>
        <button v-if="kindsOf(g.key).length" type="button" @click="emit('meter')">Meter…</button>
      </div>
      <ItemRow
        v-for="r in g.items"
        :key="r.item.id"
        ref="rows"
        :row="r"
        :draft="drafts[r.item.id]"
        fault=""
        :next="r.item.id === nextItem"
        @kept="forget(r.item.id)"
        @typed="note(r.item.id, $event)"
      />
      <template v-if="g.key === 'running' || g.key === 'supply'">
        <p
          v-for="u in sheet.unbalances.filter(
            (u) => u.title.includes('voltage') === (g.key === 'supply'),
          )"
          :key="u.title"
          class="unbalance"
        >
          {{ $say(u.title) }} <b class="figures">{{ u.value.toFixed(1) }} %</b>
          {{ SEVERITY[u.severity]?.mark }} {{ $say(u.words) }}
        </p>
      </template>
    </section>
    <ThumbFoot label="Readings">
      <button type="button" @click="step(-1)">Previous</button>
      <button v-if="nextItem" type="button" @click="toNext">Next to measure</button>
      <button type="button" @click="step(1)">Next</button>
      <button
        type="button"
        class="save"
        :disabled="!journal.who.trim() || typed.size === 0"
        @click="keepAll"
      >
        Save{{ typed.size ? ` ${typed.size} ${typed.size === 1 ? 'reading' : 'readings'}` : '' }}
      </button>
    </ThumbFoot>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
  margin-top: 1rem;
  border-bottom: 1px solid var(--rule-strong);
}
.heading {
  border: 0;
  margin: 0 auto 0 0;
  font-size: 1.05rem;
}
button {
  border: 1px solid var(--accent);
  color: var(--accent);
  background: var(--paper);
  min-height: 2.4rem;
  padding: 0.2rem 0.8rem;
  cursor: pointer;
}
.warn {
  color: var(--attention);
  padding: 0.2rem 0;
}
.unbalance {
  padding: 0.4rem 0;
  border-bottom: 1px solid var(--rule);
}
</style>
