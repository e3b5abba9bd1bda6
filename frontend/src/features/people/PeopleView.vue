<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, onMounted, ref } from 'vue'

import {
  client,
  problemsOf,
  type AuditLine,
  type MeterAddress,
  type PersonOut,
  type Problem,
  type Role,
} from '@/api/client'
import { ROLE_WORDS, useMe } from '@/stores/me'

/** For who administers: who may sign in and as what, where meters may be read, and who changed what. */
const me = useMe()
const people = ref<PersonOut[]>([])
const roles = ref<{ role: Role; words: string }[]>([])
const addresses = ref<MeterAddress[]>([])
const lines = ref<AuditLine[]>([])
const older = ref(false)
const failed = ref('')
const problems = ref<Problem[]>([])
const entry = ref<{ name: string; role: Role; password: string }>({
  name: '',
  role: 'works',
  password: '',
})
const host = ref('')
const hostProblem = ref('')
const resetting = ref<PersonOut | null>(null)
const password = ref('')
const choices = computed(() =>
  (['reads', 'works', 'designs', 'administers'] as Role[]).map((value) => ({
    value,
    label: ROLE_WORDS[value],
  })),
)

async function load(): Promise<void> {
  const [all, allowed, changes] = await Promise.all([
    client.GET('/api/people'),
    client.GET('/api/meter-addresses'),
    client.GET('/api/changes'),
  ])
  failed.value = all.data ? '' : (problemsOf(all.error)[0]?.message ?? '')
  people.value = all.data?.people ?? []
  roles.value = all.data?.roles ?? []
  addresses.value = allowed.data?.addresses ?? []
  lines.value = changes.data?.changes ?? []
  older.value = changes.data?.more ?? false
}
onMounted(() => {
  document.title = 'People · Volmek'
  void load()
})
async function more(): Promise<void> {
  const { data } = await client.GET('/api/changes', {
    params: { query: { before: lines.value.at(-1)?.id } },
  })
  if (!data) return
  lines.value = [...lines.value, ...data.changes]
  older.value = data.more
}
async function done(answer: { data?: unknown; error?: unknown }): Promise<boolean> {
  problems.value = answer.data ? [] : problemsOf(answer.error)
  if (answer.data) await load()
  return Boolean(answer.data)
}
async function add(): Promise<void> {
  if (await done(await client.POST('/api/people', { body: entry.value })))
    entry.value = { name: '', role: 'works', password: '' }
}
async function change(
  p: PersonOut,
  body: { role?: Role; password?: string; sign_out?: boolean },
): Promise<boolean> {
  const params = { path: { person_id: p.id } }
  return done(
    await client.PUT('/api/people/{person_id}', {
      params,
      body: { role: null, password: '', sign_out: false, ...body },
    }),
  )
}
async function reset(): Promise<void> {
  if (resetting.value && (await change(resetting.value, { password: password.value }))) {
    resetting.value = null
    password.value = ''
  }
}
async function remove(p: PersonOut): Promise<void> {
  await done(
    await client.DELETE('/api/people/{person_id}', { params: { path: { person_id: p.id } } }),
  )
}
async function allow(): Promise<void> {
  const { data, error } = await client.POST('/api/meter-addresses', {
    body: { host: host.value },
  })
  hostProblem.value = data ? '' : (problemsOf(error)[0]?.message ?? '')
  if (!data) return
  addresses.value = data.addresses
  host.value = ''
}
async function forbid(a: MeterAddress): Promise<void> {
  const { data } = await client.DELETE('/api/meter-addresses/{address_id}', {
    params: { path: { address_id: a.id } },
  })
  if (data) addresses.value = data.addresses
}
const when = (text: string) => text.slice(0, 19).replace('T', ' ')
const OPERATIONS: Record<string, string> = {
  add_to_journal: 'wrote in the record',
  seal_starter: 'sealed',
  save_starter: 'changed the design',
  add_starter: 'added a starter',
  copy_starter: 'copied a starter',
  move_to_board: 'moved a starter',
  remove_starter: 'put into the bin',
  put_starter_back: 'put back from the bin',
  empty_starter: 'emptied from the bin',
  restore_revision: 'went back to an earlier state',
  take_catalogue_now: 'took the catalogue as it is now',
  add_board: 'made a board',
  change_board: 'renamed a board',
  choose_for_board: 'chose catalogues',
  import_starters: 'imported starters',
  import_whole_job: 'imported a job',
  open_line: 'made a starter of one line',
  put_preset: 'saved a preset',
  delete_preset: 'removed a preset',
  add_catalogue: 'made a catalogue',
  delete_catalogue: 'removed a catalogue',
  delete_device: 'removed a device',
  import_devices: 'imported devices',
  set_meter_settings: 'set the meter',
  run_stand_in: 'ran the simulated meter',
  add_somebody: 'let somebody sign in',
  change_person: 'changed a person',
  remove_person: 'took a person off the list',
  allow_meter_address: 'allowed a meter address',
  forbid_meter_address: 'took a meter address off',
  change_password: 'changed the own password',
  sign_out_everywhere: 'signed out other devices',
  pair_tablet: 'showed a pairing code',
}
</script>

