<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'

import { client, type UsualLoad } from '@/api/client'
import ChoiceField from '@/ui/ChoiceField.vue'
import CsvPoints from '@/ui/CsvPoints.vue'
import CurveChart, { type Curve } from '@/ui/CurveChart.vue'
import PlateField from '@/ui/PlateField.vue'
import { typedNumber } from '@/stores/document'
import { read } from '@/ui/figures'
import { useAsked } from '@/stores/asked'
import ChangeSection from '@/features/start/ChangeSection.vue'
import FindOut from '@/app/FindOut.vue'
import LimitSection from '@/features/start/LimitSection.vue'
import { useRanges } from '@/stores/ranges'
import { useStarter } from '@/stores/starter'
import { useWording } from '@/stores/wording'
import { LOAD_SHAPES } from '@/ui/words'

/** The start itself: run-up, change-over, dip, heat. Everything drawn here was computed by the core. */
const starter = useStarter()
const wording = useWording()
const ranges = useRanges()
const loads = ref<UsualLoad[]>([])

const { data, said, ask } = useAsked(() =>
  starter.id === 0
    ? null
    : client.GET('/api/starters/{starter_id}/start', {
        params: { path: { starter_id: starter.id } },
      }),
)
const sheet = computed(() => data.value?.start ?? null)
void client.GET('/api/loads').then(({ data }) => (loads.value = data?.loads ?? []))
watch(() => [starter.id, starter.saved], ask, { immediate: true })

/** A machine in words fills in what it usually asks for: one step of undo. */
function like(machine: string | null): void {
  const usual = loads.value.find((l) => l.machine === machine)
  const before = starter.document.load ?? {}
  const next = usual
    ? {
        ...before,
        machine: usual.machine,
        torque_pct: usual.torque_pct,
        shape: usual.shape,
        breakaway_pct: usual.breakaway_pct,
      }
    : { ...before, machine: undefined }
  starter.change({ ...starter.document, load: JSON.parse(JSON.stringify(next)) }, null)
}
const machine = computed(() => starter.document.load?.machine ?? null)

/** Points as they can be typed or pasted from a spreadsheet: speed and torque in per cent, pairs set apart. */
const pointsText = computed(() =>
  (starter.document.load?.torque_points ?? []).map((p) => p.join(' ')).join('; '),
)
const pointsProblem = computed(() =>
  [...starter.problemAt]
    .filter(([field]) => field.startsWith('load.torque_points'))
    .map(([, message]) => message)
    .join('; '),
)
/** What is being typed: an answer that comes meanwhile does not write over it. */
const pointsTyped = ref<string | null>(null)
function setPoints(text: string): void {
  pointsTyped.value = null
  const pairs = text
    .split(/[;\n]+/)
    .map((pair) => pair.trim())
    .filter(Boolean)
    .map((pair) => pair.split(/[\s,]+/).map(typedNumber))
  keepPoints(pairs as number[][])
}
/** Pairs as they were typed: what is no number among them is for the server to say. */
function keepPoints(pairs: number[][]): void {
  starter.set('load.torque_points', pairs.length ? pairs : undefined)
  starter.settle()
}

const overTime = computed<Curve[]>(() => {
  const s = sheet.value
  if (!s?.method) return []
  const curves: Curve[] = [
    { name: 'current, A', x: s.method.time_s, y: s.method.current_a },
    { name: 'speed, %', x: s.method.time_s, y: s.method.speed_pct, accent: true, axis: 1 },
  ]
  if (s.direct) {
    curves.push(
      {
        name: 'current, direct on line',
        x: s.direct.time_s,
        y: s.direct.current_a,
        quiet: true,
        dashed: true,
      },
      {
        name: 'speed, direct on line',
        x: s.direct.time_s,
        y: s.direct.speed_pct,
        quiet: true,
        axis: 1,
      },
    )
  }
  for (const low of [s.low?.start, s.low?.then_high]) {
    if (low)
      curves.push({ name: `current, ${low.label}`, x: low.time_s, y: low.current_a, dashed: true })
  }
  return curves
})
const overSpeed = computed<Curve[]>(() => {
  const s = sheet.value?.speed
  if (!s) return []
  return [
    ...s.stages.map((label, i) => ({
      name: label,
      x: s.speed_pct,
      y: s.torque_pct[i] ?? [],
      hue: (i % 6) + 1,
      dashed: i > 0,
      on: { share: 0.12 + 0.24 * i, text: wording.say(label) },
    })),
    {
      name: 'load',
      x: s.speed_pct,
      y: s.load_pct,
      accent: true,
      on: { share: 0.72, text: 'load' },
    },
  ]
})

const star = computed(() => sheet.value?.star ?? null)
</script>

