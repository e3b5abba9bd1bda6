<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'

import {
  answered,
  problemsOf,
  type CatalogueOut,
  type ImportOut,
  type TableGuide,
} from '@/api/client'
import { useWork } from '@/stores/work'
import WorkBar from '@/ui/WorkBar.vue'

/** A file of devices: what it would do, cell by cell what is wrong with it, and only then taking it in. */
const props = defineProps<{ catalogue: CatalogueOut; tables: TableGuide[] }>()
const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ taken: [table: string] }>()

const file = ref<File | null>(null)
const table = ref<string | null>(null)
const removeOthers = ref(false)
const preview = ref<ImportOut | null>(null)
const said = ref('')
const busy = ref(false)
const work = useWork()

watch(visible, (open) => {
  if (!open) return
  file.value = null
  table.value = null
  removeOthers.value = false
  preview.value = null
  said.value = ''
})

/** The types first, then the columns with something wrong, then the others. */
const rows = computed(() =>
  (preview.value?.tables ?? []).map((t) => {
    const wrong = new Set(t.rows.flatMap((r) => r.wrong))
    const order = t.columns
      .map((column, i) => ({ column, i }))
      .sort((a, b) => rank(a.column, wrong) - rank(b.column, wrong) || a.i - b.i)
    return { ...t, order }
  }),
)

function rank(column: string, wrong: Set<string>): number {
  return column === 'type' ? 0 : wrong.has(column) ? 1 : 2
}

const isCsv = computed(() => file.value?.name.toLowerCase().endsWith('.csv') ?? false)
const titles = computed(() => new Map(props.tables.map((t) => [t.table, t.title])))
const count = computed(
  () => (preview.value?.problems.length ?? 0) + (preview.value?.more_problems ?? 0),
)
const good = computed(() => preview.value !== null && count.value === 0)

/** What is wrong, column by column. */
const grouped = computed(() => {
  const found = new Map<string, ImportOut['problems']>()
  for (const p of preview.value?.problems ?? []) {
    const key = `${p.table} ${p.column}`
    found.set(key, [...(found.get(key) ?? []), p])
  }
  return [...found.entries()].map(([key, problems]) => ({ key, problems }))
})
const heading = (name: string, column: string) =>
  props.tables.find((t) => t.table === name)?.columns.find((c) => c.name === column)?.heading ??
  column
/** The device that a row is of, so that it is found in the file. */
function typeOf(name: string, row: number): string {
  const t = preview.value?.tables.find((x) => x.table === name)
  const i = t?.columns.indexOf('type') ?? -1
  return t?.rows.find((r) => r.row === row)?.cells[i] ?? ''
}

function title(name: string): string {
  return titles.value.get(name as TableGuide['table']) ?? name
}

/** The typed client sends JSON; a file goes as a form. */
async function send(commit: boolean): Promise<void> {
  if (!file.value) return
  const form = new FormData()
  form.append('file', file.value)
  if (isCsv.value && table.value) form.append('table', table.value)
  form.append('remove_others', String(removeOthers.value))
  form.append('commit', String(commit))
  busy.value = true
  said.value = ''
  try {
    const address = `/api/catalogues/${props.catalogue.id}/import`
    const answer = await work.run(async (headers) =>
      answered(new Headers(headers), await fetch(address, { method: 'POST', body: form, headers })),
    )
    const data: unknown = await answer.json()
    if (data && typeof data === 'object' && 'tables' in data) preview.value = data as ImportOut
    else said.value = problemsOf(data)[0]?.message ?? ''
  } catch {
    said.value = 'the server did not answer'
  }
  busy.value = false
  if (preview.value?.committed) {
    emit('taken', preview.value.tables[0]?.table ?? 'contactors')
    visible.value = false
  }
}

function chosen(event: Event): void {
  file.value = (event.target as HTMLInputElement).files?.[0] ?? null
  preview.value = null
  table.value = null
  void send(false)
}

