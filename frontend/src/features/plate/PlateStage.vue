<script setup lang="ts">
import { computed, inject } from 'vue'

import ChoiceField from '@/ui/ChoiceField.vue'
import SymbolView from '@/ui/SymbolView.vue'
import FigureButton from '@/ui/FigureButton.vue'
import AnswerPlate from '@/features/quick/AnswerPlate.vue'
import FoldSection from '@/ui/FoldSection.vue'
import RatedField from '@/ui/RatedField.vue'
import VerdictMark from '@/ui/VerdictMark.vue'
import FindOut from '@/app/FindOut.vue'
import PlateField from '@/ui/PlateField.vue'
import PowerField from '@/ui/PowerField.vue'
import { valueAt, type FieldPath } from '@/stores/document'
import { useStarter } from '@/stores/starter'
import { MEND } from '@/app/mend'
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
  PHASES,
  POSITIONS,
  PRACTICES,
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
/** A starter that tells nothing yet begins in its first field. */
const isNew = starter.design === null && !starter.document.motor?.rated_power_kw
/** Fields of each fold, counted in its heading. */
const PATHS = {
  more: [
    'motor.frequency_hz',
    'motor.rated_speed_rpm',
    'motor.power_factor',
    'motor.efficiency_pct',
    'motor.locked_rotor_current_ratio',
    'motor.efficiency_class',
    'motor.service_factor',
    'motor.permitted_stall_time_s',
    'motor.thermistors',
    'motor.permitted_starts_per_hour',
  ],
  moreNec: ['motor.code_letter', 'motor.nec_design_letter', 'motor.temperature_rise_k'],
  moreSingle: [
    'motor.single_phase_kind',
    'motor.run_capacitor_uf',
    'motor.run_capacitor_voltage_v',
    'motor.start_capacitor_uf',
    'motor.start_capacitor_voltage_v',
    'motor.bleed_resistor_ohm',
    'motor.thermal_protector',
  ],
  leads: ['motor.leads', 'motor.lead_connection'],
  supply: [
    'supply.line_voltage_v',
    'supply.conductors',
    'supply.frequency_hz',
    'supply.prospective_current_ka',
    'supply.transformer_kva',
    'supply.transformer_uk_pct',
    'supply.supply_cable_length_m',
    'supply.supply_cable_section_mm2',
    'supply.system',
    'supply.earth_loop_ohm',
    'supply.running_motors_current_a',
  ],
  cable: [
    'supply.cable_length_m',
    'supply.cable_section_mm2',
    'supply.cable_parallel',
    'supply.cable_ambient_c',
    'supply.cable_grouping',
    'supply.cable_insulation',
    'supply.cable_method',
    'supply.power_factor_capacitor_kvar',
    'supply.power_factor_capacitor_position',
  ],
  control: [
    'control.voltage_v',
    'control.measured_voltage_v',
    'control.coil_voltage_v',
    'control.kind',
    'control.source',
    'control.tap',
    'control.earthed',
    'control.line_length_m',
    'control.line_section_mm2',
  ],
  use: [
    'load.duty',
    'load.ac4_share_pct',
    'load.starts_per_hour',
    'load.hours_per_year',
    'load.duty_type',
  ],
  around: ['surroundings.ambient_c', 'surroundings.motor_ambient_c', 'surroundings.altitude_m'],
  assumed: [
    'assumptions.inrush_peak_factor',
    'assumptions.life_exponent',
    'assumptions.prospective_voltage_factor',
    'assumptions.transformer_r_over_x',
    'assumptions.lamp_va',
  ],
  name: ['tag', 'service', 'practice'],
} satisfies Record<string, FieldPath[]>
const more = computed<FieldPath[]>(() => [
  ...PATHS.more,
  ...(nec.value ? PATHS.moreNec : []),
  ...(single.value ? PATHS.moreSingle : []),
])
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
const OTHERS = [
  { figure: 'permitted_current_a', title: 'Derated full-load current' },
  { figure: 'locked_rotor_current_a', title: 'Starting current' },
  { figure: 'inrush_peak_a', title: 'Peak inrush' },
]
const mend = inject(MEND, () => undefined)
</script>