<template>
  <div class="stage" :class="{ stale: !starter.fresh }">
    <section class="ask inputs" aria-label="Load and inertia">
      <div class="choice">
        <span id="load-like">Load type</span>
        <Select
          :model-value="machine"
          :options="loads"
          option-label="words"
          option-value="machine"
          placeholder="something else"
          show-clear
          aria-labelledby="load-like"
          size="small"
          @update:model-value="like"
        />
      </div>
      <PlateField path="load.torque_pct" />
      <ChoiceField path="load.shape" :choices="LOAD_SHAPES" unset="Constant" />
      <PlateField path="load.breakaway_pct" />
      <PlateField path="load.inertia_kgm2" />
      <PlateField path="load.speed_rpm" />
      <PlateField path="load.measured_run_up_time_s" />
      <PlateField path="motor.rotor_inertia_kgm2" />
      <PlateField path="motor.locked_rotor_torque_ratio" />
      <PlateField path="motor.breakdown_torque_ratio" />
      <PlateField path="motor.pull_up_torque_ratio" />
      <div class="choice points">
        <label for="torque-points">Torque curve</label>
        <input
          id="torque-points"
          type="text"
          placeholder="0 30; 50 45; 100 90  (speed %, torque %)"
          :value="pointsTyped ?? pointsText"
          @input="pointsTyped = ($event.target as HTMLInputElement).value"
          @change="setPoints(($event.target as HTMLInputElement).value)"
        />
        <CsvPoints class="from" label="Load curve from CSV" @points="keepPoints" />
        <p v-if="pointsProblem" class="bad">■ {{ pointsProblem }}</p>
      </div>
      <PlateField path="load.start_time_s" />
    </section>

    <p v-if="said" class="quiet empty">No start yet: {{ said }}</p>
    <p v-else-if="sheet && !sheet.method" class="quiet empty">
      No run-up can be drawn yet. It needs {{ sheet.missing.join(', ') }}. The devices are sized for
      a start of {{ read(sheet.result.start_time_s) }} s ({{ sheet.result.start_time_source }}).
    </p>
    <template v-else-if="sheet?.method">
      <section class="results" aria-label="The start in figures">
        <h2 class="visually-hidden">The start in figures</h2>
        <div>
          <h3>Run-up</h3>
          <p class="big figures" :class="{ bad: sheet.result.stalls }">
            <template v-if="sheet.result.stalls">stalls</template>
            <template v-else
              >{{ read(sheet.result.run_up_time_s) }}<span class="unit">s</span></template
            >
          </p>
          <p v-if="sheet.result.stalls" class="bad">
            ■ at {{ read(sheet.result.stall_speed_pct) }} % of synchronous speed
          </p>
          <p v-if="ranges.spanOf('start_time_s')" class="figures range">
            {{ ranges.spanOf('start_time_s') }} s
          </p>
          <p v-if="sheet.direct && !sheet.result.stalls && !sheet.direct.stalls" class="quiet">
            direct on line {{ read(sheet.direct.run_up_time_s) }} s
          </p>
        </div>
        <div v-if="star">
          <h3>{{ star.star ? 'Star time' : 'First stage' }}</h3>
          <p class="big figures">{{ read(sheet.result.star_time_s) }}<span class="unit">s</span></p>
          <p v-if="ranges.spanOf('proposed_stage_time_s')" class="figures range">
            {{ ranges.spanOf('proposed_stage_time_s') }} s
          </p>
          <p class="quiet">proposed {{ read(star.proposed_s) }} s</p>
        </div>
        <div v-if="star">
          <h3>Change-over</h3>
          <p class="big figures">
            {{ read(sheet.result.changeover_current_a) }}<span class="unit">A</span>
          </p>
          <p v-if="ranges.spanOf('changeover_current_a')" class="figures range">
            {{ ranges.spanOf('changeover_current_a') }} A
          </p>
          <p class="quiet">
            at {{ read(sheet.result.changeover_speed_pct) }} % of synchronous speed
          </p>
        </div>
        <div v-if="sheet.low">
          <h3>Low speed</h3>
          <template v-if="sheet.low.start">
            <p class="big figures" :class="{ bad: sheet.low.start.stalls }">
              <template v-if="sheet.low.start.stalls">stalls</template>
              <template v-else
                >{{ read(sheet.low.start.run_up_time_s) }}<span class="unit">s</span></template
              >
            </p>
            <p class="quiet">
              {{ read(Math.max(...sheet.low.start.current_a)) }} A at first<template
                v-if="sheet.low.then_high"
                >; the high speed from there takes {{ read(sheet.low.then_high.run_up_time_s) }} s
                and draws {{ read(Math.max(...sheet.low.then_high.current_a)) }} A</template
              >
            </p>
          </template>
          <p v-else class="quiet">It needs {{ sheet.low.missing }}.</p>
        </div>
        <div v-if="sheet.dip">
          <h3>Supply dip</h3>
          <p class="big figures">{{ read(sheet.dip.motor_pct, 2) }}<span class="unit">%</span></p>
          <p class="quiet">{{ sheet.dip.words }}</p>
          <p class="quiet">
            source {{ read(sheet.dip.source_pct, 2) }} %, cable
            {{ read(sheet.dip.cable_pct, 2) }} %; {{ read(sheet.dip.torque_left_pct, 3) }} % of the
            torque is left
          </p>
        </div>
        <div v-if="sheet.heat">
          <h3>Heat of one start</h3>
          <p class="big figures">{{ read(sheet.heat.rotor_kj) }}<span class="unit">kJ</span></p>
          <p class="quiet">
            in the rotor<template v-if="sheet.heat.cold_starts !== null"
              >. In a row: {{ sheet.heat.cold_starts }} from cold, {{ sheet.heat.warm_starts }} from
              warm. Per hour:
              <template v-for="(p, i) in sheet.heat.per_hour" :key="p.running_pct"
                >{{ i ? ', ' : '' }}{{ read(p.starts, 2) }} ({{ p.running_pct }} %
                running)</template
              >, {{ sheet.heat.words }}</template
            >
          </p>
        </div>
      </section>
      <p v-if="sheet.typical.length" class="quiet typical">
        ◌ assumed: {{ sheet.typical.join('; ') }}
      </p>
      <div class="charts">
        <section aria-label="Torque over speed">
          <h2 class="heading">Torque of motor and load over speed</h2>
          <CurveChart
            label="Torque of motor and load over speed"
            :curves="overSpeed"
            x-name="speed, % of synchronous"
            y-name="torque, % of rated"
            :x-max="100"
          />
        </section>
        <section aria-label="Start over time">
          <h2 class="heading">Speed and current over time</h2>
          <CurveChart
            label="Speed and current over time"
            :curves="overTime"
            x-name="time, s"
            y-name="line current, A"
            y2-name="speed, %"
          />
        </section>
      </div>
      <LimitSection v-if="sheet.limits.length" :sheet="sheet" />
      <ChangeSection v-if="star" :sheet="sheet" />
      <FindOut />
    </template>
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-columns: 19.5rem minmax(0, 1fr);
  align-items: start;
}
.stage > * {
  grid-column: 2;
}
/* What is asked stands in a column of its own on the left; the answer begins at the top beside it. */
.stage > .ask {
  grid-column: 1;
  grid-row: 1 / span 40;
  align-self: stretch;
  padding: 0.7rem 1rem;
  border-right: 1px solid var(--rule-strong);
  background: var(--sheet);
}
@media (max-width: 62.5em) {
  .stage {
    grid-template-columns: minmax(0, 1fr);
  }
  .stage > *,
  .stage > .ask {
    grid-column: 1;
    grid-row: auto;
  }
  .stage > .ask {
    order: 2;
    border-right: 0;
    border-top: 1px solid var(--rule-strong);
  }
}
.choice {
  display: grid;
  grid-template-columns: minmax(5.2rem, 0.5fr) minmax(0, 1fr);
  align-items: center;
  column-gap: 0.6rem;
  font-size: 0.93rem;
}
.points input[type='text'] {
  font: inherit;
  font-family: var(--figures);
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  color: inherit;
  padding: 0.2rem 0.5rem;
  min-width: 0;
}
.points .from {
  grid-column: 2;
  font-size: 0.8rem;
}
.points .bad {
  grid-column: 1 / -1;
  margin: 0;
  font-size: 0.8rem;
}
.empty {
  padding: 1.2rem 1rem;
}
.results {
  display: flex;
  flex-wrap: wrap;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.results > div {
  flex: 1 1 9rem;
  padding: 0.5rem 1rem;
  border-right: 1px solid var(--rule);
}
.results h3 {
  font-size: 0.86rem;
  font-weight: 500;
  color: var(--quiet);
}
.big {
  font-size: 1.7rem;
  line-height: 1.25;
}
.results .range {
  font-size: 0.93rem;
  margin: 0;
}
.results .quiet {
  font-size: 0.86rem;
  margin: 0;
}
.bad {
  color: var(--stop);
}
.typical {
  padding: 0.4rem 1rem 0;
  margin: 0;
}
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(21rem, 1fr));
  gap: 0.5rem 1.5rem;
  padding: 0.6rem 1rem;
}
.charts > section {
  min-width: 0;
}
@media (max-width: 62.5em) {
  .charts {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
