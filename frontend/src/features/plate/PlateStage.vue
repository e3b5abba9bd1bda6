<script setup lang="ts">
import { computed } from 'vue'

import ChoiceField from '@/ui/ChoiceField.vue'
import SymbolView from '@/ui/SymbolView.vue'
import FigureButton from '@/ui/FigureButton.vue'
import FindOut from '@/app/FindOut.vue'
import PlateField from '@/ui/PlateField.vue'
import PowerField from '@/ui/PowerField.vue'
import { valueAt, type FieldPath } from '@/stores/document'
import { useStarter } from '@/stores/starter'
import {
  CLASSES,
  CODE_LETTERS,
  CURRENT_KINDS,
  DESIGN_LETTERS,
  DUTIES,
  DUTY_TYPES,
  EARTHED,
  EARTHED_POINTS,
  INSULATIONS,
  LAID,
  LEADS,
  LEAD_CONNECTIONS,
  MONITORS,
  OVERLOAD_CONTACTS,
  PHASES,
  POSITIONS,
  PRACTICES,
  SCHEMES,
  SINGLE_PHASE_KINDS,
  CONDUCTORS,
  SOURCES,
  SOURCE_WORDS,
  SYSTEMS,
  SYSTEMS_NORTH_AMERICAN,
  CONTROL_TAPS,
  YES_NO,
} from '@/ui/words'

const starter = useStarter()
const GRID: { path: FieldPath; label: string; row: number; column: number }[] = [
  { path: 'motor.rated_voltage_delta_v', label: 'Voltage in delta', row: 0, column: 0 },
  { path: 'motor.rated_voltage_star_v', label: 'Voltage in star', row: 0, column: 1 },
  { path: 'motor.rated_voltage_v', label: 'The one voltage on the plate', row: 0, column: 2 },
  { path: 'motor.rated_current_delta_a', label: 'Current in delta', row: 1, column: 0 },
  { path: 'motor.rated_current_star_a', label: 'Current in star', row: 1, column: 1 },
  { path: 'motor.rated_current_a', label: 'The one current on the plate', row: 1, column: 2 },
]
const gridProblems = computed(() =>
  GRID.map((g) => ({ ...g, problem: starter.problemAt.get(g.path) })).filter((g) => g.problem),
)
const TWO: { name: string; unit: string; low: FieldPath; high: FieldPath }[] = [
  {
    name: 'Voltage',
    unit: 'V',
    low: 'motor.rated_voltage_low_v',
    high: 'motor.rated_voltage_high_v',
  },
  {
    name: 'Current',
    unit: 'A',
    low: 'motor.rated_current_low_a',
    high: 'motor.rated_current_high_a',
  },
]
const TWO_PATHS = TWO.flatMap((q) => [q.low, q.high])
const twoVoltages = computed(() =>
  TWO_PATHS.some((path) => valueAt(starter.document, path) !== undefined),
)
const twoProblems = computed(() =>
  TWO_PATHS.map((path) => starter.problemAt.get(path)).filter((p) => p !== undefined),
)
const single = computed(() => valueAt(starter.document, 'motor.phases') === 1)
const nec = computed(() => starter.document.practice === 'nec')

const design = computed(() => starter.design)
function workedOut(source?: string): string {
  return source ? (SOURCE_WORDS[source] ?? source) : 'not known'
}
const asksWhy = computed(
  () =>
    valueAt(starter.document, 'control.restart_harmless') !== undefined ||
    starter.design?.findings.some((f) => f.code === 'control_outlives_power'),
)
const conductorsGuessed = computed(
  () => CONDUCTORS.find((c) => c.value === design.value?.supply.conductors)?.label ?? 'not known',
)
const linksCaption = computed(() => {
  if (single.value) return 'looped through F1'
  if (design.value?.links === 'links.out') return 'links out'
  return design.value?.figures.connection?.text ?? ''
})
const ORIGINS = [
  { source: 'nameplate', figure: 'plate_current_a', title: 'On the plate' },
  { source: 'calculated', figure: 'calculated_current_a', title: 'Calculated' },
  { source: 'table', figure: 'table_current_a', title: 'From the table' },
]
const currents = computed(() =>
  ORIGINS.map((s) => {
    const reading = design.value?.figures[s.figure]
    const inUse = design.value?.currents.design_current_source === s.source
    const note = reading
      ? reading.typical
        ? 'from typical values'
        : ''
      : design.value?.currents.reasons[s.source]
    return {
      ...s,
      reading,
      inUse,
      note: inUse ? 'in use' : note,
      difference: `${s.source}_difference_pct`,
    }
  }),
)
</script>

