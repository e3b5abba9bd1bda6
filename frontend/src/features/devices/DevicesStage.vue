<script setup lang="ts">
import Button from 'primevue/button'
import { computed, nextTick, ref, watch } from 'vue'

import type { Device, Finding, Held } from '@/api/client'
import CoordinationPanel from '@/features/devices/CoordinationPanel.vue'
import ChoiceField from '@/ui/ChoiceField.vue'
import DrawingView from '@/ui/DrawingView.vue'
import FigureButton from '@/ui/FigureButton.vue'
import OverrideDialog from '@/features/devices/OverrideDialog.vue'
import PlateField from '@/ui/PlateField.vue'
import VerdictMark from '@/ui/VerdictMark.vue'
import { valueAt } from '@/stores/document'
import { useRanges } from '@/stores/ranges'
import { useStarter } from '@/stores/starter'
import { IEC_DEVICES, MARKINGS, NEC_DEVICES, OVERLOADS, RESETS, SCHOOLS } from '@/ui/words'

const starter = useStarter()
const ranges = useRanges()
const changing = ref<string | null>(null)
const design = computed(() => starter.design)
const nec = computed(() => starter.document.practice === 'nec')
const device = computed(() => design.value?.devices.find((d) => d.role === changing.value) ?? null)

function verdict(d: Device): string {
  return design.value?.line_up.find((i) => i.key === d.designation)?.verdict ?? 'fine'
}

/** Settings that have no figure of their own. */
function others(d: Device): string[] {
  const said = []
  if (d.settings.reset)
    said.push(d.settings.reset === 'manual' ? 'reset by hand' : 'reset automatic')
  if (typeof d.settings.instantaneous_trip_a === 'number') {
    said.push(`magnetic trip ${Math.round(d.settings.instantaneous_trip_a)} A`)
  }
  if (d.kind === 'control_transformer') {
    said.push(`${d.selected.primary_v}/${d.selected.secondary_v} V`)
  }
  if (d.selected.semiconductor_fuse) {
    said.push(`semiconductor fuse ${d.selected.semiconductor_fuse}, if fitted`)
  }
  if (d.selected.coil) said.push(`coil ${d.selected.coil}`)
  if (d.selected.base) said.push(`on base ${d.selected.base}`)
  return said
}

function remarks(d: Device): Finding[] {
  return starter.findings.filter((f) => f.device === d.designation && f.severity !== 'info')
}

function setFigures(d: Device): string[] {
  return d.figures.filter((id) => id.endsWith('.dial_a') || id.endsWith('.trip_class'))
}

function needFigures(d: Device): string[] {
  return d.figures.filter((id) => !setFigures(d).includes(id))
}

/** Device, dial, class and settings that depend on what nobody typed. */
function sure(d: Device): Held[] {
  return ranges.moving.get(d.designation) ?? []
}

function change(role: string): void {
  changing.value = role
}

const failedStart = computed(
  () => valueAt(starter.document, 'protection.failed_start_recorded') === true,
)

watch(
  () => starter.selected,
  (key) =>
    void nextTick(() =>
      document.getElementById(`device-${key}`)?.scrollIntoView({ block: 'nearest' }),
    ),
)

defineExpose({ change })
</script>

