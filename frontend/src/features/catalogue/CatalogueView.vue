<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { client, problemsOf, type CatalogueOut, type TableGuide } from '@/api/client'
import ImportDialog from '@/features/catalogue/ImportDialog.vue'
import { aligned, tailOf } from '@/ui/figures'
import { useAsked } from '@/stores/asked'

/** The shipped range and catalogues of one's own: their devices, import, export. */
const props = defineProps<{ catalogueId: number; table: string }>()
const router = useRouter()
const catalogues = ref<CatalogueOut[]>([])
type Table = TableGuide['table']
const tables = ref<TableGuide[]>([])
const find = ref('')
const name = ref('')
const importing = ref(false)
const removing = ref('')
document.title = 'Catalogue · Volmek'

const catalogue = computed(() => catalogues.value.find((c) => c.id === props.catalogueId))
const guide = computed(() => tables.value.find((t) => t.table === props.table))
const counts = computed(
  () => new Map<Table, number>(catalogue.value?.counts.map((c) => [c.table, c.devices])),
)
const numbers = computed(
  () => new Set(guide.value?.columns.filter((c) => c.number).map((c) => c.name)),
)
/** Columns that say something, the long list of coils last: it would push the others out of sight. */
const shown = computed(() => {
  const rows = devices.value?.rows ?? []
  return (devices.value?.columns ?? [])
    .map((column, i) => ({ column, i, decimals: tailOf(rows.map((row) => row[i] ?? '')) }))
    .filter(({ i }) => rows.some((row) => row[i] !== ''))
    .sort((a, b) => rank(a.column) - rank(b.column))
})

const ORDER = ['Device', 'Ratings', 'Setting', 'Short-circuit', 'Coil', 'Auxiliary contacts']
/** What a device is chosen by stands first; columns of one group stay together, the long list of coils last. */
function rank(column: string): number {
  const at = ORDER.indexOf(columnOf(column)?.group ?? '')
  return column === 'coils' ? 99 : at < 0 ? 50 : at
}
/** Headings of neighbouring columns of one group stand together. */
const groups = computed(() => {
  const found: { name: string; span: number }[] = []
  for (const s of shown.value) {
    const name = columnOf(s.column)?.group ?? ''
    const last = found.at(-1)
    if (last?.name === name) last.span++
    else found.push({ name, span: 1 })
  }
  return found
})
const columnOf = (column: string) => guide.value?.columns.find((c) => c.name === column)
const detail = ref<string[] | null>(null)
const typicalOf = (row: string[]) =>
  new Set((row[(devices.value?.columns ?? []).indexOf('typical')] ?? '').split(' '))

/** A file goes into a catalogue of one's own; where there is none yet, one is made for it. */
async function bring(): Promise<void> {
  if (catalogue.value?.shipped) {
    const own = catalogues.value.find((c) => !c.shipped)
    const taken = new Set(catalogues.value.map((c) => c.name))
    let id = own?.id
    if (id === undefined) {
      const { data } = await client.POST('/api/catalogues', {
        body: { name: taken.has('My catalogue') ? 'My catalogue 2' : 'My catalogue' },
      })
      id = data?.id
    }
    if (id === undefined) return
    await load()
    await router.push(`/catalogue/${id}/${props.table}`)
  }
  importing.value = true
}

function meaning(column: string): string {
  return guide.value?.columns.find((c) => c.name === column)?.meaning ?? ''
}

async function load(): Promise<void> {
  const { data } = await client.GET('/api/catalogues')
  catalogues.value = data?.catalogues ?? []
  tables.value = data?.tables ?? []
}

const {
  data: devices,
  said,
  ask: look,
} = useAsked(() =>
  client.GET('/api/catalogues/{catalogue_id}/devices', {
    params: {
      path: { catalogue_id: props.catalogueId },
      query: { table: props.table as Table, find: find.value },
    },
  }),
)

