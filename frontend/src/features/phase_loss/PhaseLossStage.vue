<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'

import { client, problemsOf, type Unbalance } from '@/api/client'
import CurveChart, { type Curve } from '@/ui/CurveChart.vue'
import ChoiceField from '@/ui/ChoiceField.vue'
import MonitorChoice from '@/features/phase_loss/MonitorChoice.vue'
import PlateField from '@/ui/PlateField.vue'
import VerdictMark from '@/ui/VerdictMark.vue'
import { typedNumber } from '@/stores/document'
import { read } from '@/ui/figures'
import { useAsked } from '@/stores/asked'
import { fieldOf } from '@/stores/document'
import { useStarter } from '@/stores/starter'

/** Why a lost phase needs a monitor: what flows, what trips, what a voltage still reads. */
const starter = useStarter()
const share = ref<number | null>(null)

const {
  data,
  said: failed,
  ask,
} = useAsked(() =>
  starter.id === 0
    ? null
    : client.GET('/api/starters/{starter_id}/phase-failure', {
        params: { path: { starter_id: starter.id } },
      }),
)
const sheet = computed(() => data.value?.sheet ?? null)
const said = computed(() =>
  sheet.value?.missing ? `it needs ${sheet.value.missing}` : failed.value,
)
watch(() => [starter.id, starter.saved], ask, { immediate: true })

const index = computed(() => {
  const loads = sheet.value?.at_load ?? []
  const wanted = share.value ?? sheet.value?.usual_share ?? 1
  let best = 0
  loads.forEach((o, i) => {
    if (Math.abs(o.load_share - wanted) < Math.abs((loads[best]?.load_share ?? 0) - wanted))
      best = i
  })
  return best
})
const now = computed(() => sheet.value?.at_load[index.value])
const curves = computed<Curve[]>(() => {
  const s = sheet.value
  if (!s) return []
  const x = s.at_load.map((o) => Math.round(100 * o.load_share))
  return [
    { name: 'line', x, y: s.at_load.map((o) => o.line_ratio) },
    {
      name: 'worst winding',
      x,
      y: s.at_load.map((o) => (s.delta ? o.delta_winding_ratio : o.star_winding_ratio)),
      accent: true,
    },
  ]
})
const voltages = computed<Curve[]>(() => {
  const s = sheet.value
  if (!s) return []
  const x = s.at_load.map((o) => Math.round(100 * o.load_share))
  return ['AB', 'BC', 'CA'].map((name, i) => ({
    name,
    x,
    y: s.at_load.map((o) => o.line_voltages_pct[i] ?? null),
    dashed: i === 1,
    accent: i === 0,
  }))
})
const DEFINITIONS: Record<string, string> = {
  nema: 'largest deviation from the mean (NEMA)',
  sequence: 'negative over positive sequence (U2/U1)',
  spread: 'largest less smallest, over the largest',
}
const MEASURES = Object.entries(DEFINITIONS).map(([value, label]) => ({ value, label }))
const ON_OFF = [
  { value: true, label: 'on' },
  { value: false, label: 'off' },
]

const volts = ref(['', '', ''])
const amps = ref(['', '', ''])
const result = ref<Unbalance | null>(null)
const refused = ref('')
async function judge(): Promise<void> {
  const currents = amps.value.some((a) => a.trim()) ? amps.value.map(typedNumber) : undefined
  const { data, error } = await client.POST('/api/unbalance', {
    body: {
      voltages_v: volts.value.map(typedNumber) as number[],
      currents_a: currents as number[] | undefined,
    },
  })
  result.value = data?.result ?? null
  const problem = problemsOf(error)[0]
  refused.value = data || !problem ? '' : `${problem.field}: ${problem.message}`
}
</script>

