<script setup lang="ts">
import Button from 'primevue/button'
import {
  computed,
  defineAsyncComponent,
  nextTick,
  onBeforeUnmount,
  onMounted,
  provide,
  ref,
  watch,
  type Component,
} from 'vue'
import { useRouter } from 'vue-router'

import type { LineUpItem } from '@/api/client'
import { GROUPS, STAGES, groupOf, stageOf, type StageName } from '@/app/stages'
import { MEND } from '@/app/mend'
import ConflictPanel from '@/app/ConflictPanel.vue'
import FindingsStrip from '@/app/FindingsStrip.vue'
import GroupNav from '@/app/GroupNav.vue'
import KeysDialog from '@/app/KeysDialog.vue'
import HistoryDrawer from '@/features/documents/HistoryDrawer.vue'
import PresetsDialog from '@/features/boards/PresetsDialog.vue'
import LineUp from '@/app/LineUp.vue'
import OpenPoints from '@/features/test/OpenPoints.vue'
import WhatChanges from '@/app/WhatChanges.vue'
import WorkingPanel from '@/app/WorkingPanel.vue'
import DevicesStage from '@/features/devices/DevicesStage.vue'
import PlateStage from '@/features/plate/PlateStage.vue'
import DocumentsStage from '@/features/documents/DocumentsStage.vue'
import MethodStage from '@/features/method/MethodStage.vue'
import { useMe } from '@/stores/me'
import { usePresence } from '@/stores/presence'
import { useRanges } from '@/stores/ranges'
import { useStarter } from '@/stores/starter'

// The charts come with a library of their own: fetched when one of these stages is opened.
const StartStage = defineAsyncComponent(() => import('@/features/start/StartStage.vue'))
const CurvesStage = defineAsyncComponent(() => import('@/features/curves/CurvesStage.vue'))
const CircuitStage = defineAsyncComponent(() => import('@/features/circuit/CircuitStage.vue'))
const BuildStage = defineAsyncComponent(() => import('@/features/build/BuildStage.vue'))
const TestStage = defineAsyncComponent(() => import('@/features/test/TestStage.vue'))
const PhaseLossStage = defineAsyncComponent(
  () => import('@/features/phase_loss/PhaseLossStage.vue'),
)

const props = defineProps<{ starterId: number; stage: StageName }>()
const router = useRouter()
const starter = useStarter()
const me = useMe()
const presence = usePresence()
useRanges()
/** The stage that is shown; only the devices have something to be asked. */
const shown = ref<Partial<InstanceType<typeof DevicesStage>>>()
const history = ref(false)
const presets = ref(false)
const keys = ref(false)
const findings = ref<InstanceType<typeof FindingsStrip>>()

/** The line-up stands whole where devices are sized, as a rail elsewhere and as one line on a telephone; what somebody chose is remembered for each. */
const RAIL = 'volmek.rail'
const rails = ref<Record<string, boolean>>({
  size: false,
  elsewhere: true,
  telephone: true,
  ...(JSON.parse(localStorage.getItem(RAIL) ?? '{}') as Record<string, boolean>),
})
const telephone = matchMedia('(max-width: 40em)').matches
const railOf = computed(() =>
  telephone ? 'telephone' : groupOf(props.stage) === 'size' ? 'size' : 'elsewhere',
)
const rail = computed(() => rails.value[railOf.value] ?? false)
function turnRail(): void {
  rails.value = { ...rails.value, [railOf.value]: !rail.value }
  localStorage.setItem(RAIL, JSON.stringify(rails.value))
}

/** What each stage shows. */
const SHOWN: Record<StageName, Component> = {
  plate: PlateStage,
  method: MethodStage,
  devices: DevicesStage,
  start: StartStage,
  curves: CurvesStage,
  'phase-loss': PhaseLossStage,
  circuit: CircuitStage,
  build: BuildStage,
  test: TestStage,
  documents: DocumentsStage,
}
const loaded = computed(() => starter.id === props.starterId)
const SAID = {
  saved: '✓ saved',
  saving: '… saving',
  refused: '■ not saved: correct the marked field',
  offline: '▲ not saved: the server does not answer',
  stale: '■ not saved: changed elsewhere, choose below',
}
/** Nothing is said to be saved before it is there. */
const said = computed(() => {
  if (!loaded.value) return '… opening'
  if (!me.may('designs') && starter.state === 'saved') return '○ read only: you do not design'
  return starter.state === 'offline' && starter.fault
    ? `▲ not saved: ${starter.fault}`
    : SAID[starter.state]
})