void load()
watch(() => [props.catalogueId, props.table, find.value], look, { immediate: true })

async function add(): Promise<void> {
  const { data, error } = await client.POST('/api/catalogues', { body: { name: name.value } })
  if (!data) {
    said.value = problemsOf(error)[0]?.message ?? ''
    return
  }
  name.value = ''
  await load()
  await router.push(`/catalogue/${data.id}/${props.table}`)
}

async function remove(): Promise<void> {
  await client.DELETE('/api/catalogues/{catalogue_id}', {
    params: { path: { catalogue_id: props.catalogueId } },
  })
  removing.value = ''
  await router.push('/catalogue/0/contactors')
  await load()
}

async function removeDevice(type: string): Promise<void> {
  await client.DELETE('/api/catalogues/{catalogue_id}/devices', {
    params: { path: { catalogue_id: props.catalogueId }, query: { type } },
  })
  removing.value = ''
  await Promise.all([load(), look()])
}

async function taken(table: string): Promise<void> {
  await load()
  if (table === props.table) await look()
  else await router.push(`/catalogue/${props.catalogueId}/${table}`)
}
</script>

<template>
  <div class="view">
    <nav class="list" aria-label="Catalogues">
      <h2>Catalogues</h2>
      <ul>
        <li v-for="c in catalogues" :key="c.id">
          <RouterLink
            :to="`/catalogue/${c.id}/${props.table}`"
            :aria-current="c.id === props.catalogueId ? 'true' : undefined"
          >
            {{ c.name }}
            <span class="quiet">{{
              c.boards.length ? `used by ${c.boards.join(', ')}` : 'used by no board'
            }}</span>
          </RouterLink>
        </li>
      </ul>
      <form @submit.prevent="add">
        <label>New catalogue <InputText v-model="name" size="small" maxlength="80" /></label>
        <Button type="submit" label="Create" size="small" outlined />
      </form>
      <h2>Templates</h2>
      <p class="links">
        <a href="/api/catalogues/template.xlsx" download
          >XLSX, every table and its columns explained</a
        >
        <a :href="`/api/catalogues/template.csv?table=${props.table}`" download
          >CSV, {{ guide?.title.toLowerCase() }}</a
        >
      </p>
      <h2>Catalogue in use</h2>
      <p class="quiet">
        Each board says which catalogues it chooses from. A device in use stays with its design,
        even when it is taken out here.
      </p>
    </nav>
    <main id="content">
      <header v-if="catalogue">
        <h1>{{ catalogue.name }}</h1>
        <p class="quiet">
          {{
            catalogue.shipped
              ? 'Ships with the application; invented, not any maker’s. It cannot be changed.'
              : 'Your own.'
          }}
        </p>
        <div class="tools">
          <Button label="Import a catalogue" size="small" @click="bring" />
          <a :href="`/api/catalogues/${catalogue.id}/export.xlsx`" download>Export all, XLSX</a>
          <a :href="`/api/catalogues/${catalogue.id}/export.csv?table=${props.table}`" download
            >Export this table, CSV</a
          >
          <template v-if="!catalogue.shipped">
            <template v-if="removing === '/'">
              <span>{{
                catalogue.boards.length
                  ? `${catalogue.boards.join(', ')} will go on without it; designs keep their devices.`
                  : 'No board uses it.'
              }}</span>
              <Button
                label="Remove for good"
                size="small"
                severity="danger"
                outlined
                @click="remove"
              />
              <Button label="Cancel" size="small" text @click="removing = ''" />
            </template>
            <Button
              v-else
              label="Remove this catalogue"
              size="small"
              text
              @click="removing = '/'"
            />
          </template>
        </div>
      </header>
      <p v-if="said" class="problem" role="alert">■ {{ said }}</p>
      <nav class="tables" aria-label="Tables of the catalogue">
        <RouterLink
          v-for="t in tables"
          :key="t.table"
          :to="`/catalogue/${props.catalogueId}/${t.table}`"
          :aria-current="t.table === props.table ? 'true' : undefined"
          >{{ t.title }}
          <span class="figures quiet">{{ counts.get(t.table as Table) ?? '' }}</span></RouterLink
        >
      </nav>
      <div class="head">
        <p>{{ guide?.used_for }}</p>
        <label>Find <InputText v-model="find" size="small" maxlength="80" /></label>
      </div>
      <div v-if="devices?.rows.length" class="wide" tabindex="0" role="region" aria-label="Devices">
        <table class="cards">
          <thead>
            <tr>
              <th
                v-for="(g, i) in groups"
                :key="i"
                scope="colgroup"
                :colspan="g.span"
                class="group"
              >
                {{ g.name }}
              </th>
              <th v-if="!catalogue?.shipped"></th>
            </tr>
            <tr>
              <th
                v-for="s in shown"
                :key="s.column"
                scope="col"
                :class="{ num: numbers.has(s.column) }"
                :title="meaning(s.column)"
              >
                {{ columnOf(s.column)?.heading ?? s.column }}
              </th>
              <th v-if="!catalogue?.shipped"><span class="visually-hidden">Delete</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in devices.rows" :key="row[0]">
              <td
                v-for="s in shown"
                :key="s.column"
                class="figures"
                :class="{ num: numbers.has(s.column) }"
                :data-heading="columnOf(s.column)?.heading ?? s.column"
              >
                <button
                  v-if="s.column === 'type'"
                  type="button"
                  class="type"
                  :aria-label="`All data of ${row[s.i]}`"
                  @click="detail = row"
                >
                  {{ row[s.i] }}
                </button>
                <template v-else>{{
                  numbers.has(s.column) ? aligned(row[s.i] ?? '', s.decimals) : row[s.i]
                }}</template>
              </td>
              <td v-if="!catalogue?.shipped">
                <template v-if="removing === row[0]">
                  <Button
                    label="Delete it"
                    size="small"
                    severity="danger"
                    outlined
                    @click="removeDevice(row[0] ?? '')"
                  />
                  <Button label="Cancel" size="small" text @click="removing = ''" />
                </template>
                <Button
                  v-else
                  label="Delete"
                  size="small"
                  text
                  :aria-label="`Delete ${row[0]}`"
                  @click="removing = row[0] ?? ''"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else-if="devices" class="quiet none">
        {{
          find
            ? 'No device of this table has that in a cell.'
            : catalogue?.shipped
              ? 'Nothing in this table.'
              : 'Nothing in this table yet. A list of type, coil and AC-3 current is enough to import; a template has three example rows.'
        }}
      </p>
      <p v-if="devices && devices.total > devices.rows.length" class="quiet">
        {{ devices.rows.length }} of {{ devices.total }} shown; find narrows them down.
      </p>
    </main>
    <Dialog
      :visible="detail !== null"
      modal
      :header="detail?.[0] ?? ''"
      :style="{ width: 'min(38rem, 96vw)' }"
      dismissable-mask
      @update:visible="detail = null"
    >
      <dl v-if="detail" class="detail">
        <template v-for="(column, i) in devices?.columns ?? []" :key="column">
          <template v-if="detail[i] && column !== 'type'">
            <dt>{{ columnOf(column)?.heading ?? column }}</dt>
            <dd class="figures">
              {{
                column === 'typical'
                  ? detail[i]
                      .split(' ')
                      .map((c) => columnOf(c)?.heading ?? c)
                      .join('; ')
                  : detail[i]
              }}
              <span v-if="typicalOf(detail).has(column)" class="typical">typical</span>
            </dd>
          </template>
        </template>
      </dl>
    </Dialog>
    <ImportDialog
      v-if="catalogue && !catalogue.shipped"
      v-model:visible="importing"
      :catalogue="catalogue"
      :tables="tables"
      @taken="taken"
    />
  </div>
