<script setup lang="ts">
import Button from 'primevue/button'
import { computed, inject, ref, watch } from 'vue'

import { client, type Offer } from '@/api/client'
import ChoiceField from '@/ui/ChoiceField.vue'
import DrawingView from '@/ui/DrawingView.vue'
import PlateField from '@/ui/PlateField.vue'
import VerdictMark from '@/ui/VerdictMark.vue'
import { useAsked } from '@/stores/asked'
import { useStarter } from '@/stores/starter'
import { useWording } from '@/stores/wording'
import { MEND } from '@/app/mend'
import { LOAD_SHAPES, OVERLOAD_POSITIONS, SPEED_WINDINGS, TAPS } from '@/ui/words'

/** Every starting method with its verdict for this motor, supply and load; the user picks. */
const starter = useStarter()
const wording = useWording()
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
const nec = computed(() => starter.document.practice === 'nec')
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
  fits: { mark: '✓', word: 'Suitable' },
  care: { mark: '▲', word: 'Suitable with conditions' },
  no: { mark: '■', word: 'Not suitable' },
}

watch(
  () => [starter.id, starter.saved],
  async () => {
    const answer = await offered.ask()
    if (answer) offers.value = answer.offers
  },
  { immediate: true },
)

/** Ticked beside the method in use: one tick compares. */
const ticked = ref<string[]>([])
const open = ref(true)
const together = computed(() => [
  ...new Set([...(ticked.value.length < 3 && type.value ? [type.value] : []), ...ticked.value]),
])
const beside = useAsked(() =>
  ticked.value.length === 0 || together.value.length < 2
    ? null
    : client.GET('/api/starters/{starter_id}/compare', {
        params: {
          path: { starter_id: starter.id },
          query: { method: together.value as Offer['key'][] },
        },
      }),
)
const compared = computed(() =>
  ticked.value.length && together.value.length > 1 && open.value
    ? (beside.data.value?.methods ?? [])
    : [],
)
watch(() => [ticked.value, type.value, starter.saved], beside.ask, { deep: true })
watch(ticked, () => (open.value = true), { deep: true })

function choose(key: Offer['key']): void {
  starter.rewire('starter.type', key)
}
const inUse = computed(() => offers.value.find((o) => o.key === type.value))
const load = computed(() => {
  const l = starter.document.load ?? {}
  const shape = LOAD_SHAPES.find((x) => x.value === l.shape)?.label.toLowerCase()
  return [
    l.torque_pct !== undefined && `${l.torque_pct} %`,
    shape,
    l.breakaway_pct !== undefined && `breakaway ${l.breakaway_pct} %`,
  ]
    .filter(Boolean)
    .join(', ')
})
const mend = inject(MEND, () => undefined)
</script>

