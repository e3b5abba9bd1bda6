<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref, watch } from 'vue'

import { client } from '@/api/client'
import CsvPoints from '@/ui/CsvPoints.vue'
import CurveChart, { type Curve } from '@/ui/CurveChart.vue'
import OverrideDialog from '@/features/devices/OverrideDialog.vue'
import VerdictMark from '@/ui/VerdictMark.vue'
import { read } from '@/ui/figures'
import { useAsked } from '@/stores/asked'
import { useStarter } from '@/stores/starter'
import { savePicture } from '@/ui/save'

/** The time-current sheet: every curve on one log-log drawing, its crossings in sentences, devices changed while looking. */
const starter = useStarter()
const changing = ref<string | null>(null)
/** Place of the cursor between the ends of the axis, 0 to 1. */
const cursor = ref(0.5)

const { data, said, ask } = useAsked(() =>
  starter.id === 0
    ? null
    : client.GET('/api/starters/{starter_id}/time-current', {
        params: { path: { starter_id: starter.id } },
      }),
)
const sheet = computed(() => data.value?.sheet ?? null)
watch(() => [starter.id, starter.saved], ask, { immediate: true })

/** From cold, from warm, or both. */
const from = ref<'cold' | 'warm' | 'both'>('cold')
const FROM = [
  { value: 'cold', label: 'From cold' },
  { value: 'warm', label: 'From warm' },
  { value: 'both', label: 'Both' },
] as const
const seen = computed(() =>
  (sheet.value?.curves ?? []).filter((c) => {
    const warm = /, warm$/.test(c.name)
    const cold = /, cold$/.test(c.name)
    return from.value === 'both' || (!warm && !cold) || (from.value === 'warm') === warm
  }),
)
/** One hue for each device, by the designation that its curves begin with. */
const hues = computed(() => {
  const names = [
    ...new Set(
      (sheet.value?.curves ?? []).filter((c) => c.edge).map((c) => c.name.split(' ')[0] ?? ''),
    ),
  ]
  return new Map(names.map((n, i) => [n, (i % 6) + 1]))
})
const curves = computed<Curve[]>(() =>
  seen.value.map((c) => ({
    name: c.edge ? `${c.name}, ${c.edge}` : c.name,
    x: c.current_a,
    y: c.time_s,
    dashed: c.edge === 'latest' || c.kind === 'withstand' || c.kind === 'cable',
    quiet: c.kind === 'upstream' || c.kind === 'cable',
    accent: c.kind === 'start',
    hue: c.edge ? hues.value.get(c.name.split(' ')[0] ?? '') : undefined,
    end: c.edge === 'earliest' ? '' : c.name.replace(/ class \S+/, ''),
  })),
)
const bands = computed(() =>
  seen.value.flatMap((c, i) => {
    const to = seen.value.findIndex((d) => d.name === c.name && d.edge === 'latest')
    return c.edge === 'earliest' && to >= 0 ? [{ from: i, to }] : []
  }),
)
const points = computed(() =>
  (sheet.value?.marks ?? []).map((m, i) => ({ x: m.current_a, y: m.time_s, name: String(i + 1) })),
)
const changeable = computed(() =>
  (starter.design?.devices ?? []).filter((d) =>
    ['short_circuit_device', 'overload_relay', 'line_contactor', 'run_contactor'].includes(d.role),
  ),
)
const device = computed(
  () => starter.design?.devices.find((d) => d.role === changing.value) ?? null,
)
const current = computed(() => {
  const s = sheet.value
  return s ? s.low_a * (s.high_a / s.low_a) ** cursor.value : 0
})
/** What each curve reads at the cursor: its computed point nearest to that current. */
const readings = computed(() =>
  (sheet.value?.curves ?? []).map((c) => {
    const first = Math.min(...c.current_a)
    const last = Math.max(...c.current_a)
    let best = -1
    c.current_a.forEach((a, i) => {
      const nearer = Math.abs(Math.log(a / current.value))
      if (best < 0 || nearer < Math.abs(Math.log((c.current_a[best] ?? a) / current.value)))
        best = i
    })
    const there = current.value >= first * 0.97 && current.value <= last * 1.03
    return {
      name: c.edge ? `${c.name}, ${c.edge}` : c.name,
      time: there ? c.time_s[best] : undefined,
    }
  }),
)

const measured = computed(() => starter.document.protection?.measured_curves ?? [])
type Measured = (typeof measured.value)[number]
function setMeasured(curves: Measured[]): void {
  starter.set('protection.measured_curves', curves.length ? curves : undefined)
  starter.settle()
}

function addMeasured(points: Measured['points'], name: string): void {
  setMeasured([...measured.value.filter((c) => c.name !== name), { name, points }])
}
const refused = computed(() =>
  [...starter.problemAt]
    .filter(([field]) => field.startsWith('protection.measured_curves'))
    .map(([, message]) => message),
)

