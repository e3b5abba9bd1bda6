<script setup lang="ts">
import Tab from 'primevue/tab'
import TabList from 'primevue/tablist'
import TabPanel from 'primevue/tabpanel'
import TabPanels from 'primevue/tabpanels'
import Tabs from 'primevue/tabs'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { client } from '@/api/client'
import WhatIsWrong from '@/features/build/WhatIsWrong.vue'
import EditPanel from '@/features/circuit/EditPanel.vue'
import ChangePanel from '@/features/circuit/ChangePanel.vue'
import CircuitTables from '@/features/circuit/CircuitTables.vue'
import FaultPanel from '@/features/circuit/FaultPanel.vue'
import OperatePanel from '@/features/circuit/OperatePanel.vue'
import OptionsPanel from '@/features/circuit/OptionsPanel.vue'
import ProofPanel from '@/features/circuit/ProofPanel.vue'
import TimeChart from '@/features/circuit/TimeChart.vue'
import CircuitDrawing from '@/features/circuit/CircuitDrawing.vue'
import { useAsked } from '@/stores/asked'
import { usePlayer } from '@/stores/player'
import { useStarter } from '@/stores/starter'
import { motion } from '@/ui/motion'

/** The live circuit: drawn, operated, proved and broken. Everything shown was computed by the core. */
const starter = useStarter()
const player = usePlayer()
const style = ref<'columns' | 'ladder' | null>(null)
const which = ref<'control' | 'power'>('control')
const picked = ref('')
const tab = ref('log')
const view = ref<InstanceType<typeof CircuitDrawing>>()

const { data, said, ask } = useAsked(() =>
  starter.id === 0
    ? null
    : client.GET('/api/starters/{starter_id}/circuit', {
        params: {
          path: { starter_id: starter.id },
          query: style.value ? { style: style.value } : {},
        },
      }),
)
const sheet = computed(() => data.value?.sheet ?? null)
watch(
  () => [starter.id, starter.saved],
  async () => {
    await ask()
    if (starter.id) await player.open(starter.id)
  },
  { immediate: true },
)
watch(style, ask)
onMounted(() => player.start())
onBeforeUnmount(() => player.stop())

const drawing = computed(() =>
  which.value === 'power' || !sheet.value?.control ? sheet.value?.power : sheet.value.control,
)
const shownStyle = computed(() => style.value ?? drawing.value?.style ?? 'columns')
const TINTS: Record<string, string> = {
  green: '#56b35f',
  red: '#e05546',
  amber: '#eba92e',
  white: '#fff3c4',
}
const colours = computed(() =>
  Object.fromEntries(
    (sheet.value?.lamps ?? []).map((l) => [l.designation, TINTS[l.colour] ?? '#fff3c4']),
  ),
)

/** What was picked, in words: a coil with all its contacts, a wire with its ends. */
const about = computed(() => {
  const s = sheet.value
  if (!s || !picked.value) return ''
  const name = picked.value.split(':')[1] ?? ''
  if (picked.value.startsWith('wire:')) {
    const ends = s.wires.filter((w) => w.number === name).map((w) => `${w.a} – ${w.b}`)
    return ends.length ? `Wire ${name}: ${ends.join(', ')}` : ''
  }
  const places = [...(s.control?.places ?? []), ...s.power.places].filter(
    (p) => p.part.split(':')[1] === name,
  )
  const coil = places.find((p) => p.part.startsWith('load:'))
  const contacts = places.filter((p) => p.part.startsWith('contact:'))
  return [
    coil ? `${name}: coil or load in path ${coil.path}` : name,
    ...contacts.map((c) => `${c.part.split(':')[2]} in path ${c.path}`),
  ].join(', ')
})