<template>
  <div class="stage two">
    <section class="choices" aria-label="Protection">
      <ChoiceField
        path="protection.device"
        :choices="nec ? NEC_DEVICES : IEC_DEVICES"
        unset="the usual one"
      />
      <ChoiceField
        path="protection.overload_school"
        :choices="SCHOOLS"
        :unset="nec ? 'Percentage' : 'Plate current rule'"
      />
      <ChoiceField path="protection.dial_marking" :choices="MARKINGS" unset="Motor amperes" />
      <ChoiceField path="protection.overload" :choices="OVERLOADS" unset="Relay or motor breaker" />
      <ChoiceField path="protection.reset" :choices="RESETS" unset="By hand" />
      <PlateField path="protection.ultimate_trip_multiple" hint="1.20; 1.25 where so marked" />
      <PlateField path="protection.current_transformer_ratio" hint="80 for 400/5" />
      <label v-if="nec" class="tick">
        <input
          id="field-protection-failed_start_recorded"
          type="checkbox"
          :checked="failedStart"
          @change="
            starter.set(
              'protection.failed_start_recorded',
              ($event.target as HTMLInputElement).checked || undefined,
            )
          "
        />
        A start has failed and is recorded (430.32(C), 430.52 exceptions)
      </label>
    </section>
    <div class="answer">
      <p v-if="!design" class="empty">
        No devices yet: power, voltage and supply are needed first. The findings below say what is
        missing.
      </p>
      <div
        v-else
        class="table"
        :class="{ stale: !starter.fresh }"
        role="table"
        aria-label="Devices"
      >
        <div class="row headrow" role="row">
          <span role="columnheader">Device</span><span role="columnheader">Required / selected</span
          ><span role="columnheader">Set</span><span role="columnheader">Verdict</span>
        </div>
        <div
          v-for="d in design.devices"
          :id="`device-${d.designation}`"
          :key="d.role"
          class="row"
          :class="{ chosen: starter.selected === d.designation }"
          role="row"
        >
          <div role="cell" class="which">
            <p>
              <b class="figures">{{ d.designation }}</b> <span class="quiet">{{ d.label }}</span>
            </p>
            <p v-if="d.selected.type" class="type figures">{{ d.selected.type }}</p>
            <p v-else class="none">none in the catalogues</p>
            <p v-if="d.override_reason" class="own">✎ your choice: {{ d.override_reason }}</p>
          </div>
          <div role="cell" class="found">
            <dl>
              <template v-for="id in needFigures(d)" :key="id">
                <dt>{{ design.figures[id]?.label }}</dt>
                <dd><FigureButton :id="id" /></dd>
              </template>
            </dl>
            <p v-for="f in remarks(d)" :key="f.code" class="remark">
              <VerdictMark :verdict="f.severity" wordless /> {{ f.message }}
              <Button
                v-if="f.code === 'device_kept'"
                type="button"
                label="Use the catalogue as it is now"
                size="small"
                outlined
                @click="starter.takeCatalogue()"
              />
            </p>
          </div>
          <div role="cell" class="set">
            <p v-for="id in setFigures(d)" :key="id" :class="{ dial: id.endsWith('.dial_a') }">
              <span class="quiet">{{ id.endsWith('.dial_a') ? 'set' : 'class' }}</span>
              <FigureButton :id="id" />
            </p>
            <p v-for="o in others(d)" :key="o" class="other">{{ o }}</p>
          </div>
          <div role="cell" class="verdictcell">
            <VerdictMark :verdict="verdict(d)" />
            <!-- The line stands there before it is known, so that nothing moves under an open list when it comes. -->
            <p v-if="!sure(d).length" class="quiet sure line">
              {{ ranges.now ? 'same over the range' : '…' }}
            </p>
            <details v-else class="sure">
              <summary>± not sure</summary>
              <p v-for="h in sure(d)" :key="h.what">
                {{ h.what }} {{ h.value }}, or {{ h.others.join(' or ') }}
                <span v-for="u in h.until" :key="u" class="quiet">{{ u }} </span>
              </p>
            </details>
            <Button
              v-if="d.role !== 'motor_conductor'"
              type="button"
              label="Change"
              size="small"
              outlined
              :aria-label="`Change ${d.designation}`"
              @click="change(d.role)"
            />
          </div>
        </div>
      </div>

      <CoordinationPanel
        v-if="design"
        :coordination="design.coordination"
        :class="{ stale: !starter.fresh }"
      />
      <section v-if="design" class="school" aria-label="Two rules for the overload setting">
        <div>
          <h2 class="heading">Where the overload protection trips</h2>
          <DrawingView :drawing="design.overload_band" class="band" />
        </div>
        <div class="trap">
          <h2 class="heading">Does the setting already include the margin?</h2>
          <p>
            A relay marked in <b>motor amperes</b> includes the margin: set to the plate current, it
            does not trip up to 1.05 times and has tripped at 1.20 times. Set 15 to 25 % higher, the
            margin is applied twice. A relay marked in <b>trip amperes</b> shows the current at
            which it trips.
          </p>
        </div>
      </section>
      <ul v-if="design" class="cautions" aria-label="Cautions">
        <li v-for="c in design.cautions.slice(0, 3)" :key="c">▲ {{ c }}</li>
      </ul>
    </div>
    <OverrideDialog :device="device" @close="changing = null" />
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 15rem minmax(0, 1fr);
  align-items: start;
}
/* the inputs stay beside the answer while it is read */
.choices {
  position: sticky;
  top: 0;
  display: grid;
  gap: 0.1rem;
  padding: 0.7rem 1rem;
  align-self: stretch;
  align-content: start;
  border-right: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.choices :deep(.choice),
.choices :deep(.field) {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  padding-bottom: 0.4rem;
}
.choices :deep(.note) {
  margin: 0;
  text-align: left;
}
.answer {
  min-width: 0;
  container-type: inline-size;
}
.empty {
  padding: 1.5rem 1rem;
  color: var(--quiet);
}
.table {
  padding: 0.4rem 1rem;
}
.stale {
  opacity: 0.55;
}
.row {
  display: grid;
  grid-template-columns: minmax(7rem, 0.8fr) minmax(12rem, 2fr) minmax(7.6rem, 0.7fr) 8.4rem;
  gap: 1rem;
  padding: 0.6rem 0.6rem;
  border-bottom: 1px solid var(--rule);
}
.row.chosen {
  box-shadow: inset 3px 0 0 var(--accent);
}
.headrow {
  padding: 0.2rem 0.6rem;
  font-size: 0.82rem;
  color: var(--quiet);
  border-bottom-color: var(--rule-strong);
}
.type {
  font-size: 1.2rem;
  font-weight: 600;
}
.none {
  color: var(--stop);
}
.sure {
  font-size: 0.86rem;
}
.sure.line {
  white-space: nowrap;
}
.own {
  font-size: 0.86rem;
  color: var(--accent);
}
dl {
  margin: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0.15rem 0.8rem;
  align-content: start;
  max-width: 30rem;
}
.remark {
  margin-top: 0.3rem;
  font-size: 0.9rem;
}
dt {
  font-size: 0.9rem;
}
dd {
  margin: 0;
  text-align: right;
}
.set p {
  display: flex;
  gap: 0.5rem;
  align-items: baseline;
}
.dial {
  font-size: 1.45rem;
  line-height: 1.2;
}
.dial .quiet {
  font-size: 0.93rem;
}
.other {
  font-size: 0.9rem;
}
.verdictcell {
  display: grid;
  gap: 0.4rem;
  justify-items: start;
  align-content: start;
}
.school {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(24rem, 1fr));
  gap: 1rem 1.8rem;
  padding: 1rem;
}
.band {
  width: 100%;
  height: auto;
}
.trap p {
  font-size: 0.93rem;
}
.cautions {
  list-style: none;
  margin: 0;
  padding: 0 1rem 1.2rem;
  font-size: 0.93rem;
}
.tick {
  display: flex;
  gap: 0.5rem;
  align-items: center;
}
@media (max-width: 62.5em) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  .choices {
    position: static;
    grid-template-columns: repeat(auto-fit, minmax(15rem, 1fr));
    gap: 0 1.4rem;
    border-right: 0;
    border-bottom: 1px solid var(--rule-strong);
  }
}
/* narrow, or beside the open working: figures below what they are of */
@container (max-width: 46rem) {
  .row {
    grid-template-columns: minmax(8rem, 1fr) minmax(8rem, 1fr) 8.4rem;
  }
  .found {
    grid-column: 1 / -1;
    grid-row: 2;
  }
  .headrow span:nth-child(2) {
    display: none;
  }
}
</style>
