<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref, watch } from 'vue'

import { client, type Offer } from '@/api/client'
import ChoiceField from '@/ui/ChoiceField.vue'
import DrawingView from '@/ui/DrawingView.vue'
import PlateField from '@/ui/PlateField.vue'
import VerdictMark from '@/ui/VerdictMark.vue'
import { useAsked } from '@/stores/asked'
import { useStarter } from '@/stores/starter'
import { LOAD_SHAPES, OVERLOAD_POSITIONS, SPEED_WINDINGS, TAPS } from '@/ui/words'

/** Every starting method with its verdict for this motor, supply and load; the user picks. */
const starter = useStarter()
/** The offers stay as they were while one cannot be worked out. */
const offers = ref<Offer[]>([])
const offered = useAsked(() =>
  starter.id === 0 // the starter itself is still on its way
    ? null
    : client.GET('/api/starters/{starter_id}/methods', {
        params: { path: { starter_id: starter.id } },
      }),
)
const said = offered.said
const type = computed<string>(
  () => starter.document.starter?.type ?? offers.value.find((o) => o.chosen)?.key ?? '',
)
const starDelta = computed(() => type.value.startsWith('star_delta'))
const WITH_SETTINGS = [
  'autotransformer',
  'stator_resistance',
  'soft_starter',
  'two_speed',
  'rotor_resistance',
]
const hasSettings = computed(() => starDelta.value || WITH_SETTINGS.includes(type.value))
const MARKS: Record<Offer['fit'], { mark: string; word: string }> = {
  fits: { mark: '✓', word: 'Fits' },
  care: { mark: '▲', word: 'With care' },
  no: { mark: '■', word: 'Does not fit' },
}

watch(
  () => [starter.id, starter.saved],
  async () => {
    const answer = await offered.ask()
    if (answer) offers.value = answer.offers
  },
  { immediate: true },
)

const ticked = ref<string[]>([])

const beside = useAsked(() =>
  ticked.value.length < 2
    ? null
    : client.GET('/api/starters/{starter_id}/compare', {
        params: {
          path: { starter_id: starter.id },
          query: { method: ticked.value as Offer['key'][] },
        },
      }),
)
const compared = computed(() => (ticked.value.length < 2 ? [] : (beside.data.value?.methods ?? [])))
watch(() => [ticked.value, starter.saved], beside.ask, { deep: true })

function choose(key: Offer['key']): void {
  starter.set('starter.type', key)
  starter.settle()
}
</script>