<template>
  <div class="stage" :class="{ two: sheet && !said }">
    <p v-if="said" class="quiet empty">No figures for phase loss yet: {{ said }}.</p>
    <template v-else-if="sheet && now">
      <div class="inputs">
        <section aria-label="Settings of the monitor">
          <h2 class="heading">Phase monitor</h2>
          <MonitorChoice />
          <div v-for="s in sheet.settings" :key="s.field" class="setting">
            <span class="name">{{ s.name }}</span>
            <span class="set">
              <PlateField
                v-if="s.unit"
                :path="fieldOf(s.field)"
                :label="s.name"
                :usual="s.proposed === null ? 'none' : String(s.proposed)"
                compact
              />
              <ChoiceField
                v-else
                :path="fieldOf(s.field)"
                :label="s.name"
                :choices="ON_OFF"
                :unset="s.proposed ? 'on' : 'off'"
                compact
              />
              <span v-if="s.unit" class="unit">{{ s.unit }}</span></span
            >
            <p class="quiet">
              <template v-if="s.objection"
                ><VerdictMark verdict="attention" wordless /> {{ s.objection }}</template
              >
              <template v-else>{{ s.why }}</template>
            </p>
          </div>
          <div class="setting whole">
            <span class="name">asymmetry calculated as</span>
            <ChoiceField
              path="monitor.asymmetry_measure"
              :choices="MEASURES"
              unset="largest deviation from the mean (NEMA)"
              compact
            />
          </div>
        </section>
        <section aria-label="Unbalance of measured voltages">
          <h2 class="heading">Measured voltages and currents</h2>
          <form @submit.prevent="judge">
            <div v-for="(row, r) in [volts, amps]" :key="r" class="three">
              <span>{{ r === 0 ? 'Voltages' : 'Currents, if measured' }}</span>
              <InputText
                v-for="i in 3"
                :key="i"
                v-model="row[i - 1]"
                size="small"
                inputmode="decimal"
                :aria-label="
                  r === 0 ? `Voltage ${['L1-L2', 'L2-L3', 'L3-L1'][i - 1]}` : `Current L${i}`
                "
              />
              <span class="unit">{{ r === 0 ? 'V' : 'A' }}</span>
            </div>
            <Button type="submit" label="Check unbalance" size="small" outlined />
          </form>
          <p v-if="refused" class="bad" role="alert">■ {{ refused }}</p>
          <div v-if="result" role="status">
            <dl>
              <dt><VerdictMark :verdict="result.verdict" /></dt>
              <dd>{{ result.words }}</dd>
              <dt>unbalance, NEMA</dt>
              <dd class="figures">{{ read(result.nema_pct) }} %</dd>
              <dt>negative over positive sequence</dt>
              <dd class="figures">{{ read(result.true_pct) }} %</dd>
              <dt>permitted output</dt>
              <dd class="figures">
                {{
                  result.derating === null ? 'none: do not run' : `${read(100 * result.derating)} %`
                }}
              </dd>
              <dt>additional temperature rise</dt>
              <dd class="figures">{{ read(result.extra_rise_pct, 2) }} %</dd>
              <template v-if="result.current_pct !== null">
                <dt>unbalance of the currents</dt>
                <dd class="figures">{{ read(result.current_pct, 2) }} %</dd>
              </template>
            </dl>
          </div>
        </section>
      </div>
      <div class="answer">
        <section class="top" aria-label="A lost phase at this load">
          <h2 class="visually-hidden">Phase loss at this load</h2>
          <label class="slider">
            Load
            <input
              type="range"
              :min="sheet.at_load[0]?.load_share"
              :max="sheet.at_load.at(-1)?.load_share"
              step="0.02"
              :value="now.load_share"
              aria-label="Load, of rated torque"
              @input="share = Number(($event.target as HTMLInputElement).value)"
            />
            <span class="figures">{{ Math.round(100 * now.load_share) }} %</span>
          </label>
          <div class="results" role="status">
            <div>
              <h3>In the two live lines</h3>
              <p class="big figures">{{ read(now.line_ratio) }}<span class="unit">×</span></p>
              <p v-if="!now.stalls" class="figures range">
                {{ read(now.line_span[0]) }} to {{ read(now.line_span[1]) }}
              </p>
              <p class="quiet">
                <span class="figures">{{ read(now.line_current_a) }} A</span>, in place of the
                current before
              </p>
            </div>
            <div>
              <h3>In the worst winding</h3>
              <p class="big figures">
                {{ read(sheet.delta ? now.delta_winding_ratio : now.star_winding_ratio)
                }}<span class="unit">×</span>
              </p>
              <p class="quiet">
                {{
                  sheet.delta
                    ? 'in delta one winding takes most of it'
                    : 'in star as much as the line'
                }}
              </p>
            </div>
            <div>
              <h3>The motor</h3>
              <p class="big">{{ now.stalls ? 'stops' : 'keeps running' }}</p>
              <p class="quiet">
                {{
                  now.stalls
                    ? 'on two phases it has not the torque for this load'
                    : 'nobody notices, until it is hot'
                }}
              </p>
            </div>
            <div>
              <h3>The overload relay</h3>
              <p class="big figures">
                <template v-if="sheet.relay_time_s[index] !== null"
                  >{{ read(sheet.relay_time_s[index], 2) }}<span class="unit">s</span></template
                >
                <template v-else>holds</template>
              </p>
              <p class="quiet">{{ sheet.relay[index] }}</p>
            </div>
            <div>
              <h3>The open terminal</h3>
              <p class="big figures">
                {{ read(now.open_terminal_pct) }}<span class="unit">%</span>
              </p>
              <p v-if="!now.stalls" class="figures range">
                {{ read(now.open_terminal_span_pct[0]) }} to
                {{ read(now.open_terminal_span_pct[1]) }}
              </p>
              <p class="quiet">
                {{
                  now.stalls
                    ? 'of the phase voltage stands on it, through the windings'
                    : 'of the phase voltage is still there, generated by the motor'
                }}
              </p>
            </div>
          </div>
        </section>
        <p v-if="sheet.damage" class="band">
          <VerdictMark verdict="attention" wordless />
          <template
            v-if="
              sheet.damage.trips_from_share !== null &&
              sheet.damage.trips_from_share > sheet.damage.from_share
            "
          >
            From <b class="figures">{{ Math.round(100 * sheet.damage.from_share) }} %</b> load the
            worst winding carries more than its rated current; this relay{{
              sheet.sensitive ? ', sensitive to a lost phase,' : ''
            }}
            must trip only from
            <b class="figures">{{ Math.round(100 * sheet.damage.trips_from_share) }} %</b> on. In
            between the winding may burn out undetected.
          </template>
          <template v-else>
            The relay must trip before the worst winding carries more than its rated current.
          </template>
        </p>
        <div class="charts">
          <section aria-label="Currents">
            <h2 class="heading">Current, × that before the loss</h2>
            <CurveChart
              label="Currents after a lost phase over load"
              :curves="curves"
              x-name="load, % of rated torque"
              y-name="times the current before"
              :x-max="120"
              :mark="Math.round(100 * now.load_share)"
            />
          </section>
          <section aria-label="Voltages">
            <h2 class="heading">What a three-wire monitor reads</h2>
            <CurveChart
              label="Line voltages after a lost phase over load"
              :curves="voltages"
              x-name="load, % of rated torque"
              y-name="% of the line voltage"
              :x-max="120"
              :mark="Math.round(100 * now.load_share)"
            />
          </section>
        </div>
        <div class="charts text">
          <section aria-label="Readings of the monitor">
            <h2 class="heading">What the monitor reads</h2>
            <p>
              {{ sheet.undervoltage[index] }} Asymmetry reads
              <b class="figures">{{ read(now.nema_pct, 2) }} %</b>,
              <b class="figures">{{ read(now.sequence_pct, 2) }} %</b> or
              <b class="figures">{{ read(now.spread_pct, 2) }} %</b>, depending on how the maker
              calculates it.
            </p>
            <p v-for="n in sheet.notes" :key="n">{{ n }}</p>
            <table>
              <tbody>
                <tr v-for="a in sheet.asymmetry" :key="a.measure">
                  <th scope="row">asymmetry as {{ DEFINITIONS[a.measure] }}</th>
                  <td class="figures">
                    {{ a.proposed_pct === null ? 'none' : `${read(a.proposed_pct, 2)} %` }}
                  </td>
                  <td>
                    a lost phase leaves at least {{ read(a.least_pct, 2) }} % at the lightest load
                  </td>
                </tr>
              </tbody>
            </table>
          </section>
          <section aria-label="Connection of the monitor">
            <h2 class="heading">Where the monitor is connected</h2>
            <table>
              <tbody>
                <tr v-for="t in sheet.tapping" :key="t.name">
                  <th scope="row">{{ t.name }}</th>
                  <td>{{ t.sees }}</td>
                  <td>misses: {{ t.misses }}</td>
                </tr>
              </tbody>
            </table>
          </section>
        </div>
      </div>
    </template>
  </div>