const edited = computed(() => (starter.document.circuit_edits ?? []).length > 0)
const wanted = ref('')
/** A terminal, contact or wire number, brought into view. */
function find(): void {
  const s = sheet.value
  const text = wanted.value.trim()
  if (!s || !text) return
  const wire = s.wires.find((w) => w.number === text || w.a === text || w.b === text)
  const device = text.split(':')[0] ?? ''
  const part = text.includes(':') ? `contact:${text.replace(/-.*/, '')}` : ''
  for (const where of ['control', 'power'] as const) {
    const places = (where === 'control' ? s.control?.places : s.power.places) ?? []
    const terminal = text.split(':')[1] ?? ''
    const place =
      places.find(
        (p) =>
          part &&
          p.part.startsWith(`contact:${device}:`) &&
          (p.part.split(':')[2] ?? '').split('-').includes(terminal),
      ) ?? places.find((p) => p.part.split(':')[1] === device)
    if (place) {
      which.value = where
      picked.value = place.part.startsWith('device:') ? `label:${device}` : place.part
      requestAnimationFrame(() => view.value?.bring(place.x, place.y))
      return
    }
  }
  if (wire) {
    which.value = wire.side === 'power' ? 'power' : 'control'
    picked.value = `wire:${wire.number}`
    return
  }
  picked.value = ''
  said.value = ''
}
/** The panel is a drawer where the drawing needs the width. */
const drawer = ref(window.innerWidth >= 1200)
const asking = ref(false)
/** The drawings on paper, with the symbols that are looked at here. */
const sheets = computed(() => ({
  path: `/starters/${starter.id}/documents`,
  query: { paper: 'diagrams', ...(style.value && { style: style.value }) },
}))
const stage = ref<HTMLElement>()
function toDrawing(): void {
  stage.value?.scrollIntoView({ behavior: motion(), block: 'start' })
}
const log = computed(() => [...player.happened].reverse())
</script>