<template>
  <div class="stage" :class="{ stale: !starter.fresh }">
    <section class="results" aria-label="Currents of the motor">
      <div v-for="c in currents" :key="c.source" class="cell" :class="{ used: c.inUse }">
        <h3>{{ c.title }}</h3>
        <p class="big">
          <FigureButton v-if="c.reading" :id="c.figure" :label="c.title" />
          <span v-else class="quiet">—</span>
        </p>
        <p v-if="c.note" class="why">
          <span v-if="c.inUse" aria-hidden="true">● </span>{{ c.note }}
        </p>
        <p v-if="design?.figures[c.difference]" class="why">
          plate differs by <FigureButton :id="c.difference" label="The plate differs by" />
        </p>
      </div>
      <div class="cell more">
        <dl>
          <dt>may carry here</dt>
          <dd>
            <FigureButton id="permitted_current_a" /><span v-if="!design" class="quiet">—</span>
          </dd>
          <dt>at the start</dt>
          <dd>
            <FigureButton id="locked_rotor_current_a" /><span v-if="!design" class="quiet">—</span>
          </dd>
          <dt>first peak</dt>
          <dd><FigureButton id="inrush_peak_a" /><span v-if="!design" class="quiet">—</span></dd>
        </dl>
      </div>
      <div class="cell links">
        <template v-if="design?.links">
          <SymbolView :name="design.links" :scale="0.78" />
          <button type="button" class="opens caption" @click="starter.openWorking('connection')">
            {{ linksCaption }}
          </button>
        </template>
        <p v-else-if="design" class="quiet caption">
          {{
            design.connection === 'plate'
              ? 'one voltage on the plate: connect as the maker shows'
              : 'connect as the maker’s diagram shows'
          }}
        </p>
      </div>
    </section>
    <FindOut brief />

    <div class="columns">
      <section class="plate" aria-label="Motor plate">
        <h2 class="heading">On the motor plate</h2>
        <ChoiceField path="motor.phases" label="Phases" :choices="PHASES" unset="Three" />
        <PowerField />
        <div v-if="single">
          <PlateField path="motor.rated_voltage_v" label="Voltage" unit="V" />
          <PlateField path="motor.rated_current_a" label="Current" unit="A" />
          <ChoiceField
            path="motor.single_phase_kind"
            label="Kind"
            :choices="SINGLE_PHASE_KINDS"
            unset="not known"
          />
          <PlateField path="motor.run_capacitor_uf" label="Run capacitor" unit="µF" />
          <PlateField path="motor.run_capacitor_voltage_v" label="its voltage rating" unit="V" />
          <PlateField path="motor.start_capacitor_uf" label="Start capacitor" unit="µF" />
          <PlateField path="motor.start_capacitor_voltage_v" label="its voltage rating" unit="V" />
          <PlateField path="motor.bleed_resistor_ohm" label="Bleed resistor" unit="Ω" />
        </div>
        <div v-else class="pair">
          <span></span><span class="col">△ delta</span><span class="col">Y star</span
          ><span class="col">only one</span><span></span>
          <template v-for="(name, row) in ['Voltage', 'Current']" :key="name">
            <span class="name">{{ name }}</span>
            <PlateField
              v-for="g in GRID.filter((x) => x.row === row)"
              :key="g.path"
              :path="g.path"
              :label="g.label"
              compact
            />
            <span class="unit">{{ row === 0 ? 'V' : 'A' }}</span>
          </template>
        </div>
        <details v-if="!single" :open="twoVoltages">
          <summary>Nine or twelve leads: a low and a high voltage</summary>
          <div class="pair">
            <span></span><span class="col">low, parallel</span><span class="col">high, series</span
            ><span></span><span></span>
            <template v-for="q in TWO" :key="q.name">
              <span class="name">{{ q.name }}</span>
              <PlateField :path="q.low" :label="`${q.name} low`" compact />
              <PlateField :path="q.high" :label="`${q.name} high`" compact />
              <span></span>
              <span class="unit">{{ q.unit }}</span>
            </template>
          </div>
          <p v-for="p in twoProblems" :key="p" class="problem">■ {{ p }}</p>
          <ChoiceField
            path="motor.lead_connection"
            label="Wound in"
            :choices="LEAD_CONNECTIONS"
            unset="not known"
          />
        </details>
        <ChoiceField
          v-if="!single"
          path="motor.leads"
          label="Leads"
          :choices="LEADS"
          unset="not known"
        />
        <p v-for="g in gridProblems" :key="g.path" class="problem">
          ■ {{ g.label }}: {{ g.problem }}
        </p>
        <PlateField path="motor.frequency_hz" label="Frequency" unit="Hz" />
        <PlateField path="motor.rated_speed_rpm" label="Speed" unit="rpm" />
        <PlateField path="motor.power_factor" label="Power factor cosφ" />
        <PlateField path="motor.efficiency_pct" label="Efficiency η" unit="%" />
        <PlateField
          path="motor.locked_rotor_current_ratio"
          label="Starting current Ia/In"
          unit="×"
        />
        <ChoiceField
          path="motor.efficiency_class"
          label="Efficiency class"
          :choices="CLASSES"
          unset="not known"
        />
        <PlateField path="motor.service_factor" label="Service factor" />
        <PlateField
          path="motor.permitted_stall_time_s"
          label="Permitted stall time, warm"
          unit="s"
        />
        <template v-if="nec">
          <ChoiceField
            path="motor.code_letter"
            label="Code letter"
            :choices="CODE_LETTERS"
            unset="not known"
          />
          <ChoiceField
            path="motor.nec_design_letter"
            label="Design letter"
            :choices="DESIGN_LETTERS"
            unset="not known"
          />
          <PlateField path="motor.temperature_rise_k" label="Temperature rise" unit="K" />
        </template>
      </section>

      <div class="stack">
        <section aria-label="Supply">
          <h2 class="heading">What feeds it</h2>
          <PlateField path="supply.line_voltage_v" label="Line voltage" unit="V" />
          <ChoiceField
            path="supply.conductors"
            label="Conductors"
            :choices="CONDUCTORS"
            :unset="conductorsGuessed"
          />
          <p v-if="design?.supply.conductors_reason && single" class="note">
            {{ design.supply.taken.join(' and ') }}: {{ design.supply.conductors_reason }}
          </p>
          <PlateField path="supply.frequency_hz" label="Frequency" unit="Hz" />
          <PlateField
            path="supply.prospective_current_ka"
            label="Prospective current"
            unit="kA"
            hint="or let it be worked out:"
          />
          <PlateField path="supply.transformer_kva" label="Transformer" unit="kVA" />
          <PlateField path="supply.transformer_uk_pct" label="Short-circuit voltage uk" unit="%" />
          <PlateField path="supply.supply_cable_length_m" label="Cable to the board" unit="m" />
          <PlateField
            path="supply.supply_cable_section_mm2"
            label="its section"
            unit="mm²"
            :hint="nec ? 'or 2 AWG' : ''"
          />
          <details>
            <summary>Cable to the motor, earthing, capacitor</summary>
            <PlateField path="supply.cable_length_m" label="Cable to the motor" unit="m" />
            <PlateField
              path="supply.cable_section_mm2"
              label="its section"
              unit="mm²"
              :hint="nec ? 'or 12 AWG' : ''"
            />
            <PlateField path="supply.cable_parallel" label="cables in parallel" hint="1" />
            <PlateField path="supply.cable_ambient_c" label="its ambient" unit="°C" hint="30" />
            <PlateField
              path="supply.cable_grouping"
              label="bunched circuits, with this one"
              hint="1"
            />
            <template v-if="!nec">
              <ChoiceField
                path="supply.cable_insulation"
                label="Insulation"
                :choices="INSULATIONS"
                unset="PVC"
              />
              <ChoiceField path="supply.cable_method" label="Laid" :choices="LAID" unset="B2" />
            </template>
            <ChoiceField
              path="supply.system"
              label="Earthing system"
              :choices="nec ? SYSTEMS_NORTH_AMERICAN : SYSTEMS"
              unset="not known"
            />
            <PlateField
              v-if="!nec"
              path="supply.earth_loop_ohm"
              label="Earth fault loop measured at the board"
              unit="Ω"
            />
            <PlateField
              path="supply.running_motors_current_a"
              label="Motors running on the bus"
              unit="A"
            />
            <PlateField path="supply.power_factor_capacitor_kvar" label="Capacitor" unit="kvar" />
            <ChoiceField
              path="supply.power_factor_capacitor_position"
              label="connected"
              :choices="POSITIONS"
              unset="not known"
            />
          </details>
        </section>
        <section aria-label="Control supply">
          <h2 class="heading">Control</h2>
          <PlateField path="control.voltage_v" label="Control voltage" unit="V" />
          <PlateField path="control.measured_voltage_v" label="reads on the meter" unit="V" />
          <PlateField path="control.coil_voltage_v" label="Coil voltage, if another" unit="V" />
          <ChoiceField path="control.kind" label="Kind" :choices="CURRENT_KINDS" unset="AC" />
          <ChoiceField
            path="control.source"
            label="From"
            :choices="SOURCES"
            :unset="workedOut(design?.control.source)"
          />
          <p v-if="design" class="note">{{ design.control.words }}</p>
          <p v-if="design?.control.live_with_main_off" class="note">
            <b>▲ Live with Q1 off.</b> Second isolator and warning needed.
          </p>
          <ChoiceField
            v-if="valueAt(starter.document, 'control.source') !== 'separate'"
            path="control.tap"
            label="Tapped"
            :choices="CONTROL_TAPS"
            unset="Behind the main breaker"
          />
          <PlateField
            v-if="asksWhy"
            path="control.restart_harmless"
            label="Restart harmless because"
            words
          />
          <ChoiceField
            path="control.earthed"
            label="Earthing"
            :choices="EARTHED"
            unset="not known"
          />
          <ChoiceField
            v-if="
              valueAt(starter.document, 'control.earthed_point') ||
              (valueAt(starter.document, 'control.source') === 'transformer' &&
                valueAt(starter.document, 'control.earthed') === true)
            "
            path="control.earthed_point"
            label="Earthed at"
            :choices="EARTHED_POINTS"
            unset="One end"
          />
          <ChoiceField
            path="control.scheme"
            label="Started by"
            :choices="SCHEMES"
            unset="Push-buttons"
          />
          <ChoiceField
            path="control.phase_monitor"
            label="Phase monitor"
            :choices="MONITORS"
            unset="None"
          />
          <details>
            <summary>Overload contact, control line, lamps</summary>
            <ChoiceField
              path="control.overload_contact"
              label="Its contact"
              :choices="OVERLOAD_CONTACTS"
              unset="Line side"
            />
            <PlateField path="control.line_length_m" label="Control line, one way" unit="m" />
            <PlateField path="control.line_section_mm2" label="its section" unit="mm²" hint="1.5" />
            <PlateField path="assumptions.lamp_va" label="One lamp takes" unit="VA" hint="2" />
          </details>
        </section>
      </div>

      <div class="stack">
        <section aria-label="Which starter">
          <h2 class="heading">Which starter</h2>
          <PlateField path="tag" label="Tag" words />
          <PlateField path="service" label="Service" words />
          <ChoiceField path="practice" label="Practice" :choices="PRACTICES" unset="IEC" />
        </section>
        <section aria-label="Load">
          <h2 class="heading">Load and use</h2>
          <PlateField path="load.start_time_s" label="Starting time" unit="s" />
          <ChoiceField path="load.duty" label="Duty" :choices="DUTIES" unset="AC-3" />
          <PlateField path="load.ac4_share_pct" label="of it inching, plugging" unit="%" />
          <PlateField path="load.starts_per_hour" label="Starts per hour" unit="1/h" />
          <PlateField path="load.hours_per_year" label="Hours per year" unit="h/a" />
          <details>
            <summary>Duty type, starts allowed, thermistors</summary>
            <ChoiceField path="load.duty_type" label="Duty type" :choices="DUTY_TYPES" unset="S1" />
            <PlateField
              path="motor.permitted_starts_per_hour"
              label="Starts the motor is allowed"
              unit="1/h"
            />
            <ChoiceField
              path="motor.thermistors"
              label="Thermistors in the winding"
              :choices="YES_NO"
              unset="not known"
            />
            <ChoiceField
              v-if="single"
              path="motor.thermal_protector"
              label="Thermal protector built in"
              :choices="YES_NO"
              unset="not known"
            />
          </details>
        </section>
        <section aria-label="Surroundings">
          <h2 class="heading">Surroundings</h2>
          <PlateField path="surroundings.ambient_c" label="In the panel" unit="°C" />
          <PlateField
            path="surroundings.motor_ambient_c"
            label="At the motor, if other"
            unit="°C"
          />
          <PlateField path="surroundings.altitude_m" label="Altitude" unit="m" />
          <details>
            <summary>Assumptions of the method</summary>
            <PlateField
              path="assumptions.inrush_peak_factor"
              label="First-peak factor ki"
              hint="1.4, from IE3 on 1.5"
            />
            <PlateField path="assumptions.life_exponent" label="Wear exponent" hint="2" />
            <PlateField
              path="assumptions.prospective_voltage_factor"
              label="Voltage factor c"
              hint="1.10"
            />
            <PlateField
              path="assumptions.transformer_r_over_x"
              label="Transformer R/X"
              hint="1/3"
            />
          </details>
        </section>
      </div>
    </div>
    <FindOut />
  </div>
