<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { client, type WireRow } from '@/api/client'
import ChecksTable from '@/features/build/ChecksTable.vue'
import StepsList from '@/features/build/StepsList.vue'
import WhoBar from '@/features/build/WhoBar.vue'
import WhatIsWrong from '@/features/build/WhatIsWrong.vue'
import WireTable from '@/features/build/WireTable.vue'
import CircuitDrawing from '@/features/circuit/CircuitDrawing.vue'
import { useAsked } from '@/stores/asked'
import { useJournal, type Order } from '@/stores/journal'
import { useStarter } from '@/stores/starter'
import ThumbFoot from '@/ui/ThumbFoot.vue'

/** The build: wire by wire, stage by stage, each stage ending with what must be seen. */
const starter = useStarter()
const router = useRouter()
const journal = useJournal()
const at = ref(0)
const view = ref<'stages' | 'list'>('stages')
const sort = ref<'stage' | 'device' | 'group'>('stage')
const picked = ref('')
const which = ref<'control' | 'power'>('control')
const drawn = ref<InstanceType<typeof CircuitDrawing>>()
let placed = false

const { data, said, ask } = useAsked(() =>
  client.GET('/api/starters/{starter_id}/build', {
    params: { path: { starter_id: starter.id }, query: { order: journal.order } },
  }),
)
const sheet = computed(() => data.value?.sheet ?? null)
async function load(): Promise<void> {
  const answer = await ask()
  if (!answer) return
  journal.shown(starter.id, answer.sheet.last)
  if (!placed)
    at.value = Math.max(
      answer.sheet.stages.findIndex((s) => !s.done),
      0,
    )
  placed = true
}
const asked = useAsked(() =>
  client.GET('/api/starters/{starter_id}/circuit', {
    params: { path: { starter_id: starter.id } },
  }),
)
const circuit = computed(() => asked.data.value?.sheet ?? null)
watch(() => [starter.saved, journal.order, journal.arrived], load, { immediate: true })
watch(() => starter.saved, asked.ask, { immediate: true })

/** The stage, with the isolation that was just ticked. */
const stage = computed(() => {
  const shown = sheet.value?.stages[at.value]
  const ticked = journal
    .pending(starter.id, 'isolated')
    .filter((e) => e.body.stage === shown?.title)
    .pop()?.body
  return shown && ticked ? { ...shown, ...(ticked as object) } : shown
})
const wiresOf = computed(() => {
  const keys = new Set(stage.value?.wires)
  return sheet.value?.wires.filter((w) => keys.has(w.item.key)) ?? []
})
watch(
  () => stage.value?.kind,
  (kind) => (which.value = kind === 'power' || kind === 'motor' ? 'power' : 'control'),
)
const drawing = computed(() =>
  which.value === 'control' && circuit.value?.control
    ? circuit.value.control
    : (circuit.value?.power ?? null),
)
const pickedWire = computed(() => sheet.value?.wires.find((w) => w.item.key === picked.value))
const dead = computed(
  () => stage.value && stage.value.isolated && stage.value.locked && stage.value.proved_dead,
)

function fit(): void {
  void nextTick(bringNext)
}
/** The conductor that is next, or the one picked, is brought into the middle of the picture. */
function bringNext(): void {
  const picked = pickedWire.value?.item
  const ends = new Set(picked ? [picked.a, picked.b, ...picked.within] : [])
  const mark = drawing.value?.marks.find(
    (m) =>
      m.shape.kind === 'line' && (picked ? ends.has(m.at) : sheet.value?.work[m.at] === 'next'),
  )
  const [x, y] = mark?.shape.points ?? []
  if (x !== undefined && y !== undefined) drawn.value?.bring(x, y)
}
watch(
  () => [drawing.value?.width, view.value],
  () => void nextTick(fit),
)
watch(
  () => [picked.value, sheet.value?.next],
  () => void nextTick(bringNext),
)
function pick(w: WireRow): void {
  picked.value = w.item.key
  which.value = w.item.side === 'power' ? 'power' : 'control'
}
const TICKS = [
  { key: 'isolated', words: 'Isolated' },
  { key: 'locked', words: 'Locked off' },
  { key: 'proved_dead', words: 'Proved dead' },
] as const
function isolate(key: (typeof TICKS)[number]['key']): void {
  if (!stage.value) return
  const { title, isolated, locked, proved_dead } = stage.value
  const now = { isolated, locked, proved_dead }
  journal.add(starter.id, 'isolated', { stage: title, ...now, [key]: !now[key] })
}

/** The whole list, by stage, by device or by where it is laid. */
const groups = computed(() => {
  const found = new Map<string, WireRow[]>()
  const titles = new Map(sheet.value?.stages.map((s) => [s.number, `${s.number} ${s.title}`]))
  for (const w of sheet.value?.wires ?? []) {
    const names =
      sort.value === 'stage'
        ? [titles.get(w.item.stage) ?? '']
        : sort.value === 'group'
          ? [w.item.group]
          : [...new Set([w.item.a, w.item.b].map((t) => t.split(':')[0] ?? ''))]
    for (const name of names) found.set(name, [...(found.get(name) ?? []), w])
  }
  return sort.value === 'device'
    ? [...found.entries()].sort(([a], [b]) => a.localeCompare(b, 'en', { numeric: true }))
    : [...found.entries()]
})
const asking = ref(false)
function print(): void {
  window.print()
}
</script>

