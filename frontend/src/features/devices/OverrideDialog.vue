<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'

import { client, type ChoiceView, type Device, type Override } from '@/api/client'
import { latest } from '@/stores/asked'
import { typedNumber } from '@/stores/document'
import { useStarter } from '@/stores/starter'
import { useWording } from '@/stores/wording'
import VerdictMark from '@/ui/VerdictMark.vue'
import { TRIP_CLASSES } from '@/ui/words'

/** Choose another device or setting than the computed one, with the reason. */
const props = defineProps<{ device: Device | null }>()
const emit = defineEmits<{ close: [] }>()
const starter = useStarter()
const wording = useWording()

const type = ref<string | null>(null)
const dial = ref('')
const trip = ref('')
const tripClass = ref<string | null>(null)
const reason = ref('')
const said = ref('')

const candidates = computed(() => starter.figures[props.device?.choice ?? '']?.candidates ?? [])
const suitable = computed(() => candidates.value.filter((c) => c.fits))
const rejected = computed(() => candidates.value.filter((c) => !c.fits))
/** What the choice would cost, tried as soon as it is made. */
const tried = ref<ChoiceView | null>(null)
const newest = latest()
watch([type, dial, trip, tripClass], async () => {
  tried.value = null
  const choice = wanted()
  if (!props.device || Object.keys(choice).length === 1) return
  const answer = await newest(
    client
      .POST('/api/starters/{starter_id}/choice', {
        params: { path: { starter_id: starter.id } },
        body: { choice: { ...choice, reason: 'tried' } as unknown as Override },
      })
      .catch(() => null),
  )
  if (answer?.data) tried.value = answer.data.tried
})
const hasDial = computed(
  () => props.device?.kind === 'overload_relay' || props.device?.kind === 'motor_breaker',
)
const hasTrip = computed(() =>
  ['moulded_case_breaker', 'instantaneous_trip_breaker'].includes(props.device?.kind ?? ''),
)
const hasClass = computed(() => props.device?.kind === 'overload_relay')

watch(
  () => props.device,
  (device) => {
    if (device) void starter.loadWorking()
    const held = device ? starter.override(device.role) : undefined
    type.value = held?.device_type ?? null
    dial.value = held?.dial_a?.toString() ?? ''
    trip.value = held?.instantaneous_trip_a?.toString() ?? ''
    tripClass.value = held?.trip_class ?? null
    reason.value = held?.reason ?? ''
    said.value = ''
  },
)

/** The choice as it stands in the dialog, with the role alone where nothing is chosen. */
function wanted(): Record<string, unknown> {
  const next: Record<string, unknown> = { role: props.device?.role }
  if (type.value) next.device_type = type.value
  if (hasDial.value && dial.value.trim()) next.dial_a = typedNumber(dial.value)
  if (hasTrip.value && trip.value.trim()) next.instantaneous_trip_a = typedNumber(trip.value)
  if (hasClass.value && tripClass.value) next.trip_class = tripClass.value
  return next
}
function use(): void {
  if (!props.device) return
  const next = wanted()
  if (Object.keys(next).length === 1) {
    said.value = 'Choose a device or type a setting first.'
    return
  }
  if (reason.value.trim().length < 3) {
    said.value = 'Say why: the reason stays with the starter and on the sheet.'
    return
  }
  next.reason = reason.value.trim()
  starter.setOverride(props.device.role, next as unknown as Override)
  emit('close')
}

function computedAgain(): void {
  if (props.device) starter.setOverride(props.device.role, null)
  emit('close')
}
</script>