</template>

<style scoped>
.empty {
  padding: 1.2rem 1rem;
}
.two {
  display: grid;
  grid-template-columns: 21rem minmax(0, 1fr);
}
.inputs {
  display: grid;
  gap: 1rem;
  align-content: start;
  padding: 0.7rem 1rem 2rem;
  border-right: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.setting {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 0.6rem;
  align-items: center;
  padding: 0.3rem 0;
  border-bottom: 1px solid var(--rule);
}
.setting p {
  grid-column: 1 / -1;
  font-size: 0.86rem;
  margin: 0;
}
.answer {
  min-width: 0;
}
.top {
  background: var(--sheet);
  border-bottom: 1px solid var(--rule-strong);
}
@media (min-width: 93.75em) and (min-height: 900px) {
  .top {
    position: sticky;
    top: 0;
    z-index: 2;
  }
}
.slider {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) 4rem;
  gap: 0.8rem;
  align-items: center;
  padding: 0.6rem 1rem 0.2rem;
}
.slider input {
  accent-color: var(--accent);
  width: 100%;
}
.results {
  display: flex;
  flex-wrap: wrap;
}
.results > div {
  flex: 1 1 9rem;
  padding: 0.3rem 1rem 0.5rem;
  border-right: 1px solid var(--rule);
}
h3 {
  font-size: 0.86rem;
  font-weight: 500;
  color: var(--quiet);
}
.big {
  font-size: 1.5rem;
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
.band {
  padding: 0.5rem 1rem 0;
  margin: 0;
}
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(24rem, 1fr));
  gap: 0.5rem 1.5rem;
  padding: 0.6rem 1rem;
}
.charts > section {
  min-width: 0;
}
.text {
  padding-bottom: 2rem;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 0.93rem;
}
th {
  text-align: left;
  font-weight: 500;
}
th,
td {
  padding: 0.2rem 0.8rem 0.2rem 0;
  border-bottom: 1px solid var(--rule);
  vertical-align: baseline;
}
td.figures {
  white-space: nowrap;
}
.three > span:first-child {
  grid-column: 1 / -1;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr)) 1.4rem;
  gap: 0.5rem;
  align-items: center;
  margin-bottom: 0.4rem;
}
dl {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0.2rem 0.8rem;
}
dd {
  margin: 0;
}
.bad {
  color: var(--stop);
}
@media (max-width: 62.5em) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  .inputs {
    order: 2;
    border-right: 0;
  }
  .charts {
    grid-template-columns: minmax(0, 1fr);
  }
}
.set {
  display: flex;
  align-items: center;
  gap: 0.2rem;
  white-space: nowrap;
}
.set .unit {
  width: 1rem;
}
.setting :deep(.field) {
  grid-template-columns: auto;
}
.setting :deep(.compact .entry input) {
  width: 4.6rem;
  min-width: 0;
}
.setting :deep(.p-select) {
  width: 8.8rem;
  min-width: 0;
}
.setting.whole :deep(.p-select) {
  width: 100%;
}
.setting.whole {
  grid-template-columns: minmax(0, 1fr);
}
</style>
