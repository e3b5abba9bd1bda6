<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { StartView } from '@/api/client'
import ChoiceField from '@/ui/ChoiceField.vue'
import CurveChart, { type Curve } from '@/ui/CurveChart.vue'
import DrawingView from '@/ui/DrawingView.vue'
import PlateField from '@/ui/PlateField.vue'
import { read } from '@/ui/figures'
import { fieldOf } from '@/stores/document'
import { useStarter } from '@/stores/starter'
import { DELTA_LINKS } from '@/ui/words'

/** How long in the first stage: dragged on its curve; for star-delta the reclosing, for the others every change. */
const props = defineProps<{ sheet: StartView }>()
const starter = useStarter()
const dragged = ref<number | null>(null)
watch(
  () => props.sheet,
  () => (dragged.value = null),
)

const star = computed(() => props.sheet.star)
const starCurve = computed<Curve[]>(() => {
  const points = star.value?.points ?? []
  const x = points.map((p) => p.star_time_s)
  return [
    { name: 'current at the change-over, A', x, y: points.map((p) => p.current_a) },
    {
      name: 'time until it runs, s',
      x,
      y: points.map((p) => p.total_time_s),
      axis: 1,
      accent: true,
    },
  ]
})
/** While dragging the nearest computed point is shown; letting go sets the time, and the core computes it. */
const shown = computed(() => {
  const s = star.value
  if (!s) return null
  const t = dragged.value
  if (t === null) return s.chosen
  return s.points.reduce((best, p) =>
    Math.abs(p.star_time_s - t) < Math.abs(best.star_time_s - t) ? p : best,
  )
})
/** The ends of the curve that the core drew: what is dragged stays on it. */
const bottom = computed(() => star.value?.points[0]?.star_time_s ?? 0)
const top = computed(() => star.value?.points.at(-1)?.star_time_s ?? 10)
const TIMES: Record<string, string> = {
  proposed: 'proposed',
  thumb: 'rule of thumb',
  eighty: '80 % rule',
}

function drop(seconds: number): void {
  const half = Math.round(Math.min(Math.max(seconds, bottom.value), top.value) * 2) / 2
  dragged.value = half
  if (star.value) starter.set(fieldOf(star.value.field), half)
  starter.settle()
}
const STAGES = ['First stage', 'Second stage', 'Third stage']
</script>

<template>
  <section v-if="star && shown" class="star" :aria-label="star.star ? 'Star time' : 'First stage'">
    <h2 class="heading">
      {{ star.star ? 'How long in star?' : `How long ${sheet.speed?.stages[0]}?` }}
    </h2>
    <div class="two">
      <div>
        <CurveChart
          label="Current at the change-over and time until the motor runs, over star time"
          :curves="starCurve"
          x-name="time in the first stage, s"
          y-name="current, A"
          y2-name="until it runs, s"
          :x-max="Math.ceil(top)"
          :mark="dragged ?? star.chosen.star_time_s"
          :marks="star.rules.map((r) => ({ at: r.at.star_time_s, name: TIMES[r.name] ?? '' }))"
          draggable
          @drag="dragged = $event"
          @drop="drop"
        />
        <label class="slider">
          {{ star.star ? 'Star time' : 'First stage' }}
          <input
            type="range"
            :min="bottom"
            :max="Math.ceil(top)"
            step="0.5"
            :value="dragged ?? star.chosen.star_time_s"
            @input="dragged = Number(($event.target as HTMLInputElement).value)"
            @change="drop(Number(($event.target as HTMLInputElement).value))"
          />
          <span class="figures">{{ read(dragged ?? star.chosen.star_time_s) }} s</span>
        </label>
        <p class="at" role="status">
          After <b class="figures">{{ read(shown.star_time_s) }} s</b>:
          {{ read(shown.speed_pct) }} % of synchronous speed,
          <b class="figures">{{ read(shown.current_a) }} A</b> at the change-over,
          {{
            shown.total_time_s === null
              ? 'and it never gets to its speed'
              : `running after ${read(shown.total_time_s)} s`
          }}.
        </p>
        <table class="rules">
          <thead>
            <tr>
              <th>Rule</th>
              <th class="num">Time</th>
              <th class="num">Speed</th>
              <th class="num">Current</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in star.rules" :key="r.name">
              <td>{{ r.words }}</td>
              <td class="num figures">{{ read(r.at.star_time_s) }} s</td>
              <td class="num figures">{{ read(r.at.speed_pct) }} %</td>
              <td class="num figures">{{ read(r.at.current_a) }} A</td>
            </tr>
          </tbody>
        </table>
      </div>
      <div v-if="star.star" class="reclose">
        <h3>When delta closes after the pause</h3>
        <DrawingView :drawing="star.phasors" />
        <table class="rules">
          <tbody>
            <tr v-for="p in shown.peaks" :key="p.links">
              <td>
                {{ p.links === 'common' ? 'common links' : 'favourable links' }}
                <span v-if="p.links === star.better_links" class="quiet">draws less here</span>
              </td>
              <td class="num figures">{{ read(p.difference) }} U</td>
              <td class="num figures">{{ read(p.peak_a) }} A</td>
              <td class="num figures quiet">
                {{ read(p.span_a[0]) }} to {{ read(p.span_a[1]) }} A
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="star.better_links === null" class="quiet">The two draw alike here.</p>
        <p class="quiet">
          {{
            star.links === 'common'
              ? 'Common: U1-W2, V1-U2, W1-V2.'
              : 'Favourable: U1+V2 on L1, V1+W2 on L2, W1+U2 on L3; clockwise rotation is kept.'
          }}
        </p>
        <ChoiceField path="starter.delta_links" :choices="DELTA_LINKS" unset="Favourable" />
        <PlateField path="starter.dwell_s" hint="0.05" />
        <p class="quiet">
          Not zero: star and delta together short the supply until the arc is out. Not long: the
          motor slows down and its field turns back.
        </p>
      </div>
      <div v-else class="reclose">
        <h3>Every change, with what it draws</h3>
        <table class="rules">
          <thead>
            <tr>
              <th>To</th>
              <th class="num">After</th>
              <th class="num">Speed</th>
              <th class="num">From</th>
              <th class="num">To</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="ch in sheet.changes" :key="ch.to">
              <td>{{ ch.to }}</td>
              <td class="num figures">{{ read(ch.at_s) }} s</td>
              <td class="num figures">{{ read(ch.speed_pct) }} %</td>
              <td class="num figures">{{ read(ch.before_a) }} A</td>
              <td class="num figures">{{ read(ch.after_a) }} A</td>
            </tr>
          </tbody>
        </table>
        <PlateField
          v-for="(ch, i) in sheet.changes"
          :key="ch.field"
          :path="fieldOf(ch.field)"
          :label="STAGES[i] ?? ''"
          unit="s"
          :usual="read(ch.proposed_s)"
        />
        <p class="quiet">
          The motor is never off the supply in between, so there is no reclosing peak. Proposed
          {{ sheet.changes.map((ch) => `${read(ch.proposed_s)} s`).join(', ') }}; a time typed here
          counts instead.
        </p>
      </div>
    </div>
  </section>
</template>

<style scoped src="./change.css"></style>
