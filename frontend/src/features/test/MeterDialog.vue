<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'

import { client, problemsOf, type MeterSettings } from '@/api/client'
import { useStarter } from '@/stores/starter'
import { QUANTITIES } from '@/ui/words'

/** Where the panel meter is and where its quantities stand; and the stand-in, which behaves like this starter. */
const visible = defineModel<boolean>('visible', { required: true })
const starter = useStarter()
const settings = ref<MeterSettings | null>(null)
const standIn = ref<number | null>(null)
const said = ref('')
const kept = ref('')
const faults = ref('')
const operation = ref('press S2; release S2')
const seconds = ref('30')
const TYPES = ['float32', 'int16', 'uint16', 'int32', 'uint32'] as const

type Answer = { data?: { settings: MeterSettings; stand_in_port: number | null }; error?: unknown }
function take({ data, error }: Answer): boolean {
  said.value = data
    ? ''
    : problemsOf(error)
        .map((p) => `${p.field}: ${p.message}`)
        .join('; ')
  if (data) {
    settings.value = data.settings
    standIn.value = data.stand_in_port
  }
  return data !== undefined
}
const path = () => ({ path: { starter_id: starter.id } })
const failed = (e: unknown) => ({ error: e })
watch(visible, async (shown) => {
  kept.value = ''
  if (shown)
    take(await client.GET('/api/starters/{starter_id}/meter', { params: path() }).catch(failed))
})

async function save(): Promise<void> {
  if (!settings.value) return
  const number = (v: unknown) => Number(v)
  const body = {
    ...settings.value,
    port: number(settings.value.port),
    device_id: number(settings.value.device_id),
    timeout_s: number(settings.value.timeout_s),
    registers: (settings.value.registers ?? []).map((r) => ({
      ...r,
      address: number(r.address),
      scale: number(r.scale),
    })),
  }
  const answer = await client
    .PUT('/api/starters/{starter_id}/meter', { params: path(), body })
    .catch(failed)
  kept.value = take(answer) ? '✓ saved' : ''
}
async function stand(body: {
  faults?: string[]
  operations?: string[]
  advance_s?: number
}): Promise<void> {
  take(
    await client
      .POST('/api/starters/{starter_id}/meter/stand-in', { params: path(), body })
      .catch(failed),
  )
}
const list = (text: string) =>
  text
    .split(';')
    .map((t) => t.trim())
    .filter(Boolean)
async function end(): Promise<void> {
  take(
    await client
      .DELETE('/api/starters/{starter_id}/meter/stand-in', { params: path() })
      .catch(failed),
  )
}
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    header="Panel meter, Modbus TCP"
    :style="{ width: 'min(46rem, 95vw)' }"
  >
    <div v-if="settings" class="meter">
      <div class="fields">
        <label>Address <input v-model="settings.host" aria-label="Address" /></label>
        <label>Port <input v-model="settings.port" inputmode="numeric" aria-label="Port" /></label>
        <label
          >Device <input v-model="settings.device_id" inputmode="numeric" aria-label="Device"
        /></label>
        <label>
          Registers
          <select v-model="settings.table" aria-label="Registers">
            <option value="holding">holding</option>
            <option value="input">input</option>
          </select>
        </label>
        <label>
          Word order
          <select v-model="settings.word_order" aria-label="Word order">
            <option value="big">high word first</option>
            <option value="little">low word first</option>
          </select>
        </label>
        <label
          >Timeout, s
          <input v-model="settings.timeout_s" inputmode="decimal" aria-label="Timeout, s"
        /></label>
      </div>
      <div class="map">
        <table>
          <thead>
            <tr>
              <th>Quantity</th>
              <th>Register</th>
              <th>Coded as</th>
              <th>Scale factor</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in settings.registers" :key="r.quantity">
              <td>{{ QUANTITIES[r.quantity] ?? r.quantity }}</td>
              <td>
                <input
                  v-model="r.address"
                  inputmode="numeric"
                  :aria-label="`Register of ${r.quantity}`"
                />
              </td>
              <td>
                <select v-model="r.type" :aria-label="`Code of ${r.quantity}`">
                  <option v-for="t in TYPES" :key="t" :value="t">{{ t }}</option>
                </select>
              </td>
              <td>
                <input
                  v-model="r.scale"
                  inputmode="decimal"
                  :aria-label="`Factor of ${r.quantity}`"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p><Button label="Save these settings" size="small" @click="save" /> {{ kept }}</p>
      <p v-if="said" class="wrong" role="alert">■ {{ said }}</p>
      <h3 class="heading">Simulated meter</h3>
      <p class="quiet">
        A simulated panel meter: it shows what a meter in the supply of this starter would show,
        start and faults included.
      </p>
      <p v-if="standIn === null" class="inline">
        <input v-model="faults" aria-label="Faults" placeholder="faults, as weld K3:5-6; or none" />
        <button type="button" @click="stand({ faults: list(faults) })">
          Start the simulated meter
        </button>
      </p>
      <template v-else>
        <p>It answers at 127.0.0.1:{{ standIn }}.</p>
        <p class="inline">
          <input v-model="operation" aria-label="Operations" />
          <input
            v-model="seconds"
            class="short"
            inputmode="numeric"
            aria-label="Seconds afterwards"
          />
          s
          <button
            type="button"
            @click="stand({ operations: list(operation), advance_s: Number(seconds) || 0 })"
          >
            Operate the starter
          </button>
          <button type="button" @click="end">Stop it</button>
        </p>
      </template>
    </div>
    <p v-else-if="said" class="wrong" role="alert">■ {{ said }}</p>
  </Dialog>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 0.4rem 0.8rem;
}
label {
  display: grid;
  font-size: 0.88rem;
  color: var(--quiet);
}
input,
select,
.inline button {
  min-height: 2.4rem;
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  color: var(--ink);
  padding: 0 0.5rem;
  min-width: 0;
}
.map {
  max-height: 15rem;
  overflow-y: auto;
  margin: 0.8rem 0;
  border-bottom: 1px solid var(--rule-strong);
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-size: 0.86rem;
}
td input {
  width: 6rem;
  min-height: 1.9rem;
}
td select {
  min-height: 1.9rem;
}
.inline {
  display: flex;
  gap: 0.4rem;
  align-items: center;
  padding: 0.3rem 0;
}
.inline input {
  flex: 1;
}
.inline .short {
  flex: 0 0 4rem;
}
.inline button {
  cursor: pointer;
}
.wrong {
  color: var(--stop);
}
</style>