<template>
  <div class="stage">
    <div class="inputs">
      <section aria-label="Limits of the supply">
        <h2 class="heading">Limits of the supply</h2>
        <PlateField path="supply.maximum_start_current_a" />
        <PlateField path="supply.maximum_dip_pct" />
      </section>
      <section aria-label="Load">
        <h2 class="heading">Load</h2>
        <p class="said">
          {{ load || 'not known' }}
          <button type="button" class="link" @click="mend('load.torque_pct')">
            {{ load ? 'change' : 'enter it' }}
          </button>
        </p>
      </section>
      <section v-if="hasSettings" class="settings" aria-label="Settings of the method">
        <template v-if="starDelta">
          <ChoiceField
            path="starter.overload_position"
            :choices="OVERLOAD_POSITIONS"
            unset="After the line contactor"
          />
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
      <p v-if="starDelta && type !== 'star_delta_manual'" class="said">
        {{ wording.say('Star time') }} and change-over pause:
        <button type="button" class="link" @click="mend('starter.star_time_s')">Start</button>
      </p>
    </div>
    <div class="list">
      <p v-if="said" class="quiet empty">No verdicts yet: {{ said }}.</p>
      <template v-else>
        <section v-if="inUse" class="now" aria-label="Method in use">
          <h2>{{ wording.say(inUse.label) }}</h2>
          <p>
            <span class="fit" :class="inUse.fit"
              ><span aria-hidden="true">{{ MARKS[inUse.fit].mark }}</span>
              {{ MARKS[inUse.fit].word }}</span
            >
            <span>{{ wording.say(inUse.reason) }}</span>
          </p>
        </section>
        <div class="beside" :class="{ open: compared.length }">
          <fieldset class="methods">
            <legend class="visually-hidden">Starting method</legend>
            <div class="row head" aria-hidden="true">
              <span></span><span>Method</span><span>For this motor</span
              ><span>At standstill, % of {{ nec ? 'full voltage' : 'DOL' }}</span
              ><span class="num">Contactors</span><span class="num">Leads</span
              ><span class="num">Compare</span>
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
                <b>{{ wording.say(o.label) }}</b>
                <span class="cost">{{ wording.say(o.cost) }}</span>
              </span>
              <span>
                <span class="fit" :class="o.fit"
                  ><span aria-hidden="true">{{ MARKS[o.fit].mark }}</span>
                  {{ MARKS[o.fit].word }}</span
                >
                <span class="reason">{{ wording.say(o.reason) }}</span>
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
            <div class="side">
              <article v-for="m in compared" :key="m.offer.key">
                <h3>{{ wording.say(m.offer.label) }}</h3>
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
                  :label="
                    type === m.offer.key
                      ? 'In use'
                      : `Use ${wording.say(m.offer.label).toLowerCase()}`
                  "
                  size="small"
                  outlined
                  :disabled="type === m.offer.key || m.devices.length === 0"
                  @click="choose(m.offer.key)"
                />
              </article>
            </div>
          </section>
        </div>
        <p v-if="ticked.length" class="sticky" role="status">
          <button type="button" :aria-expanded="open" @click="open = !open">
            Compare {{ together.length }}
          </button>
          <button type="button" class="link" @click="ticked = []">none</button>
        </p>
      </template>
    </div>
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-columns: 18.5rem minmax(0, 1fr);
  min-height: 100%;
}
.inputs {
  padding: 0.9rem 1rem;
  border-right: 1px solid var(--rule-strong);
  display: grid;
  gap: 1.1rem;
  align-content: start;
}
.said {
  font-size: 0.93rem;
}
.now {
  padding: 0.8rem 1.2rem 0.6rem;
  background: var(--sheet);
  border-bottom: 1px solid var(--rule-strong);
}
.now h2 {
  font-size: 1.35rem;
  font-weight: 650;
}
.now p {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 0.8rem;
}
.beside.open {
  display: grid;
  grid-template-columns: minmax(18rem, 1fr) minmax(20rem, 1.25fr);
}
.beside.open .row {
  grid-template-columns: 1.2rem minmax(0, 1fr) 4.2rem;
}
.beside.open .row > :nth-child(n + 3):not(:last-child) {
  display: none;
}
.compare {
  padding: 0.8rem 1rem;
  border-left: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.side {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(9rem, 1fr));
  gap: 1.2rem;
}
.sticky {
  position: sticky;
  bottom: 0;
  display: flex;
  gap: 1rem;
  justify-content: flex-end;
  padding: 0.5rem 1.2rem;
  background: var(--sheet);
  border-top: 2px solid var(--ink);
}
.sticky > button:first-child {
  border: 1px solid var(--accent);
  background: var(--accent);
  color: var(--sheet);
  padding: 0.2rem 1rem;
  cursor: pointer;
  font-weight: 650;
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
    1.2rem minmax(9rem, 1.2fr) minmax(10rem, 1.3fr)
    10.5rem 4.6rem 2.8rem 4rem;
  gap: 0.6rem;
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
@media (max-width: 62.5em) {
  .stage,
  .beside.open {
    grid-template-columns: minmax(0, 1fr);
  }
  .inputs {
    border-right: 0;
    border-bottom: 1px solid var(--rule-strong);
    order: 2;
  }
  .row {
    grid-template-columns: 1.2rem minmax(0, 1fr) minmax(0, 1fr);
  }
  .row > :nth-child(4) {
    grid-column: 2;
  }
  .row > :nth-child(5),
  .row > :nth-child(6),
  .head {
    display: none;
  }
  .row > :last-child {
    grid-column: 3;
  }
}
</style>