</template>

<style scoped>
.results {
  display: flex;
  flex-wrap: wrap;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--sheet);
  position: sticky;
  top: 0;
  z-index: 2;
}
.cell {
  padding: 0.6rem 1rem 0.5rem;
  border-right: 1px solid var(--rule);
  min-width: 8.6rem;
  flex: 1 1 8.6rem;
}
.cell h3 {
  font-size: 0.86rem;
  font-weight: 500;
  color: var(--quiet);
}
.cell .big {
  font-size: 1.9rem;
  line-height: 1.25;
}
.cell.used {
  box-shadow: inset 0 3px 0 var(--ink);
}
.cell:not(.used) .big {
  font-size: 1.4rem;
  padding: 0.25rem 0;
}
.why {
  font-size: 0.86rem;
}
.cell.used .why {
  font-weight: 650;
}
.more {
  flex-basis: 12rem;
}
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  margin: 0;
  row-gap: 0.25rem;
}
dt {
  color: var(--quiet);
  font-size: 0.86rem;
}
dd {
  margin: 0;
  text-align: right;
}
.links {
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  flex: 0 0 11.5rem;
  padding: 0.3rem 0.6rem;
  border-right: 0;
  text-align: center;
}
.caption {
  font-size: 0.86rem;
}
.stale .results {
  opacity: 0.55;
}
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(19.5rem, 1fr));
  gap: 1.2rem 1.8rem;
  padding: 1rem;
  align-items: start;
}
.plate {
  border: 1.5px solid var(--ink);
  border-radius: 5px;
  padding: 0.8rem 1rem 0.9rem;
  background:
    radial-gradient(circle at 9px 9px, var(--rule-strong) 2.5px, transparent 3px),
    radial-gradient(circle at calc(100% - 9px) 9px, var(--rule-strong) 2.5px, transparent 3px),
    radial-gradient(circle at 9px calc(100% - 9px), var(--rule-strong) 2.5px, transparent 3px),
    radial-gradient(
      circle at calc(100% - 9px) calc(100% - 9px),
      var(--rule-strong) 2.5px,
      transparent 3px
    ),
    var(--sheet);
}
.stack {
  display: grid;
  gap: 1.2rem;
}
.pair {
  display: grid;
  grid-template-columns: 4rem repeat(3, minmax(0, 1fr)) 1.1rem;
  gap: 0.25rem 0.4rem;
  align-items: center;
  margin: 0.3rem 0;
}
.col {
  font-size: 0.82rem;
  color: var(--quiet);
  text-align: right;
}
.name {
  font-size: 0.93rem;
}
.problem {
  color: var(--stop);
  font-size: 0.8rem;
}
details {
  margin-top: 0.4rem;
}
summary {
  cursor: pointer;
  color: var(--accent);
  font-size: 0.93rem;
}
</style>
