<script setup lang="ts">
import { computed, ref } from 'vue'

import type { RecordView, Seal, Trip } from '@/api/client'
import SecondPerson from '@/features/test/SecondPerson.vue'
import { useJournal } from '@/stores/journal'
import { useMe } from '@/stores/me'
import { useStarter } from '@/stores/starter'

/** Trips, changes against the design, open items, inspections, signatures and seals. */
defineProps<{ sheet: RecordView; seals: Seal[]; sealing: string }>()
const emit = defineEmits<{ seal: [] }>()
const journal = useJournal()
const me = useMe()
const starter = useStarter()

const trip = ref({ what: '', happened: '', reading: '' })
const editing = ref('')
const more = ref({ cause: '', repair: '', reset: '', restarted: '' })
const change = ref({ what: '', designed: '', built: '', reason: '' })
const point = ref('')
const settling = ref('')
const how = ref('')
const inspection = ref({ title: '', every_months: '12', first_due: '' })
const doing = ref('')
const done = ref({ on: '', result: '' })
const ROLES = [
  { role: 'set', words: 'Set by' },
  { role: 'checked', words: 'Checked by' },
  { role: 'answers', words: 'Responsible person' },
]

/** Role in which a second person is about to sign. */
const signing = ref('')
function signFor(role: string, second: { name: string; second: string }): void {
  journal.add(starter.id, 'signature', { role, name: second.name }, second)
  signing.value = ''
}

const iso = (local: string) => (local ? new Date(local).toISOString() : null)
const when = (text: string | null) => (text ? text.slice(0, 16).replace('T', ' ') : '')
function write(kind: string, body: Record<string, unknown>): void {
  journal.add(starter.id, kind, body)
}
function noteTrip(): void {
  write('trip', { ...trip.value, happened: iso(trip.value.happened) })
  trip.value = { what: '', happened: '', reading: '' }
}
function edit(t: Trip): void {
  editing.value = editing.value === t.key ? '' : t.key
  more.value = { cause: t.cause, repair: t.repair, reset: t.reset, restarted: '' }
}
function add(t: Trip, close: boolean): void {
  const { restarted, ...texts } = more.value
  write('trip', { trip: t.key, ...texts, restarted: iso(restarted), close })
  editing.value = ''
}
const devices = computed(() => starter.design?.devices ?? [])
/** What the design has at this place need not be typed. */
function designed(): void {
  const d = devices.value.find((d) => d.designation === change.value.what.trim())
  if (d && !change.value.designed) change.value.designed = String(d.selected.type ?? d.label)
}
function noteChange(): void {
  write('change', { ...change.value })
  change.value = { what: '', designed: '', built: '', reason: '' }
}
function notePoint(): void {
  write('open', { text: point.value })
  point.value = ''
}
function settle(key: string): void {
  write('closed', { point: key, how: how.value })
  settling.value = ''
  how.value = ''
}
function noteInspection(): void {
  const { every_months, ...rest } = inspection.value
  write('inspection', { ...rest, every_months: Number(every_months) })
  inspection.value = { title: '', every_months: '12', first_due: '' }
}
function noteDone(key: string): void {
  write('inspected', { inspection: key, ...done.value })
  doing.value = ''
  done.value = { on: '', result: '' }
}
</script>