<template>
  <div class="stage" :class="{ stale: !starter.fresh }">
    <div class="inputs">
      <section class="plate riveted" aria-label="Motor plate">
        <h2 class="heading">On the motor plate</h2>
        <PowerField :focus="isNew" />
        <RatedField kind="voltage" />
        <RatedField kind="current" />
        <ChoiceField path="motor.phases" :choices="PHASES" unset="Three" />
      </section>

      <FoldSection title="More from the plate" name="more" :paths="more">
        <PlateField path="motor.frequency_hz" />
        <PlateField path="motor.rated_speed_rpm" />
        <PlateField path="motor.power_factor" />
        <PlateField path="motor.efficiency_pct" />
        <PlateField path="motor.locked_rotor_current_ratio" />
        <ChoiceField path="motor.efficiency_class" :choices="CLASSES" unset="not known" />
        <PlateField path="motor.service_factor" />
        <PlateField path="motor.permitted_stall_time_s" />
        <ChoiceField path="motor.thermistors" :choices="YES_NO" unset="not known" />
        <PlateField path="motor.permitted_starts_per_hour" />
        <template v-if="nec">
          <ChoiceField path="motor.code_letter" :choices="CODE_LETTERS" unset="not known" />
          <ChoiceField path="motor.nec_design_letter" :choices="DESIGN_LETTERS" unset="not known" />
          <PlateField path="motor.temperature_rise_k" />
        </template>
        <template v-if="single">
          <ChoiceField
            path="motor.single_phase_kind"
            :choices="SINGLE_PHASE_KINDS"
            unset="not known"
          />
          <PlateField path="motor.run_capacitor_uf" />
          <PlateField path="motor.run_capacitor_voltage_v" />
          <PlateField path="motor.start_capacitor_uf" />
          <PlateField path="motor.start_capacitor_voltage_v" />
          <PlateField path="motor.bleed_resistor_ohm" />
          <ChoiceField path="motor.thermal_protector" :choices="YES_NO" unset="not known" />
        </template>
      </FoldSection>

      <FoldSection v-if="!single" title="Leads" name="leads" :paths="PATHS.leads">
        <ChoiceField path="motor.leads" :choices="LEADS" unset="not known" />
        <ChoiceField path="motor.lead_connection" :choices="LEAD_CONNECTIONS" unset="not known" />
      </FoldSection>

      <FoldSection title="Supply" name="supply" :paths="PATHS.supply">
        <PlateField path="supply.line_voltage_v" />
        <ChoiceField path="supply.conductors" :choices="CONDUCTORS" :unset="conductorsGuessed" />
        <p v-if="design?.supply.conductors_reason && single" class="note">
          {{ design.supply.taken.join(' and ') }}: {{ design.supply.conductors_reason }}
        </p>
        <PlateField path="supply.frequency_hz" />
        <PlateField path="supply.prospective_current_ka" hint="or from transformer and cable:" />
        <PlateField path="supply.transformer_kva" />
        <PlateField path="supply.transformer_uk_pct" />
        <PlateField path="supply.supply_cable_length_m" />
        <PlateField path="supply.supply_cable_section_mm2" :hint="nec ? 'or 2 AWG' : ''" />
        <ChoiceField
          path="supply.system"
          :choices="nec ? SYSTEMS_NORTH_AMERICAN : SYSTEMS"
          unset="not known"
        />
        <PlateField v-if="!nec" path="supply.earth_loop_ohm" />
        <PlateField path="supply.running_motors_current_a" />
      </FoldSection>

      <FoldSection title="Motor cable, capacitor" name="cable" :paths="PATHS.cable">
        <PlateField path="supply.cable_length_m" />
        <PlateField path="supply.cable_section_mm2" :hint="nec ? 'or 12 AWG' : ''" />
        <PlateField path="supply.cable_parallel" />
        <PlateField path="supply.cable_ambient_c" />
        <PlateField path="supply.cable_grouping" />
        <template v-if="!nec">
          <ChoiceField path="supply.cable_insulation" :choices="INSULATIONS" unset="PVC" />
          <ChoiceField path="supply.cable_method" :choices="LAID" unset="B2" />
        </template>
        <PlateField path="supply.power_factor_capacitor_kvar" />
        <ChoiceField
          path="supply.power_factor_capacitor_position"
          :choices="POSITIONS"
          unset="not known"
        />
      </FoldSection>

      <FoldSection title="Control supply" name="control" :paths="PATHS.control">
        <PlateField path="control.voltage_v" />
        <PlateField path="control.measured_voltage_v" />
        <PlateField path="control.coil_voltage_v" />
        <ChoiceField path="control.kind" :choices="CURRENT_KINDS" unset="AC" />
        <ChoiceField
          path="control.source"
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
          :choices="CONTROL_TAPS"
          unset="Load side of the main breaker"
        />
        <PlateField v-if="asksWhy" path="control.restart_harmless" words />
        <ChoiceField path="control.earthed" :choices="EARTHED" unset="not known" />
        <ChoiceField
          v-if="
            valueAt(starter.document, 'control.earthed_point') ||
            (valueAt(starter.document, 'control.source') === 'transformer' &&
              valueAt(starter.document, 'control.earthed') === true)
          "
          path="control.earthed_point"
          :choices="EARTHED_POINTS"
          unset="One end"
        />
        <PlateField path="control.line_length_m" />
        <PlateField path="control.line_section_mm2" />
        <p class="note">
          Buttons, lamps, phase monitor and overload contact:
          <button type="button" class="link" @click="mend('control.scheme')">Circuit</button>
        </p>
      </FoldSection>

      <FoldSection title="Use" name="use" :paths="PATHS.use">
        <ChoiceField path="load.duty" :choices="DUTIES" unset="AC-3" />
        <PlateField path="load.ac4_share_pct" />
        <PlateField path="load.starts_per_hour" />
        <PlateField path="load.hours_per_year" />
        <ChoiceField path="load.duty_type" :choices="DUTY_TYPES" unset="S1" />
        <p class="note">
          Torque, inertia and starting time:
          <button type="button" class="link" @click="mend('load.torque_pct')">Start</button>
        </p>
      </FoldSection>

      <FoldSection title="Surroundings" name="around" :paths="PATHS.around">
        <PlateField path="surroundings.ambient_c" />
        <PlateField path="surroundings.motor_ambient_c" />
        <PlateField path="surroundings.altitude_m" />
      </FoldSection>

      <FoldSection title="Assumptions of the method" name="assumed" :paths="PATHS.assumed">
        <PlateField path="assumptions.inrush_peak_factor" />
        <PlateField path="assumptions.life_exponent" />
        <PlateField path="assumptions.prospective_voltage_factor" />
        <PlateField path="assumptions.transformer_r_over_x" />
        <PlateField path="assumptions.lamp_va" />
      </FoldSection>

      <FoldSection title="Tag, description, practice" name="name" :paths="PATHS.name">
        <PlateField path="tag" words />
        <PlateField path="service" words />
        <ChoiceField path="practice" :choices="PRACTICES" unset="IEC" />
      </FoldSection>
    </div>

    <div class="answer">
      <div v-if="design" class="top">
        <AnswerPlate :answer="design.answer">
          <p class="rests">
            <VerdictMark :verdict="design.answer.on_plate ? 'fine' : 'attention'" wordless />
            {{ design.answer.rests }}
          </p>
        </AnswerPlate>
        <section class="links" aria-label="Motor terminals">
          <template v-if="design.links">
            <SymbolView :name="design.links" :scale="1" />
            <button type="button" class="opens caption" @click="starter.openWorking('connection')">
              {{ linksCaption }}
            </button>
          </template>
          <p v-else class="quiet caption">
            {{
              design.connection === 'plate'
                ? 'one voltage on the plate: connect as the maker shows'
                : 'connect as the maker’s diagram shows'
            }}
          </p>
        </section>
      </div>
      <section v-else class="waiting" aria-label="Answer">
        <p>Power, voltage and plate current give the overload setting and the devices.</p>
        <p v-for="p in starter.problems" :key="p.field" class="quiet">Needed: {{ p.message }}</p>
      </section>
      <section v-if="design" class="results" aria-label="Currents of the motor">
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
        <div v-for="m in OTHERS" :key="m.figure" class="cell">
          <h3>{{ m.title }}</h3>
          <p class="big"><FigureButton :id="m.figure" :label="m.title" /></p>
        </div>
      </section>
      <FindOut />
    </div>
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-columns: 24.5rem minmax(0, 1fr);
  align-items: start;
}
.inputs {
  padding: 0.9rem 1rem 2rem;
  border-right: 1px solid var(--rule-strong);
  min-height: 100%;
}
.answer {
  position: sticky;
  top: 0;
  padding: 0.9rem 1.2rem;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 1rem;
}
.top > :first-child {
  flex: 1 1 22rem;
}
.rests {
  border-top: 1px solid var(--rule);
  margin-top: 0.5rem;
  padding-top: 0.4rem;
}
.waiting {
  border: 1px dashed var(--rule-strong);
  padding: 1.4rem;
  display: grid;
  gap: 0.4rem;
}
.results {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(6.9rem, 1fr));
  border: 1px solid var(--rule);
  border-width: 1px 0;
  margin: 0.7rem 0;
}
.cell {
  padding: 0.45rem 0.6rem;
  border-right: 1px solid var(--rule);
}
.cell h3 {
  font-size: 0.86rem;
  font-weight: 500;
  color: var(--quiet);
}
.cell .big {
  font-size: 1.35rem;
  line-height: 1.25;
}
.cell.used {
  box-shadow: inset 0 3px 0 var(--ink);
}
.why {
  font-size: 0.86rem;
}
.cell.used .why {
  font-weight: 650;
}
.links {
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  flex: 0 0 12rem;
  border: 1px solid var(--rule);
  padding: 0.5rem;
  text-align: center;
}
.caption {
  font-size: 0.86rem;
}
.stale .results,
.stale .top {
  opacity: 0.55;
}
.plate {
  padding: 0.8rem 1rem 0.9rem;
}
.note {
  font-size: 0.86rem;
  color: var(--quiet);
  padding: 0.1rem 0 0.3rem;
}
@media (max-width: 62.5em) {
  .stage {
    grid-template-columns: minmax(0, 1fr);
  }
  .inputs {
    border-right: 0;
  }
  .answer {
    position: static;
    order: -1;
  }
  .links {
    flex-basis: 100%;
  }
}
</style>