</template>

<style scoped>
.group {
  font-weight: 500;
  color: var(--quiet);
  border-left: 1px solid var(--rule);
}
.type {
  border: 0;
  border-bottom: 1px dotted var(--accent);
  background: none;
  padding: 0;
  cursor: pointer;
}
.detail {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0.25rem 1.2rem;
  margin: 0;
}
.detail dt {
  color: var(--quiet);
}
.detail dd {
  margin: 0;
}
.typical {
  color: var(--attention);
  margin-left: 0.5rem;
}
.view {
  display: grid;
  grid-template-columns: 17rem minmax(0, 1fr);
  height: calc(100vh - 2.4rem);
}
.list {
  border-right: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.9rem;
  overflow-y: auto;
}
.list h2 {
  font-size: 1rem;
  font-weight: 650;
  margin: 0.9rem 0 0.2rem;
}
.list h2:first-child {
  margin-top: 0;
}
.list ul {
  list-style: none;
  margin: 0 0 0.6rem;
  padding: 0;
}
.list li a {
  display: block;
  padding: 0.25rem 0.5rem;
  text-decoration: none;
  color: inherit;
  border-left: 3px solid transparent;
}
.list li .quiet {
  display: block;
  font-size: 0.86rem;
}
.list li a[aria-current] {
  border-color: var(--accent);
  background: var(--tint);
}
.list form {
  display: grid;
  gap: 0.4rem;
  justify-items: start;
}
.list :deep(input) {
  width: 100%;
}
.list label {
  display: grid;
  width: 100%;
  gap: 0.15rem;
  font-size: 0.93rem;
}
.list p {
  margin: 0;
  font-size: 0.9rem;
}
.links {
  display: grid;
  gap: 0.3rem;
}
main {
  padding: 1rem 1.4rem 3rem;
  overflow-y: auto;
}
h1 {
  font-size: 1.3rem;
  font-weight: 650;
}
header p {
  margin: 0.1rem 0 0.5rem;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1.2rem;
  align-items: center;
}
.tables {
  display: flex;
  flex-wrap: wrap;
  gap: 0 0.2rem;
  margin-top: 0.9rem;
  border-bottom: 1px solid var(--ink);
}
.tables a {
  padding: 0.3rem 0.6rem;
  text-decoration: none;
  color: inherit;
  border-bottom: 3px solid transparent;
}
.tables a[aria-current] {
  border-color: var(--accent);
  font-weight: 600;
}
.head {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 0.5rem 1rem;
  margin: 0.5rem 0;
}
.head p {
  margin: 0;
}
.head label {
  display: inline-flex;
  gap: 0.5rem;
  align-items: center;
}
.wide {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  background: var(--sheet);
  border-top: 2px solid var(--ink);
  border-bottom: 1px solid var(--ink);
}
th {
  text-align: left;
  vertical-align: bottom;
  font-size: 0.82rem;
  font-weight: 500;
  color: var(--quiet);
  padding: 0.35rem 0.7rem;
  border-bottom: 1px solid var(--rule-strong);
  white-space: nowrap;
}
td {
  padding: 0.2rem 0.7rem;
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
}
.num {
  text-align: right;
}
th:first-child,
td:first-child {
  position: sticky;
  left: 0;
  background: var(--sheet);
  border-right: 1px solid var(--rule);
}
tbody tr:hover {
  background: var(--tint);
}
.none {
  margin-top: 1rem;
}
.problem {
  color: var(--stop);
}
@media (max-width: 62.5em) {
  .view {
    grid-template-columns: 13rem minmax(0, 1fr);
  }
}
@media (max-width: 40em) {
  .view {
    display: block;
    height: auto;
  }
  .list {
    border-right: 0;
  }
}
@media print {
  .view {
    display: block;
    height: auto;
  }
  .list {
    display: none;
  }
}
</style>