<template>
  <div class="build">
    <WhoBar />
    <p v-if="said" class="quiet empty">No build plan yet: {{ said }}</p>
    <template v-else-if="sheet && stage">
      <div class="bar" role="toolbar" aria-label="Build">
        <span role="group" aria-label="View">
          <button type="button" :aria-pressed="view === 'stages'" @click="view = 'stages'">
            Stage by stage
          </button>
          <button type="button" :aria-pressed="view === 'list'" @click="view = 'list'">
            Wire list
          </button>
        </span>
        <span v-if="view === 'list'" role="group" aria-label="Sorted by">
          <button type="button" :aria-pressed="sort === 'stage'" @click="sort = 'stage'">
            By stage
          </button>
          <button type="button" :aria-pressed="sort === 'device'" @click="sort = 'device'">
            By device
          </button>
          <button type="button" :aria-pressed="sort === 'group'" @click="sort = 'group'">
            By place
          </button>
        </span>
        <label v-else class="order">
          First
          <select
            :value="journal.order"
            aria-label="Which circuit is wired first"
            @change="journal.setOrder(($event.target as HTMLSelectElement).value as Order)"
          >
            <option value="control_first">control: tried without power</option>
            <option value="power_first">power: heavy conductors in first</option>
          </select>
        </label>
        <p class="figures progress">{{ sheet.laid }} of {{ sheet.wires.length }} connected</p>
        <span class="files">
          <a :href="`/api/starters/${starter.id}/wires.csv?order=${journal.order}`">CSV</a>
          <button type="button" @click="asking = true">What is wrong?</button>
          <button type="button" @click="print">Print</button>
        </span>
      </div>
      <div v-if="view === 'list'" class="list" tabindex="0" role="region" aria-label="Wire list">
        <section v-for="[name, wires] in groups" :key="name">
          <h3 class="heading">{{ name }}</h3>
          <WireTable :wires="wires" :next="sheet.next" :picked="picked" @pick="pick" />
        </section>
      </div>
      <div v-else class="both">
        <nav class="stagelist" aria-label="Stages of the build">
          <button
            v-for="(s, i) in sheet.stages"
            :key="s.title"
            type="button"
            :aria-current="i === at ? 'step' : undefined"
            @click="at = i"
          >
            <span class="figures">{{ s.number }}</span>
            <span class="title">{{ $say(s.title) }}</span>
            <span class="figures how">{{ s.done ? '✓' : `${s.laid}/${s.wires.length}` }}</span>
          </button>
        </nav>
        <div class="work" tabindex="0" role="region" :aria-label="stage.title">
          <h2>{{ stage.number }} {{ $say(stage.title) }}</h2>
          <p class="quiet">{{ $say(stage.why) }}</p>
          <ul class="cautions">
            <li v-for="c in stage.cautions" :key="c">▲ {{ $say(c) }}</li>
          </ul>
          <div class="isolation" role="group" aria-label="Isolation">
            <button
              v-for="t in TICKS"
              :key="t.key"
              type="button"
              :aria-pressed="stage[t.key]"
              :disabled="!journal.who.trim()"
              @click="isolate(t.key)"
            >
              {{ stage[t.key] ? '✓ ' : '' }}{{ t.words }}
            </button>
            <span v-if="!dead" class="warn">before any wire is touched</span>
          </div>
          <h3 class="heading">Connect these wires</h3>
          <WireTable :wires="wiresOf" :next="sheet.next" :picked="picked" @pick="pick" />
          <ChecksTable v-if="stage.checks.length" :stage="stage" class="part" />
          <StepsList v-if="stage.steps.length" :stage="stage" class="part" />
          <p v-if="stage.done" class="fine">
            ✓ Everything in this stage reads and works as expected.
            <button v-if="at + 1 < sheet.stages.length" type="button" class="go" @click="at++">
              Next: {{ $say(sheet.stages[at + 1]?.title ?? '') }}
            </button>
          </p>
          <ThumbFoot label="Stage" class="only-thumb">
            <button type="button" :disabled="at === 0" @click="at--">Previous</button>
            <select v-model="at" aria-label="Stage of the build">
              <option v-for="(s, i) in sheet.stages" :key="s.title" :value="i">
                {{ s.done ? '✓ ' : '' }}{{ s.number }} of {{ sheet.stages.length }}
              </option>
            </select>
            <button type="button" :disabled="at + 1 === sheet.stages.length" @click="at++">
              Next
            </button>
          </ThumbFoot>
        </div>
        <aside class="picture">
          <div class="which" role="group" aria-label="Which drawing">
            <button
              type="button"
              :aria-pressed="which === 'control'"
              :disabled="!circuit?.control"
              @click="which = 'control'"
            >
              Control
            </button>
            <button type="button" :aria-pressed="which === 'power'" @click="which = 'power'">
              Power
            </button>
            <span class="key"
              ><i class="k-done" />connected <i class="k-next" />next <i class="k-open" />open</span
            >
          </div>
          <CircuitDrawing
            v-if="drawing"
            ref="drawn"
            class="drawing"
            :drawing="drawing"
            :frame="null"
            :closed="circuit?.rest"
            :picked="pickedWire ? `wire:${pickedWire.item.number}` : ''"
            :colours="{}"
            :work="sheet.work"
          />
          <p v-if="pickedWire" class="about figures" role="status">
            wire {{ pickedWire.item.number }}: {{ pickedWire.item.a }} to {{ pickedWire.item.b }}
          </p>
        </aside>
      </div>
    </template>
    <WhatIsWrong v-model:visible="asking" @shown="router.push(`/starters/${starter.id}/circuit`)" />
  </div>