/** The server's SVG painted on a canvas: the same drawing as a picture. */
async function png(): Promise<void> {
  const svg = await (await fetch(`/api/starters/${starter.id}/time-current.svg`)).text()
  const address = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`
  await savePicture(`${String(starter.document.tag)} time-current.png`, address, '#ffffff')
}
</script>

<template>
  <div class="stage" :class="{ stale: !starter.fresh }">
    <p v-if="said" class="quiet empty">No curves yet: {{ said }}</p>
    <div v-else-if="sheet" class="two">
      <section aria-label="Time-current sheet">
        <div class="from" role="radiogroup" aria-label="Relays">
          <label v-for="f in FROM" :key="f.value" :class="{ on: from === f.value }">
            <input
              v-model="from"
              type="radio"
              name="from"
              class="visually-hidden"
              :value="f.value"
            />
            {{ f.label }}
          </label>
        </div>
        <CurveChart
          label="Time-current curves of this starter"
          :curves="curves"
          :bands="bands"
          x-name="line current, A"
          y-name="time, s"
          :x-max="sheet.high_a"
          :mark="current"
          :marks="sheet.limits.map((l) => ({ at: l.current_a, name: l.name }))"
          :points="points"
          log
          tall
          fileless
        />
        <label class="cursor">
          Read at
          <input
            v-model.number="cursor"
            type="range"
            min="0"
            max="1"
            step="0.01"
            aria-label="Current to read at"
          />
          <span class="figures">{{ read(current) }} A</span>
        </label>
        <p class="links">
          <a :href="`/api/starters/${starter.id}/time-current.svg`" download>SVG</a>
          <button type="button" class="link" @click="png">PNG</button>
          <a :href="`/api/starters/${starter.id}/time-current.csv`" download>CSV of the curves</a>
          <CsvPoints label="Measured curve from CSV" @points="addMeasured" />
          <button v-if="measured.length" type="button" class="link" @click="setMeasured([])">
            without measured curves
          </button>
        </p>
        <p v-for="r in refused" :key="r" class="bad" role="alert">■ {{ r }}</p>
      </section>
      <section aria-label="Coordination checks">
        <h2 class="heading">Coordination checks</h2>
        <ol>
          <li v-for="m in sheet.marks" :key="m.name">
            <VerdictMark :verdict="m.state" wordless /> {{ m.words }}
          </li>
        </ol>
        <h2 class="heading">Swap device</h2>
        <p class="change">
          <Button
            v-for="d in changeable"
            :key="d.role"
            type="button"
            size="small"
            outlined
            :label="`${d.designation} ${d.selected.type ?? 'none fits'}`"
            :aria-label="`Change ${d.designation} ${d.selected.type ?? 'none fits'}`"
            @click="changing = d.role"
          />
        </p>
        <h2 class="heading">At {{ read(current) }} A</h2>
        <div role="status" aria-label="Readings">
          <dl>
            <template v-for="r in readings" :key="r.name">
              <dt>{{ r.name }}</dt>
              <dd class="figures">{{ r.time === undefined ? '—' : `${read(r.time)} s` }}</dd>
            </template>
          </dl>
        </div>
      </section>
    </div>
    <OverrideDialog :device="device" @close="changing = null" />
  </div>
</template>

<style scoped>
.from {
  display: flex;
  padding-bottom: 0.3rem;
}
.from label {
  border: 1px solid var(--rule-strong);
  padding: 0.1rem 0.7rem;
  background: var(--sheet);
  cursor: pointer;
}
.from label + label {
  border-left: 0;
}
.from .on {
  background: var(--accent-tint);
  font-weight: 650;
}
.from label:focus-within {
  outline: 2px solid var(--accent);
  outline-offset: 1px;
}
.empty {
  padding: 1.2rem 1rem;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.9fr) minmax(17rem, 1fr);
  gap: 0.5rem 1.6rem;
  padding: 0.6rem 1rem 2rem;
}
.change + .heading {
  margin-top: 0.9rem;
}
.cursor {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) 5rem;
  gap: 0.8rem;
  align-items: center;
  padding: 0.3rem 1.2rem 0 3.6rem;
}
.cursor input {
  accent-color: var(--accent);
  width: 100%;
}
.links {
  display: flex;
  gap: 1.2rem;
  padding-left: 3.6rem;
}
.bad {
  color: var(--stop);
}
.link {
  background: none;
  border: 0;
  padding: 0;
  color: var(--accent);
  text-decoration: underline;
  cursor: pointer;
  font: inherit;
}
ol {
  padding-left: 1.3rem;
  margin: 0.3rem 0 0.8rem;
  font-size: 0.93rem;
}
li {
  margin-bottom: 0.35rem;
}
.change {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
dl {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  font-size: 0.9rem;
  margin: 0.2rem 0;
}
dt,
dd {
  margin: 0;
  padding: 0.12rem 0;
  border-bottom: 1px solid var(--rule);
}
dd {
  text-align: right;
}
@media (max-width: 62.5em) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