<template>
  <div class="log">
    <section aria-label="Open items">
      <h2 class="heading">Open items</h2>
      <ul class="rows">
        <li v-for="p in sheet.points" :key="p.key + p.text">
          <span>▲ {{ p.text }}</span>
          <template v-if="p.key">
            <form v-if="settling === p.key" class="inline" @submit.prevent="settle(p.key)">
              <input v-model="how" aria-label="How it was closed" placeholder="how it was closed" />
              <button type="submit" :disabled="!journal.who.trim() || !how.trim()">Close</button>
            </form>
            <button v-else type="button" @click="settling = p.key">Close…</button>
          </template>
        </li>
      </ul>
      <p v-if="!sheet.points.length" class="quiet">No open items.</p>
      <form class="inline" @submit.prevent="notePoint">
        <input
          v-model="point"
          class="wide"
          aria-label="New open item"
          placeholder="what is still to be done"
        />
        <button type="submit" :disabled="!journal.who.trim() || !point.trim()">Add</button>
      </form>
    </section>

    <section aria-label="Trips">
      <h2 class="heading">Trips</h2>
      <div v-for="t in sheet.trips" :key="t.key" class="trip">
        <p>
          <b class="figures">{{ when(t.happened) }} {{ t.what }}</b> {{ t.reading }}
          <span :class="t.closed ? 'quiet' : 'warn'">{{ t.closed ? '✓ closed' : '▲ open' }}</span>
        </p>
        <p class="quiet">
          Cause: {{ t.cause || 'not known yet' }}.
          <template v-if="t.repair">Repair: {{ t.repair }}. </template>
          <template v-if="t.reset">Reset: {{ t.reset }}. </template>
          <template v-if="t.restarted">Restarted {{ when(t.restarted) }}.</template>
        </p>
        <button v-if="!t.closed" type="button" :aria-expanded="editing === t.key" @click="edit(t)">
          Cause, repair, restart…
        </button>
        <form v-if="editing === t.key" class="fields" @submit.prevent="add(t, false)">
          <label>Cause <input v-model="more.cause" /></label>
          <label>Repair <input v-model="more.repair" /></label>
          <label>Reset <input v-model="more.reset" /></label>
          <label>Restarted <input v-model="more.restarted" type="datetime-local" /></label>
          <span>
            <button type="submit" :disabled="!journal.who.trim()">Save</button>
            <button type="button" :disabled="!journal.who.trim()" @click="add(t, true)">
              Save and close the trip
            </button>
          </span>
        </form>
      </div>
      <p v-if="!sheet.trips.length" class="quiet">No trip logged.</p>
      <form class="fields" @submit.prevent="noteTrip">
        <label>What tripped <input v-model="trip.what" placeholder="F1" /></label>
        <label>When <input v-model="trip.happened" type="datetime-local" /></label>
        <label class="wide"
          >Reading <input v-model="trip.reading" placeholder="what was measured or seen"
        /></label>
        <button type="submit" :disabled="!journal.who.trim() || !trip.what || !trip.happened">
          Log a trip
        </button>
      </form>
    </section>

    <section aria-label="Changes">
      <h2 class="heading">Deviations from the design</h2>
      <table v-if="sheet.changes.length">
        <thead>
          <tr>
            <th>What</th>
            <th>Designed</th>
            <th>Built</th>
            <th>Reason</th>
            <th>By</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in sheet.changes" :key="c.said">
            <td class="figures">{{ c.what }}</td>
            <td>{{ c.designed }}</td>
            <td>{{ c.built }}</td>
            <td>{{ c.reason }}</td>
            <td class="quiet">{{ c.who }}, {{ c.said.slice(0, 10) }}</td>
          </tr>
        </tbody>
      </table>
      <form class="fields" @submit.prevent="noteChange">
        <label>
          Device or wire
          <input v-model="change.what" placeholder="K1" list="designations" @change="designed" />
          <datalist id="designations">
            <option v-for="d in devices" :key="d.designation" :value="d.designation">
              {{ d.label }}
            </option>
          </datalist>
        </label>
        <label>As designed <input v-model="change.designed" /></label>
        <label>As built <input v-model="change.built" /></label>
        <label>Reason <input v-model="change.reason" /></label>
        <button
          type="submit"
          :disabled="
            !journal.who.trim() ||
            !change.what ||
            !change.designed ||
            !change.built ||
            !change.reason.trim()
          "
        >
          Add deviation
        </button>
      </form>
    </section>

    <section aria-label="Inspections">
      <h2 class="heading">
        Inspections
        <a :href="`/api/starters/${starter.id}/inspections.ics`" download>calendar file</a>
      </h2>
      <ul class="rows">
        <li v-for="d in sheet.inspections" :key="d.key">
          <span>
            <b class="figures">{{ d.due }}</b> {{ d.title }}
            <span class="quiet"
              >every {{ d.every_months }} months{{
                d.last ? `, last ${d.last}: ${d.result}` : ''
              }}</span
            >
          </span>
          <form v-if="doing === d.key" class="inline" @submit.prevent="noteDone(d.key)">
            <input v-model="done.on" type="date" aria-label="Done on" />
            <input v-model="done.result" aria-label="Result" placeholder="result" />
            <button
              type="submit"
              :disabled="!journal.who.trim() || !done.on || !done.result.trim()"
            >
              Done
            </button>
          </form>
          <button v-else type="button" @click="doing = d.key">Done…</button>
        </li>
      </ul>
      <form class="fields" @submit.prevent="noteInspection">
        <label class="wide">What <input v-model="inspection.title" /></label>
        <label>Every, months <input v-model="inspection.every_months" inputmode="numeric" /></label>
        <label>First due <input v-model="inspection.first_due" type="date" /></label>
        <button
          type="submit"
          :disabled="!journal.who.trim() || !inspection.title.trim() || !inspection.first_due"
        >
          Add inspection
        </button>
      </form>
    </section>

    <section aria-label="Signatures">
      <h2 class="heading">Signatures and seal</h2>
      <p v-for="r in ROLES" :key="r.role" class="sign">
        <span>{{ r.words }}</span>
        <b v-for="s in sheet.signatures.filter((s) => s.role === r.role)" :key="s.said"
          >{{ s.name }}, {{ s.said.slice(0, 10) }} <span class="quiet">{{ s.words }}</span></b
        >
        <button
          type="button"
          :disabled="!journal.who.trim()"
          @click="write('signature', { role: r.role, name: journal.who.trim() })"
        >
          Sign as {{ journal.who.trim() || '…' }}
        </button>
        <button
          v-if="me.workshop"
          type="button"
          :disabled="!journal.who.trim()"
          @click="signing = r.role"
        >
          Another person…
        </button>
      </p>
      <SecondPerson
        :visible="signing !== ''"
        @update:visible="signing = ''"
        @signed="signFor(signing, $event)"
      />
      <p v-if="sheet.names" class="quiet">{{ sheet.names }}</p>
      <p class="quiet">
        A seal freezes document, computed figures and record as they are now. It says what was built
        and measured; whoever is licensed for this work answers for it.
      </p>
      <button
        type="button"
        :disabled="!journal.who.trim() || !!journal.waiting"
        @click="emit('seal')"
      >
        Seal as built
      </button>
      <p v-if="sealing" class="warn" role="alert">■ {{ sealing }}</p>
      <ul class="rows">
        <li v-for="s in seals" :key="s.id">
          <span>
            <b class="figures">{{ when(s.sealed) }}</b> sealed by {{ s.who }} ({{
              s.signed ? 'signed in' : 'name as typed'
            }})
            <span class="quiet figures">{{ s.digest.slice(0, 16) }}…</span>
            {{ s.unbroken ? '✓' : '■' }} {{ s.proves }}
            <span v-if="s.changed_since.length" class="warn"
              >▲ changed since: {{ s.changed_since.slice(0, 6).join(', ') }}</span
            >
          </span>
          <a :href="`/api/starters/${starter.id}/seals/${s.id}.json`" download>file</a>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.log {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 1.2rem 2rem;
}
.heading {
  display: flex;
  justify-content: space-between;
  font-size: 1.05rem;
}
.heading a {
  font-weight: 400;
}
.rows {
  list-style: none;
  margin: 0;
  padding: 0;
}
.rows li {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1rem;
  justify-content: space-between;
  align-items: center;
  border-bottom: 1px solid var(--rule);
  padding: 0.25rem 0;
}
.trip {
  border-bottom: 1px solid var(--rule);
  padding: 0.35rem 0;
}
.warn {
  color: var(--attention);
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.4rem 0.8rem;
  align-items: end;
  padding: 0.5rem 0;
}
.fields .wide {
  grid-column: 1 / -1;
}
label {
  display: grid;
  font-size: 0.88rem;
  color: var(--quiet);
}
input {
  min-height: 2.5rem;
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  color: var(--ink);
  padding: 0 0.5rem;
  min-width: 0;
}
.inline {
  display: flex;
  gap: 0.4rem;
  padding: 0.3rem 0;
}
.inline .wide {
  flex: 1;
}
button {
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  min-height: 2.5rem;
  padding: 0.2rem 0.9rem;
  cursor: pointer;
}
button:disabled {
  color: var(--quiet);
  cursor: not-allowed;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-size: 0.86rem;
  border-bottom: 1px solid var(--rule-strong);
}
td {
  border-bottom: 1px solid var(--rule);
  padding: 0.25rem 0.5rem 0.25rem 0;
  vertical-align: top;
}
.sign {
  display: flex;
  gap: 0.8rem;
  align-items: center;
  padding: 0.15rem 0;
}
.sign span {
  min-width: 7.5rem;
}
.sign button {
  margin-left: auto;
}
@media (max-width: 68.75em) {
  .log {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