</template>

<style scoped>
.build {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1rem;
  align-items: center;
  padding: 0.35rem 1rem;
  border-bottom: 1px solid var(--rule-strong);
}
.bar button,
.bar select,
.which button {
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.15rem 0.7rem;
  min-height: 2.2rem;
  cursor: pointer;
}
.bar button[aria-pressed='true'],
.which button[aria-pressed='true'] {
  background: var(--accent-tint);
  border-color: var(--accent);
  font-weight: 650;
}
.order {
  display: flex;
  gap: 0.4rem;
  align-items: center;
}
.files {
  margin-left: auto;
  display: flex;
  gap: 0.7rem;
  align-items: center;
}
.both {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template: 'stages picture' auto 'work picture' minmax(0, 1fr) / minmax(0, 1fr) minmax(
      0,
      23rem
    );
}
.stagelist {
  grid-area: stages;
  display: flex;
  flex-wrap: wrap;
  gap: 0.25rem;
  padding: 0.5rem 1rem;
  border-bottom: 1px solid var(--rule);
}
.stagelist button {
  display: flex;
  gap: 0.4rem;
  align-items: baseline;
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.3rem 0.6rem;
  min-height: 2.2rem;
  cursor: pointer;
}
.stagelist [aria-current] {
  border-color: var(--accent);
  background: var(--accent-tint);
  font-weight: 650;
}
.how {
  color: var(--quiet);
  font-size: 0.85rem;
}
.work {
  grid-area: work;
  overflow-y: auto;
  padding: 0.6rem 1rem 2rem;
}
.work h2 {
  font-size: 1.2rem;
}
.work .heading {
  margin-top: 0.9rem;
}
.cautions {
  list-style: none;
  margin: 0.3rem 0;
  padding: 0;
  color: var(--attention);
}
.isolation {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
}
.isolation button,
.go {
  border: 1.5px solid var(--ink);
  background: var(--paper);
  padding: 0.3rem 1rem;
  min-height: 2.6rem;
  cursor: pointer;
}
.isolation button[aria-pressed='true'] {
  background: var(--ink);
  color: var(--paper);
}
.isolation button:disabled {
  border-color: var(--rule-strong);
  color: var(--quiet);
  cursor: not-allowed;
}
.warn {
  color: var(--attention);
}
.part {
  margin-top: 0.9rem;
}
.fine {
  margin-top: 0.8rem;
  color: var(--fine);
  font-weight: 650;
}
.picture {
  grid-area: picture;
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-left: 1px solid var(--rule-strong);
}
.which {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 0.35rem 0.6rem;
}
.key {
  margin-left: auto;
  display: flex;
  gap: 0.35rem;
  align-items: center;
  font-size: 0.86rem;
  color: var(--quiet);
}
.key i {
  display: inline-block;
  width: 1.5rem;
  border-top: 2px solid var(--ink);
}
.key .k-next {
  border-top: 5px solid var(--accent);
}
.key .k-open {
  border-top: 2px dotted var(--rule-strong);
}
.drawing {
  flex: 1;
}
.about {
  padding: 0.3rem 0.6rem;
  border-top: 1px solid var(--rule);
}
.list {
  overflow-y: auto;
  padding: 0.6rem 1rem 2rem;
}
.list section {
  margin-bottom: 1rem;
  break-inside: avoid;
}
.empty {
  padding: 1.2rem 1rem;
}
@media (max-width: 62.5em) {
  .build {
    height: auto;
  }
  .both {
    grid-template: 'stages' auto 'picture' 17rem 'work' auto / minmax(0, 1fr);
  }
  .picture {
    border-left: 0;
    border-bottom: 1px solid var(--rule-strong);
  }
  .work,
  .list {
    overflow: visible;
  }
}
.only-thumb {
  display: none;
}
/* with one thumb: the stage before and the next one at the foot, in place of the list */
@media (max-width: 40em) {
  .stagelist {
    display: none;
  }
  .only-thumb {
    display: flex;
  }
  .isolation button {
    flex: 1;
    min-height: 48px;
  }
}
@media print {
  .bar,
  .stagelist,
  .picture {
    display: none;
  }
  .both {
    display: block;
  }
  .work,
  .list {
    overflow: visible;
  }
}
</style>