watch(
  () => props.starterId,
  (id) => void starter.load(id),
  { immediate: true },
)
watch(
  () => [
    starter.document.tag,
    STAGES.find((s) => s.name === props.stage)?.title,
    starter.place.board,
  ],
  (words) => (document.title = words[0] ? `${words.join(' · ')} · Volmek` : 'Volmek'),
)

function open(stage: string): Promise<unknown> {
  return router.replace({ name: 'starter', params: { starterId: props.starterId, stage } })
}

function choose(item: LineUpItem): void {
  if (item.stage !== props.stage) void open(item.stage)
  if (item.figure && starter.workingId) starter.workingId = item.figure
}

/** Take the user to the field that mends a finding. */
async function mend(field: string): Promise<void> {
  const [part, role] = field.split('.')
  await open(stageOf(field))
  await nextTick()
  if (part === 'overrides') {
    const index = Number(role)
    const overrides = starter.document.overrides ?? []
    shown.value?.change?.(Number.isNaN(index) ? (role ?? '') : (overrides[index]?.role ?? ''))
    return
  }
  // Rated values of one kind are typed into one field, as they stand on the plate.
  const typed = field
    .replace(/^(motor\.rated_(?:voltage|current))_(?:delta|star|low|high)_/, '$1_')
    .replace(/^motor\.rated_power_.*/, 'motor.rated_power_kw')
  const element = document.getElementById(`field-${typed.replaceAll('.', '-')}`)
  element?.closest('details')?.setAttribute('open', '')
  element?.focus()
  element?.scrollIntoView({ block: 'center' })
}

provide(MEND, mend)

/** One stage back or forth inside the open group. */
function step(by: number): void {
  const inside = STAGES.filter((x) => x.group === groupOf(props.stage))
  const next = inside[inside.findIndex((x) => x.name === props.stage) + by]
  if (next) void open(next.name)
}

const typing = (target: HTMLElement) =>
  target.matches('input:not([type=radio]):not([type=checkbox]), textarea, [role=combobox]')

function pressed(event: KeyboardEvent): void {
  const target = event.target as HTMLElement
  const command = event.ctrlKey || event.metaKey
  const key = event.key.toLowerCase()
  const away = target.closest('[role=dialog], [role=listbox]') !== null
  const free = !command && !away && (event.altKey || !typing(target))
  const group = GROUPS[Number(event.key) - 1]
  if (command && (key === 'y' || (key === 'z' && event.shiftKey))) starter.redo()
  else if (command && key === 'z') starter.undo()
  else if (event.key === 'Escape' && !away && starter.workingId) starter.openWorking(null)
  else if (!free) return
  else if (group) void open(STAGES.find((x) => x.group === group.name)!.name)
  else if (key === '[') step(-1)
  else if (key === ']') step(1)
  else if (key === '?') keys.value = true
  else if (key === 'f') void findings.value?.show()
  else if (key === 'l')
    document.querySelector<HTMLElement>('.lineup [aria-current="true"]')?.focus()
  else if (key === 'w' && !target.closest('.lineup')) starter.openWorking('design_current_a')
  else return
  event.preventDefault()
}

onMounted(() => window.addEventListener('keydown', pressed))
onBeforeUnmount(() => window.removeEventListener('keydown', pressed))
</script>