<template>
  <div class="stage">
    <section class="limits" aria-label="Supply limit and load">
      <PlateField path="supply.maximum_start_current_a" />
      <PlateField path="supply.maximum_dip_pct" />
      <PlateField path="load.torque_pct" />
      <ChoiceField path="load.shape" :choices="LOAD_SHAPES" unset="not known" />
      <PlateField path="load.breakaway_pct" />
      <PlateField path="motor.locked_rotor_torque_ratio" />
    </section>
    <p v-if="said" class="quiet empty">No verdicts yet: {{ said }}.</p>
    <fieldset v-else class="methods">
      <legend class="visually-hidden">Starting method</legend>
      <div class="row head" aria-hidden="true">
        <span></span><span>Method</span><span>For this motor</span
        ><span>At standstill, of direct</span><span class="num">Contactors</span
        ><span class="num">Leads</span><span class="num">Compare</span>
      </div>
      <label v-for="o in offers" :key="o.key" class="row" :class="{ chosen: type === o.key }">
        <input
          type="radio"
          name="method"
          :value="o.key"
          :checked="type === o.key"
          :disabled="!o.offered && type !== o.key"
          @change="choose(o.key)"
        />
        <span>
          <b>{{ o.label }}</b>
          <span class="cost">{{ o.cost }}</span>
        </span>
        <span>
          <span class="fit" :class="o.fit"
            ><span aria-hidden="true">{{ MARKS[o.fit].mark }}</span> {{ MARKS[o.fit].word }}</span
          >
          <span class="reason">{{ o.reason }}</span>
        </span>
        <DrawingView :drawing="o.bars" />
        <span class="num figures">{{ o.contactors }}</span>
        <span class="num figures">{{ o.leads }}</span>
        <span class="num">
          <input
            v-model="ticked"
            type="checkbox"
            :value="o.key"
            :disabled="!ticked.includes(o.key) && ticked.length === 3"
            :aria-label="`Compare ${o.label}`"
          />
        </span>
      </label>
    </fieldset>
    <section v-if="compared.length" class="compare" aria-label="Side by side">
      <h2 class="heading">Side by side</h2>
      <div
        class="side"
        :style="{ gridTemplateColumns: `repeat(${compared.length}, minmax(0, 1fr))` }"
      >
        <article v-for="m in compared" :key="m.offer.key">
          <h3>{{ m.offer.label }}</h3>
          <p class="fit" :class="m.offer.fit">
            <span aria-hidden="true">{{ MARKS[m.offer.fit].mark }}</span>
            {{ MARKS[m.offer.fit].word }}
          </p>
          <p class="reason">{{ m.offer.reason }}</p>
          <DrawingView :drawing="m.offer.bars" />
          <table v-if="m.devices.length">
            <tbody>
              <tr v-for="d in m.devices" :key="d.designation">
                <td class="figures">{{ d.designation }}</td>
                <td class="figures">{{ d.rating }}</td>
                <td class="figures">{{ d.setting }}</td>
              </tr>
            </tbody>
          </table>
          <p class="reason">{{ m.parts }} devices</p>
          <p
            v-for="f in m.findings.filter((x) => x.severity !== 'info')"
            :key="f.code"
            class="reason"
          >
            <VerdictMark :verdict="f.severity" wordless /> {{ f.message }}
          </p>
          <Button
            :label="type === m.offer.key ? 'In use' : `Take ${m.offer.label.toLowerCase()}`"
            size="small"
            outlined
            :disabled="type === m.offer.key || m.devices.length === 0"
            @click="choose(m.offer.key)"
          />
        </article>
      </div>
    </section>
    <section v-if="hasSettings" class="limits" aria-label="Settings of the method">
      <template v-if="starDelta">
        <ChoiceField
          path="starter.overload_position"
          :choices="OVERLOAD_POSITIONS"
          unset="Behind the line contactor"
        />
        <PlateField v-if="type !== 'star_delta_manual'" path="starter.star_time_s" />
        <PlateField v-if="type !== 'star_delta_manual'" path="starter.dwell_s" hint="0.05" />
      </template>
      <ChoiceField
        v-if="type === 'autotransformer'"
        path="starter.autotransformer_tap"
        :choices="TAPS"
        unset="65 %"
      />
      <PlateField
        v-if="type === 'stator_resistance'"
        path="starter.stator_voltage_ratio"
        hint="0.7"
      />
      <PlateField v-if="type === 'soft_starter'" path="starter.current_limit_ratio" hint="3.5" />
      <template v-if="type === 'two_speed'">
        <ChoiceField path="motor.speed_winding" :choices="SPEED_WINDINGS" unset="Two windings" />
        <PlateField path="motor.low_speed_current_a" />
        <PlateField path="motor.low_speed_rpm" />
      </template>
      <template v-if="type === 'rotor_resistance'">
        <PlateField path="motor.rotor_voltage_v" />
        <PlateField path="motor.rotor_current_a" />
      </template>
    </section>
  </div>
</template>

<style scoped>
.limits {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(17rem, 1fr));
  gap: 0 1.8rem;
  padding: 0.7rem 1rem;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.compare {
  padding: 0.8rem 1rem;
}
.side {
  display: grid;
  gap: 1.4rem;
}
article {
  display: grid;
  gap: 0.3rem;
  align-content: start;
  justify-items: start;
}
article h3 {
  font-size: 1rem;
}
article table {
  border-collapse: collapse;
  width: 100%;
  font-size: 0.86rem;
}
article td {
  border-bottom: 1px solid var(--rule);
  padding: 0.2rem 0.4rem 0.2rem 0;
  vertical-align: baseline;
}
.empty {
  padding: 1.5rem 1rem;
}
.methods {
  border: 0;
  margin: 0;
  padding: 0.3rem 1rem;
}
.row {
  display: grid;
  grid-template-columns:
    1.2rem minmax(11rem, 1.3fr) minmax(11rem, 1.2fr)
    10.5rem 4.8rem 2.8rem 4.2rem;
  gap: 0.8rem;
  align-items: center;
  padding: 0.3rem 0.4rem;
  border-bottom: 1px solid var(--rule);
  cursor: pointer;
}
.row:hover:not(.head) {
  background: var(--tint);
}
.chosen {
  background: var(--accent-tint);
  box-shadow: inset 3px 0 0 var(--accent);
}
.head {
  font-size: 0.82rem;
  color: var(--quiet);
  cursor: default;
}
.cost,
.reason {
  display: block;
  font-size: 0.86rem;
}
.cost {
  color: var(--quiet);
}
.fit {
  font-weight: 650;
}
.no {
  color: var(--stop);
}
.care {
  color: var(--attention);
}
.fits {
  color: var(--fine);
}
.num {
  text-align: right;
}
@media (max-width: 1000px) {
  .row {
    grid-template-columns: 1.2rem minmax(0, 1fr) minmax(0, 1fr);
  }
  .row > :nth-child(4) {
    grid-column: 2;
  }
  .row > :nth-child(n + 5),
  .head {
    display: none;
  }
}
</style>
