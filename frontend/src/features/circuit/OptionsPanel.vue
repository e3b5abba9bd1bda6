<script setup lang="ts">
import { computed, inject } from 'vue'

import { MEND } from '@/app/mend'
import ChoiceField from '@/ui/ChoiceField.vue'
import PlateField from '@/ui/PlateField.vue'
import { useStarter } from '@/stores/starter'
import {
  CAPACITOR_SWITCHES,
  CONTROL_PHASES,
  FIELD_CONTACTS,
  HOLDS,
  JOGS,
  LAMP_CODES,
  LAMP_FEEDS,
  LAMPS,
  MONITOR_PLACES,
  MONITORS,
  OVERLOAD_CONTACTS,
  REVERSING_SEQUENCES,
  RUNNING_FEEDS,
  SCHEMES,
  SIGNAL_FORMS,
  STAR_DELTA_TIMERS,
  STAR_SEQUENCES,
  VARIANTS,
  WINDINGS_TURNED,
  WIRE_COLOURS,
  FITTED,
} from '@/ui/words'

/** What the circuit is made of; every change draws and proves it anew. */
const starter = useStarter()
const mend = inject(MEND, () => undefined)
const type = computed(() => starter.document.starter?.type ?? 'direct_on_line')
const control = computed(() => starter.document.control ?? {})
const lamps = computed(() => control.value.lamps ?? [])
type Lamp = (typeof lamps.value)[number]
function lamp(name: Lamp, on: boolean): void {
  const next = on ? [...lamps.value, name] : lamps.value.filter((l) => l !== name)
  starter.set('control.lamps', next.length ? next : undefined)
  starter.settle()
}
const startSwitch = computed(() => {
  const kind = starter.document.motor?.single_phase_kind
  const bySpeed = kind === 'split_phase' || type.value === 'single_phase_reversing'
  return bySpeed ? 'By a centrifugal switch' : 'By the start button'
})
const reversing = computed(() => ['reversing', 'single_phase_reversing'].includes(type.value))
</script>

<template>
  <div class="options">
    <ChoiceField path="control.scheme" :choices="SCHEMES" unset="Push-buttons" />
    <ChoiceField path="control.field_contact" :choices="FIELD_CONTACTS" unset="None" />
    <ChoiceField path="control.jog" :choices="JOGS" unset="None" />
    <ChoiceField path="control.emergency_stop" :choices="FITTED" unset="None" />
    <PlateField path="control.start_stations" usual="1" />
    <PlateField path="control.stop_stations" usual="1" />
    <ChoiceField
      path="control.overload_contact"
      :choices="OVERLOAD_CONTACTS"
      unset="First in the chain, line side"
    />
    <p class="elsewhere">
      Phase monitor:
      {{
        MONITORS.find((m) => m.value === (control.phase_monitor ?? 'none'))?.label.toLowerCase()
      }}.
      <button type="button" @click="mend('control.phase_monitor')">Phase loss</button>
    </p>
    <ChoiceField
      path="control.monitor_position"
      :choices="MONITOR_PLACES"
      unset="Line side of the contactor"
    />
    <ChoiceField path="control.hold" :choices="HOLDS" unset="Auxiliary contact" />
    <ChoiceField path="control.mechanical_interlock" :choices="FITTED" unset="Fitted" />
    <ChoiceField
      v-if="type === 'star_delta'"
      path="starter.star_sequence"
      :choices="STAR_SEQUENCES"
      unset="Star contactor first"
    />
    <ChoiceField
      v-if="type === 'star_delta'"
      path="control.star_delta_relay"
      :choices="STAR_DELTA_TIMERS"
      unset="Star-delta relay"
    />
    <ChoiceField
      v-if="type === 'star_delta_manual'"
      path="control.early_release_guard"
      :choices="FITTED"
      unset="None"
    />
    <ChoiceField
      v-if="type === 'reversing'"
      path="control.reversing_sequence"
      :choices="REVERSING_SEQUENCES"
      unset="Through stop"
    />
    <ChoiceField v-if="reversing" path="control.end_of_travel" :choices="FITTED" unset="None" />
    <PlateField v-if="reversing" path="control.rest_time_s" />
    <ChoiceField
      v-if="type === 'single_phase_reversing'"
      path="control.reversed_winding"
      :choices="WINDINGS_TURNED"
      unset="Main winding"
    />
    <ChoiceField path="control.standby" :choices="FITTED" unset="None" />
    <ChoiceField path="control.heater" :choices="FITTED" unset="None" />
    <ChoiceField path="control.buzzer" :choices="FITTED" unset="None" />
    <ChoiceField path="control.controller_signal" :choices="FITTED" unset="None" />
    <ChoiceField
      v-if="control.controller_signal"
      path="control.controller_signal_form"
      :choices="SIGNAL_FORMS"
      unset="Pulls in on a trip"
    />
    <ChoiceField
      v-if="type?.startsWith('single_phase')"
      path="control.start_capacitor_switch"
      :choices="CAPACITOR_SWITCHES"
      :unset="startSwitch"
    />
    <ChoiceField path="control.running_lamp_feed" :choices="RUNNING_FEEDS" unset="The contactor" />
    <ChoiceField
      path="control.stopped_lamp_feed"
      :choices="LAMP_FEEDS"
      unset="After overload and stop"
    />
    <ChoiceField path="control.lamp_code" :choices="LAMP_CODES" unset="Running green" />
    <ChoiceField path="control.wire_colours" :choices="WIRE_COLOURS" unset="IEC" />
    <ChoiceField path="control.control_phase" :choices="CONTROL_PHASES" unset="L1" />
    <ChoiceField path="control.variant" :choices="VARIANTS" unset="As it should be" />
  </div>
  <fieldset class="lamps">
    <legend>Lamps</legend>
    <label v-for="l in LAMPS" :key="String(l.value)"
      ><input
        type="checkbox"
        :checked="lamps.includes(l.value as Lamp)"
        @change="lamp(l.value as Lamp, ($event.target as HTMLInputElement).checked)"
      />
      {{ l.label }}</label
    >
  </fieldset>
</template>

<style scoped>
.elsewhere {
  font-size: 0.93rem;
  padding: 0.3rem 0;
}
.elsewhere button {
  border: 0;
  background: none;
  padding: 0;
  color: var(--accent);
  text-decoration: underline;
  cursor: pointer;
}
.options {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(19rem, 1fr));
  gap: 0 1.6rem;
}
.lamps {
  border: 0;
  padding: 0.3rem 0;
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 1.2rem;
}
.lamps legend {
  font-weight: 650;
  font-size: 0.93rem;
}
</style>