watch([table, removeOthers], () => void send(false))
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    :header="`Import into ${props.catalogue.name}`"
    :style="{ width: '70rem', maxWidth: '96vw' }"
    :draggable="false"
  >
    <div class="ask">
      <label>
        <span class="visually-hidden">File</span>
        <input type="file" accept=".csv,.xlsx" aria-label="File" @change="chosen" />
      </label>
      <label v-if="isCsv" class="which">
        <span id="import-table">Table</span>
        <Select
          v-model="table"
          :options="tables"
          option-label="title"
          option-value="table"
          placeholder="as its headings tell"
          show-clear
          aria-labelledby="import-table"
          size="small"
        />
      </label>
      <label>
        <input v-model="removeOthers" type="checkbox" />
        delete devices missing from the file
      </label>
    </div>
    <WorkBar :work="work" what="Import" />
    <p v-if="said" class="problem" role="alert">■ {{ said }}</p>
    <p v-if="!file" class="quiet">
      CSV with one table, or XLSX with a sheet for each. For contactors type, coil and AC-3 current
      at one voltage are enough, for overload relays type and setting range; what is missing is
      taken from a typical device and marked “typical”. Nothing is imported before you have seen
      what it does.
    </p>
    <template v-if="preview">
      <p class="verdict" :class="{ bad: !good }" role="status">
        <template v-if="good"
          >✓ Every row can be read.
          <template v-for="t in preview.tables" :key="t.table">
            {{ title(t.table) }}: <span class="figures">{{ t.added }}</span> new,
            <span class="figures">{{ t.changed }}</span> changed,
            <span class="figures">{{ t.same }}</span> as they are<template v-if="t.removed.length"
              >, <span class="figures">{{ t.removed.length }}</span> deleted</template
            >.
          </template>
        </template>
        <template v-else
          >■ <span class="figures">{{ count }}</span> {{ count === 1 ? 'problem' : 'problems' }}:
          nothing is imported until the file is corrected.</template
        >
      </p>
      <p v-for="r in preview.remarks.slice(0, 5)" :key="r" class="quiet">▲ {{ r }}</p>
      <div v-if="count" class="scroll problems" tabindex="0" role="region" aria-label="Problems">
        <table>
          <thead>
            <tr>
              <th>Table</th>
              <th>Column</th>
              <th class="num">Row</th>
              <th>Type</th>
              <th>Problem</th>
            </tr>
          </thead>
          <tbody v-for="g in grouped" :key="g.key">
            <tr v-for="(p, i) in g.problems" :key="i">
              <td>{{ i === 0 ? title(p.table) : '' }}</td>
              <td>{{ i === 0 ? heading(p.table, p.column) : '' }}</td>
              <td class="num figures">{{ p.row || '' }}</td>
              <td class="figures">{{ typeOf(p.table, p.row) }}</td>
              <td>{{ p.message }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="preview.more_problems" class="quiet">and {{ preview.more_problems }} more</p>
      </div>
      <div
        v-for="t in rows"
        :key="t.table"
        class="scroll"
        tabindex="0"
        role="region"
        :aria-label="`Rows of ${title(t.table)}`"
      >
        <table>
          <caption>
            {{
              title(t.table)
            }},
            <span class="figures">{{ t.read }}</span>
            rows
          </caption>
          <thead>
            <tr>
              <th class="num">Row</th>
              <th v-for="c in t.order" :key="c.column">{{ heading(t.table, c.column) }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in t.rows" :key="r.row" :class="{ badrow: r.wrong.length }">
              <td class="num figures">{{ r.row }}</td>
              <td
                v-for="c in t.order"
                :key="c.column"
                class="figures"
                :class="{ wrong: r.wrong.includes(c.column) }"
              >
                <span v-if="r.wrong.includes(c.column)" aria-hidden="true">■ </span
                >{{ r.cells[c.i] }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <div class="buttons">
      <Button label="Import" size="small" :disabled="!good || busy" @click="send(true)" />
      <Button label="Cancel" size="small" text @click="visible = false" />
    </div>
  </Dialog>
</template>

<style scoped>
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem 1.4rem;
  align-items: center;
}
input::file-selector-button {
  font: inherit;
  color: var(--accent);
  background: none;
  border: 1px solid var(--accent);
  border-radius: 3px;
  padding: 0.3rem 0.8rem;
  margin-right: 0.7rem;
  cursor: pointer;
}
.which {
  display: inline-flex;
  gap: 0.5rem;
  align-items: center;
}
.verdict {
  font-weight: 600;
  margin: 0.7rem 0 0.4rem;
}
.verdict.bad,
.problem {
  color: var(--stop);
}
.scroll {
  overflow: auto;
  max-height: 15rem;
  margin-bottom: 0.8rem;
  border: 1px solid var(--rule-strong);
}
table {
  border-collapse: collapse;
  font-size: 0.86rem;
  width: 100%;
}
caption {
  text-align: left;
  padding: 0.3rem 0.6rem;
  color: var(--quiet);
}
th {
  text-align: left;
  font-weight: 500;
  color: var(--quiet);
  font-size: 0.82rem;
  padding: 0.25rem 0.6rem;
  border-bottom: 1px solid var(--rule-strong);
  white-space: nowrap;
}
td {
  padding: 0.16rem 0.6rem;
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
}
.problems td:last-child {
  white-space: normal;
}
.num {
  text-align: right;
}
.wrong {
  color: var(--stop);
  font-weight: 600;
  box-shadow: inset 0 0 0 2px var(--stop);
}
.buttons {
  display: flex;
  gap: 0.6rem;
  margin-top: 0.6rem;
}
</style>