<template>
  <main id="content" class="page">
    <h1>People and changes</h1>
    <p v-if="failed" class="problem" role="alert">■ {{ failed }}</p>
    <template v-else>
      <section aria-label="People">
        <table class="people">
          <thead>
            <tr>
              <th>Name</th>
              <th>Role</th>
              <th>Since</th>
              <th><span class="visually-hidden">What can be done</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in people" :key="p.id">
              <td>
                <b>{{ p.name }}</b> <span v-if="p.name === me.name" class="quiet">you</span>
              </td>
              <td>
                <Select
                  :model-value="p.role"
                  :options="choices"
                  option-label="label"
                  option-value="value"
                  size="small"
                  :aria-label="`Role of ${p.name}`"
                  @update:model-value="change(p, { role: $event as Role })"
                />
              </td>
              <td class="figures">{{ p.created.slice(0, 10) }}</td>
              <td class="do">
                <Button label="New password" text size="small" @click="resetting = p" />
                <Button
                  label="Sign out everywhere"
                  text
                  size="small"
                  @click="change(p, { sign_out: true })"
                />
                <Button label="Take off" text size="small" severity="danger" @click="remove(p)" />
              </td>
            </tr>
          </tbody>
        </table>
        <form class="entry add" @submit.prevent="add">
          <label>Name <InputText v-model="entry.name" size="small" maxlength="80" /></label>
          <label>
            <span id="new-role">Role</span>
            <Select
              v-model="entry.role"
              :options="choices"
              option-label="label"
              option-value="value"
              size="small"
              aria-labelledby="new-role"
            />
          </label>
          <label>
            Password, at least 10 characters
            <InputText
              v-model="entry.password"
              type="password"
              size="small"
              autocomplete="new-password"
            />
          </label>
          <Button
            type="submit"
            label="Add"
            size="small"
            :disabled="!entry.name.trim() || !entry.password"
          />
          <p v-for="p in problems" :key="p.message" class="problem" role="alert">
            ■ {{ p.message }}
          </p>
        </form>
        <ul class="roles">
          <li v-for="r in roles" :key="r.role">
            <b>{{ r.words.split(':')[0] }}</b>:{{ r.words.split(':')[1] }}
          </li>
        </ul>
      </section>
      <section aria-label="Meter addresses">
        <h2>Meter addresses</h2>
        <p class="quiet">
          Panel meters are read only at these hosts, addresses and networks. Addresses of this
          machine itself count only where they stand here by number.
        </p>
        <ul v-if="addresses.length" class="hosts">
          <li v-for="a in addresses" :key="a.id">
            <span class="figures">{{ a.host }}</span>
            <span class="quiet">{{ a.allowed_by }}, {{ a.allowed.slice(0, 10) }}</span>
            <Button
              label="Take off"
              :aria-label="`Take ${a.host} off`"
              text
              size="small"
              @click="forbid(a)"
            />
          </li>
        </ul>
        <p v-else>No meter may be read yet.</p>
        <form class="entry" @submit.prevent="allow">
          <label>
            Host, address or network, such as 10.20.0.0/24
            <InputText v-model="host" size="small" maxlength="120" />
          </label>
          <Button type="submit" label="Allow" size="small" :disabled="!host.trim()" />
          <p v-if="hostProblem" class="problem" role="alert">■ {{ hostProblem }}</p>
        </form>
      </section>
      <section aria-label="Changes">
        <h2>Changes <a href="/api/changes.csv" download>all as CSV</a></h2>
        <table>
          <thead>
            <tr>
              <th>When (UTC)</th>
              <th>Who</th>
              <th>What</th>
              <th>Of</th>
              <th>From</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in lines" :key="c.id">
              <td class="figures">{{ when(c.at) }}</td>
              <td>{{ c.who }}</td>
              <td>{{ OPERATIONS[c.operation] ?? c.operation }}</td>
              <td>{{ c.subject }}</td>
              <td class="figures quiet">{{ c.address }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="!lines.length" class="quiet">Nobody has changed anything yet.</p>
        <Button v-if="older" label="Older ones" text size="small" @click="more" />
      </section>
    </template>
    <Dialog
      :visible="resetting !== null"
      modal
      :header="`New password for ${resetting?.name ?? ''}`"
      @update:visible="resetting = null"
    >
      <form class="entry" @submit.prevent="reset">
        <label>
          At least 10 characters; every device of theirs is signed out
          <InputText v-model="password" type="password" size="small" autocomplete="new-password" />
        </label>
        <Button type="submit" label="Set" size="small" :disabled="!password" />
        <p v-for="p in problems" :key="p.message" class="problem" role="alert">■ {{ p.message }}</p>
      </form>
    </Dialog>
  </main>
</template>

<style scoped src="@/ui/page.css"></style>
<style scoped>
.page {
  grid-template-columns: minmax(0, 1fr);
}
section {
  overflow-x: auto;
}
h2 {
  font-size: 1.15rem;
  font-weight: 600;
}
h2 a {
  font-weight: 400;
  font-size: 0.93rem;
  margin-left: 1rem;
}
.do {
  text-align: right;
  white-space: nowrap;
}
.add {
  margin-top: 0.8rem;
}
.roles,
.hosts {
  list-style: none;
  padding: 0;
  margin: 0.8rem 0 0;
  display: grid;
  gap: 0.2rem;
}
.hosts li {
  display: flex;
  gap: 1.2rem;
  align-items: center;
}
@media (max-width: 48em) {
  .people thead {
    display: none;
  }
  .people tr {
    display: grid;
    grid-template-columns: 1fr auto;
    align-items: center;
    border-bottom: 1px solid var(--rule);
    padding: 0.3rem 0;
  }
  .people td {
    border: 0;
  }
  .people td:nth-child(3) {
    display: none;
  }
  .people .do {
    grid-column: 1 / -1;
    text-align: left;
    white-space: normal;
    padding-top: 0;
  }
}
</style>