<template>
  <Dialog
    :visible="device !== null"
    modal
    :header="device ? `Choose ${device.designation} yourself` : ''"
    :style="{ width: '44rem', maxWidth: '96vw' }"
    :draggable="false"
    @update:visible="emit('close')"
  >
    <form v-if="device" @submit.prevent="use">
      <fieldset v-if="candidates.length" class="types">
        <legend>{{ device.label }}</legend>
        <div class="list">
          <label class="row">
            <input v-model="type" type="radio" name="type" :value="null" />
            <span class="name">as computed</span><span></span>
          </label>
          <label v-for="c in suitable" :key="c.name" class="row">
            <input v-model="type" type="radio" name="type" :value="c.name" />
            <span class="figures name">{{ c.name }}</span>
            <span>{{ wording.say(c.reason) }}</span>
          </label>
          <details v-if="rejected.length" :open="rejected.some((c) => c.name === type)">
            <summary>Not suitable: {{ rejected.length }}</summary>
            <label v-for="c in rejected" :key="c.name" class="row out">
              <input v-model="type" type="radio" name="type" :value="c.name" />
              <span class="figures name">{{ c.name }}</span>
              <span><span aria-hidden="true">× </span>{{ wording.say(c.reason) }}</span>
            </label>
          </details>
        </div>
      </fieldset>
      <div class="settings">
        <label v-if="hasDial"
          >Overload setting
          <InputText v-model="dial" size="small" inputmode="decimal" class="short" /> A</label
        >
        <label v-if="hasTrip"
          >Magnetic trip
          <InputText v-model="trip" size="small" inputmode="decimal" class="short" /> A</label
        >
        <span v-if="hasClass" class="class">
          <span id="override-class">Trip class</span>
          <Select
            v-model="tripClass"
            :options="TRIP_CLASSES"
            option-label="label"
            option-value="value"
            placeholder="as computed"
            show-clear
            aria-labelledby="override-class"
            size="small"
          />
        </span>
      </div>
      <div class="tried" role="status" aria-label="What this choice means">
        <template v-if="tried">
          <p v-if="tried.margin"><b>Margin:</b> {{ tried.margin }}.</p>
          <p>
            <b>What else moves:</b>
            {{
              tried.moves.length ? tried.moves.map((m) => wording.say(m)).join('; ') : 'nothing'
            }}.
          </p>
          <p v-for="f in tried.found" :key="f.message">
            <VerdictMark :verdict="f.severity" wordless /> {{ wording.say(f.message) }}
          </p>
          <p v-for="f in tried.gone" :key="f.message" class="quiet">
            no longer: {{ wording.say(f.message) }}
          </p>
        </template>
      </div>
      <label class="reason">
        Reason
        <InputText
          v-model="reason"
          size="small"
          maxlength="300"
          placeholder="for example: the spare in the store"
        />
      </label>
      <p v-if="said" class="said" role="alert">■ {{ said }}</p>
      <div class="buttons">
        <Button type="submit" label="Use it" size="small" />
        <Button
          v-if="starter.override(device.role)"
          type="button"
          label="Back to the computed one"
          size="small"
          severity="secondary"
          outlined
          @click="computedAgain"
        />
        <Button type="button" label="Cancel" size="small" text @click="emit('close')" />
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.tried {
  min-height: 3.2rem;
  padding: 0.4rem 0;
  font-size: 0.93rem;
}
summary {
  cursor: pointer;
  padding: 0.3rem 0;
  color: var(--accent);
}
.types {
  border: 0;
  padding: 0;
  margin: 0;
}
.list {
  max-height: 17rem;
  overflow-y: auto;
  border: 1px solid var(--rule-strong);
}
.row {
  display: grid;
  grid-template-columns: 1.4rem 7.5rem minmax(0, 1fr);
  align-items: center;
  padding: 0.22rem 0.5rem;
  border-bottom: 1px solid var(--rule);
  cursor: pointer;
  font-size: 0.93rem;
}
.row:hover {
  background: var(--accent-tint);
}
.out {
  color: var(--quiet);
}
.settings {
  display: flex;
  gap: 1.6rem;
  margin: 0.8rem 0;
  align-items: center;
}
.class {
  display: inline-flex;
  gap: 0.5rem;
  align-items: center;
}
.short {
  width: 6rem;
  text-align: right;
  font-family: var(--figures);
}
.reason {
  display: grid;
  gap: 0.2rem;
}
.said {
  color: var(--stop);
  margin-top: 0.4rem;
}
.buttons {
  display: flex;
  gap: 0.6rem;
  margin-top: 0.9rem;
}
</style>