<template>
  <div v-if="starter.loadError" class="error">
    <p>■ {{ starter.loadError }}</p>
    <RouterLink to="/">All boards</RouterLink>
  </div>
  <div v-else class="view" :class="{ working: starter.workingId, rail }">
    <div class="bar" role="region" aria-label="Starter">
      <h1 class="crumb">
        <RouterLink :to="`/boards/${starter.place.boardId}`">{{ starter.place.board }}</RouterLink>
        <b class="figures">{{ starter.document.tag }}</b>
        <span class="service">{{ starter.document.service }}</span>
      </h1>
      <GroupNav :stage="stage" @open="open" />
      <OpenPoints @open="open('test')" />
      <p class="state" :class="starter.state" role="status">
        {{ said }}
        <button
          v-if="starter.state === 'offline'"
          type="button"
          class="link"
          @click="starter.send()"
        >
          try again
        </button>
        <button
          v-if="starter.state === 'refused' || starter.state === 'stale'"
          type="button"
          class="link"
          @click="starter.discard()"
        >
          discard changes
        </button>
      </p>
      <p v-if="presence.note.value" class="others" role="status">
        {{ presence.note.value }}
        {{ presence.minutes.value ? `${presence.minutes.value} min ago` : 'just now' }}
      </p>
      <div class="tools">
        <Button
          text
          size="small"
          label="Undo"
          :disabled="starter.undoDepth === 0"
          @click="starter.undo()"
        />
        <Button
          text
          size="small"
          label="Redo"
          :disabled="starter.redoDepth === 0"
          @click="starter.redo()"
        />
        <Button text size="small" label="Presets" @click="presets = true" />
        <Button text size="small" label="History" @click="history = true" />
        <Button text size="small" label="?" aria-label="Keys" @click="keys = true" />
      </div>
      <ConflictPanel v-if="loaded" class="conflict" />
    </div>
    <div class="left"><LineUp :rail="rail" @choose="choose" @turn="turnRail" /></div>
    <!-- Not before the starter is there: what is typed or chosen earlier would be overwritten as it arrives. -->
    <main v-if="!loaded" id="content" class="centre">
      <p class="quiet loading">Opening the starter…</p>
    </main>
    <main v-else id="content" :key="stage" class="centre" :class="{ upright: stage === 'test' }">
      <component :is="SHOWN[stage]" ref="shown" />
    </main>
    <WorkingPanel class="right" />
    <PresetsDialog v-model:visible="presets" />
    <FindingsStrip ref="findings" class="strip" @mend="mend" />
    <KeysDialog v-model:visible="keys" />
    <WhatChanges />
    <HistoryDrawer v-model:visible="history" />
  </div>
</template>

<style scoped>
.others {
  color: var(--accent);
  font-size: 0.9rem;
}
.view {
  display: grid;
  height: calc(100vh - 2.4rem);
  grid-template:
    'bar bar bar' auto 'left centre right' minmax(0, 1fr)
    'left strip right' auto / 18.5rem minmax(0, 1fr) 0;
}
.view.working {
  grid-template-columns: 18.5rem minmax(0, 1fr) 24rem;
}
.view.rail {
  grid-template-columns: 7.2rem minmax(0, 1fr) 0;
}
.view.rail.working {
  grid-template-columns: 7.2rem minmax(0, 1fr) 24rem;
}
.bar {
  grid-area: bar;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 0.7rem;
  padding: 0.1rem 0.6rem 0;
  border-bottom: 1px solid var(--ink);
  background: var(--sheet);
}
.conflict {
  flex-basis: 100%;
}
.crumb {
  font-size: inherit;
  font-weight: inherit;
  display: flex;
  gap: 0.7rem;
  align-items: baseline;
}
.crumb b {
  font-size: 1.15rem;
}
.service {
  max-width: 9rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--quiet);
}
.state {
  margin-left: auto;
  font-size: 0.9rem;
  color: var(--quiet);
}
.state.refused,
.state.stale {
  color: var(--stop);
}
.state.offline {
  color: var(--attention);
}
.tools {
  display: flex;
}
.tools :deep(button) {
  padding-inline: 0.3rem;
}
.left {
  grid-area: left;
  overflow-y: auto;
  border-right: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.centre {
  grid-area: centre;
  overflow-y: auto;
}
.right {
  grid-area: right;
  border-left: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.strip {
  grid-area: strip;
}
.error,
.loading {
  padding: 2rem;
}
@media (max-width: 93.75em) {
  .service {
    display: none;
  }
}
@media (max-width: 62.5em) {
  .view,
  .view.working {
    grid-template-columns: 14.5rem minmax(0, 1fr) 0;
  }
  .view.rail,
  .view.rail.working {
    grid-template-columns: 7.2rem minmax(0, 1fr) 0;
  }
  .right {
    position: fixed;
    inset: 5.5rem 0 0 auto;
    width: min(24rem, 92vw);
    z-index: 4;
    box-shadow: -6px 0 18px rgb(0 0 0 / 18%);
  }
}
@media (max-width: 38.75em) {
  .view,
  .view.working {
    display: block;
    height: auto;
  }
  /* the cards of Test fit the width and keep their buttons at the foot of the window */
  .centre.upright {
    overflow: visible;
  }
  .left {
    border-right: 0;
    border-bottom: 1px solid var(--ink);
  }
  .state {
    margin-left: 0;
  }
}
@media print {
  .view {
    display: block;
    height: auto;
  }
  .bar,
  .left,
  .right,
  .strip {
    display: none;
  }
}
</style>