<template>
  <div ref="stage" class="stage" :class="{ alone: !drawer }">
    <p v-if="said" class="quiet empty">No circuit yet: {{ said }}</p>
    <template v-else-if="sheet && drawing">
      <div class="bar" role="toolbar" aria-label="Drawing">
        <span role="group" aria-label="Which drawing">
          <button
            type="button"
            :aria-pressed="drawing === sheet.control"
            :disabled="!sheet.control"
            @click="which = 'control'"
          >
            Control
          </button>
          <button type="button" :aria-pressed="drawing === sheet.power" @click="which = 'power'">
            Power
          </button>
        </span>
        <span role="group" aria-label="House style">
          <button type="button" :aria-pressed="shownStyle === 'columns'" @click="style = 'columns'">
            Columns
          </button>
          <button type="button" :aria-pressed="shownStyle === 'ladder'" @click="style = 'ladder'">
            Ladder
          </button>
        </span>
        <span role="group" aria-label="Size">
          <button type="button" aria-label="Smaller" title="Key -" @click="view?.zoom(1 / 1.25)">
            −
          </button>
          <button type="button" title="Key 0" @click="view?.fit()">Fit</button>
          <button type="button" aria-label="Larger" title="Key +" @click="view?.zoom(1.25)">
            +
          </button>
        </span>
        <form @submit.prevent="find">
          <input
            v-model="wanted"
            placeholder="K1:13, or a wire"
            aria-label="Find a terminal or wire"
          />
        </form>
        <span class="files">
          <RouterLink :to="sheets">Sheets to print</RouterLink>
          <button type="button" @click="asking = true">What is wrong?</button>
          <button type="button" :aria-expanded="drawer" @click="drawer = !drawer">Operate</button>
        </span>
      </div>
      <CircuitDrawing
        ref="view"
        class="drawing"
        :drawing="drawing"
        :frame="player.frame"
        :picked="picked"
        :colours="colours"
        @pick="picked = $event"
      />
      <OperatePanel v-if="drawer" class="operate" :sheet="sheet" :colours="colours" />
      <p class="printed">
        <b>{{ starter.document.tag }}</b>
        {{ starter.document.service }}, {{ which }} circuit. Isolate, lock off and prove dead before
        touching.
      </p>
      <div class="below">
        <p class="about" role="status" aria-label="Picked">
          {{
            about ||
            'Click a contact to see its coil and all its contacts; click a wire to see its ends.'
          }}
        </p>
        <p v-if="sheet.changed.length" class="about">
          ▲ Changed by hand:
          <button type="button" class="link" @click="tab = 'edit'">
            {{ sheet.changed.length }} of the generated lines
          </button>
        </p>
        <Tabs v-model:value="tab" lazy>
          <TabList>
            <Tab value="log">Log</Tab>
            <Tab value="chart">Time chart</Tab>
            <Tab value="proofs">Proofs</Tab>
            <Tab value="failures">Single failures</Tab>
            <Tab value="faults">Insert fault</Tab>
            <Tab value="tables">Truth table</Tab>
            <Tab value="change">Change</Tab>
            <Tab value="options">Options</Tab>
            <Tab value="edit">As found</Tab>
          </TabList>
          <TabPanels>
            <TabPanel value="log">
              <ol class="log figures" aria-label="Log" reversed>
                <li v-for="(e, i) in log" :key="`${e.time_s}-${i}`">
                  {{ e.time_s.toFixed(3) }} s
                  <b v-if="e.device === ''">{{ $say(e.words) }}</b><template v-else>{{
                    $say(e.words)
                  }}</template>
                </li>
              </ol>
              <p v-if="!log.length" class="quiet">
                Nothing has happened yet: press a button on the right, and keep it pressed as long
                as you would at the panel.
              </p>
            </TabPanel>
            <TabPanel value="chart"><TimeChart /></TabPanel>
            <TabPanel value="proofs"><ProofPanel what="proofs" @replay="toDrawing" /></TabPanel>
            <TabPanel value="failures"
              ><ProofPanel what="failures" @replay="tab = 'faults'"
            /></TabPanel>
            <TabPanel value="faults"><FaultPanel :sheet="sheet" /></TabPanel>
            <TabPanel value="tables"><CircuitTables :sheet="sheet" /></TabPanel>
            <TabPanel value="change"><ChangePanel /></TabPanel>
            <TabPanel value="options"><OptionsPanel /></TabPanel>
            <TabPanel value="edit"><EditPanel :sheet="sheet" /></TabPanel>
          </TabPanels>
        </Tabs>
      </div>
    </template>
    <div v-if="said" class="empty">
      <EditPanel v-if="edited" :sheet="null" />
      <OptionsPanel />
    </div>
    <WhatIsWrong v-model:visible="asking" @shown="tab = 'faults'" />
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  min-height: 100%;
  grid-template-columns: minmax(0, 1fr) 19rem;
  grid-template-rows: auto minmax(20rem, 1fr) auto;
  grid-template-areas: 'bar operate' 'drawing operate' 'below below';
}
.stage.alone {
  grid-template-columns: minmax(0, 1fr);
  grid-template-areas: 'bar' 'drawing' 'below';
}
.bar {
  grid-area: bar;
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1rem;
  align-items: center;
  padding: 0.35rem 0.8rem;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--paper);
}
.bar button,
.bar input {
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.1rem 0.6rem;
  min-height: 1.8rem;
}
.bar button {
  cursor: pointer;
}
.bar button[aria-pressed='true'] {
  background: var(--accent-tint);
  border-color: var(--accent);
  font-weight: 650;
}
.bar input {
  width: 9.5rem;
}
.files {
  margin-left: auto;
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
.drawing {
  grid-area: drawing;
  contain: size;
  min-height: min(58vh, 36rem);
  border-bottom: 1px solid var(--rule-strong);
}
.operate {
  grid-area: operate;
  border-bottom: 1px solid var(--rule-strong);
}
.below {
  grid-area: below;
  min-width: 0;
}
.about {
  padding: 0.3rem 1rem;
  font-size: 0.9rem;
  background: var(--tint);
}
.below :deep(.p-tab) {
  padding: 0.4rem 0.8rem;
}
.below :deep(.p-tabpanels) {
  padding: 0.6rem 1rem 1.2rem;
}
.log {
  list-style: none;
  padding: 0;
  margin: 0;
  max-height: 16rem;
  overflow: auto;
  font-size: 0.88rem;
}
.empty {
  padding: 1.2rem 1rem;
  grid-column: 1 / -1;
}
@media (max-width: 62.5em) {
  .stage,
  .stage.alone {
    grid-template-columns: minmax(0, 1fr);
    grid-template-areas: 'bar' 'drawing' 'operate' 'below';
    grid-template-rows: auto minmax(46vh, 1fr) auto auto;
  }
  .drawing {
    min-height: 46vh;
  }
}
.printed {
  display: none;
}
@media print {
  .stage {
    display: block;
  }
  .printed {
    display: block;
    padding: 0.5rem 1rem;
  }
  .drawing {
    contain: none;
    height: auto;
    overflow: visible;
    border: 0;
  }
  .bar,
  .operate,
  .below {
    display: none;
  }
}
</style>
