<script setup lang="ts">
import { computed, ref } from 'vue'

import type { WireRow } from '@/api/client'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

/** Conductors to be laid, each with a target big enough for a glove. */
const props = defineProps<{ wires: WireRow[]; next: string; picked: string }>()
const emit = defineEmits<{ pick: [wire: WireRow] }>()
const journal = useJournal()
const starter = useStarter()

const MEASURED = [
  { name: 'length_mm', words: 'Length of', unit: 'mm' },
  { name: 'torque_nm', words: 'Torque at', unit: 'Nm' },
] as const
const able = computed(() => journal.who.trim() !== '')
/** What was just ticked counts before the server has said so. */
const onTheWay = computed(
  () => new Map(journal.pending(starter.id, 'wire').map((e) => [e.body.wire as string, e.body])),
)
const rows = computed(() =>
  props.wires.map((w) => {
    const mine = onTheWay.value.get(w.item.key)
    return {
      ...w,
      done: mine ? Boolean(mine.done) : w.done,
      length_mm: (mine?.length_mm as number | undefined) ?? w.length_mm,
      torque_nm: (mine?.torque_nm as number | undefined) ?? w.torque_nm,
      waits: mine !== undefined,
    }
  }),
)

function note(w: WireRow, more: Record<string, unknown>): void {
  const body: Record<string, unknown> = {
    wire: w.item.key,
    done: w.done,
    ...(w.length_mm != null && { length_mm: w.length_mm }),
    ...(w.torque_nm != null && { torque_nm: w.torque_nm }),
    ...more,
  }
  journal.add(starter.id, 'wire', body)
}
/** What is being typed stays in its field, also when the list arrives anew meanwhile. */
const typed = ref<Record<string, string>>({})
function measured(w: WireRow, field: 'length_mm' | 'torque_nm'): void {
  const place = `${w.item.key} ${field}`
  const text = (typed.value[place] ?? '').trim().replace(',', '.')
  typed.value = Object.fromEntries(Object.entries(typed.value).filter(([k]) => k !== place))
  if (text === '' || Number(text) === w[field]) return
  note(w, { [field]: Number.isNaN(Number(text)) ? text : Number(text) })
}
</script>

<template>
  <table class="wires">
    <thead>
      <tr>
        <th><span class="visually-hidden">Connected</span></th>
        <th>Wire</th>
        <th>From</th>
        <th>To</th>
        <th>Conductor</th>
        <th class="sleeves">Ferrules, markers</th>
        <th v-for="f in MEASURED" :key="f.name" class="num">{{ f.unit }}</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="w in rows"
        :key="w.item.key"
        :class="{ done: w.done, next: w.item.key === next, picked: w.item.key === picked }"
        @click="emit('pick', w)"
      >
        <td>
          <button
            type="button"
            class="tick"
            :aria-pressed="w.done"
            :aria-label="`Wire ${w.item.number} from ${w.item.a} to ${w.item.b} connected`"
            :disabled="!able"
            @click.stop="note(w, { done: !w.done })"
          >
            {{ w.waits ? '…' : w.done ? '✓' : '' }}
          </button>
        </td>
        <td class="figures number">{{ w.item.number }}</td>
        <td class="figures">{{ w.item.a }}</td>
        <td class="figures">{{ w.item.b }}</td>
        <td>
          <span
            class="swatch"
            :class="`s-${w.item.colour.replace(' ', '-')}`"
            aria-hidden="true"
          />{{ w.item.colour }}, {{ w.item.section || 'section open' }}
          <span class="quiet">{{ w.item.group }}</span>
        </td>
        <td class="sleeves quiet">{{ w.item.sleeves.filter(Boolean).join(' / ') }}</td>
        <td v-for="f in MEASURED" :key="f.name" class="num" :data-unit="f.unit">
          <input
            v-if="w.item.kind === 'wire' || (f.name === 'torque_nm' && w.item.kind !== 'bridge')"
            inputmode="decimal"
            :value="typed[`${w.item.key} ${f.name}`] ?? w[f.name] ?? ''"
            :aria-label="`${f.words} wire ${w.item.number} from ${w.item.a} in ${f.unit}`"
            :disabled="!able"
            @input="typed[`${w.item.key} ${f.name}`] = ($event.target as HTMLInputElement).value"
            @change="measured(w, f.name)"
            @click.stop
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.wires {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 650;
  font-size: 0.86rem;
  border-bottom: 1px solid var(--rule-strong);
  padding: 0.15rem 0.4rem;
}
td {
  border-bottom: 1px solid var(--rule);
  padding: 0.15rem 0.4rem;
}
tr.done td {
  color: var(--quiet);
}
tr.next td {
  background: var(--accent-tint);
}
tr.picked td:first-child {
  box-shadow: inset 4px 0 0 var(--accent);
}
.number {
  font-weight: 650;
}
.num {
  text-align: right;
}
.tick {
  width: 2.7rem;
  height: 2.5rem;
  border: 1.5px solid var(--ink);
  background: var(--paper);
  font-size: 1.25rem;
  cursor: pointer;
}
.tick[aria-pressed='true'] {
  background: var(--tint);
}
.tick:disabled {
  border-color: var(--rule-strong);
  cursor: not-allowed;
}
input {
  width: 3.9rem;
  min-height: 2.2rem;
  text-align: right;
  font-family: var(--figures);
  border: 1px solid var(--rule);
  background: var(--paper);
  padding: 0 0.3rem;
}
.swatch {
  display: inline-block;
  width: 0.9rem;
  height: 0.55rem;
  margin-right: 0.4rem;
  border: 1px solid var(--ink);
  background: var(--sheet);
}
.s-red {
  background: var(--wire-red);
}
.s-brown {
  background: var(--wire-brown);
}
.s-black {
  background: #111;
}
.s-grey {
  background: var(--wire-grey);
}
.s-blue,
.s-dark-blue {
  background: var(--wire-blue);
}
.s-yellow {
  background: var(--wire-yellow);
}
.s-orange {
  background: #e07a1f;
}
.s-green-yellow {
  background: repeating-linear-gradient(45deg, #2c7a2e 0 4px, #e5c91a 4px 8px);
}
.s-green {
  background: #2c7a2e;
}
/* one wire a card: tick, ends, conductor, and below what is measured */
@media (max-width: 40em) {
  thead {
    display: none;
  }
  .wires,
  tbody {
    display: block;
  }
  tr {
    display: grid;
    grid-template-columns: 3.6rem 3rem minmax(0, 1fr) minmax(0, 1fr);
    align-items: center;
    border: 1px solid var(--rule-strong);
    background: var(--paper);
    margin-bottom: 0.5rem;
    padding: 0.3rem;
  }
  td {
    border: 0;
  }
  td:first-child {
    grid-row: 1 / span 2;
  }
  td:nth-child(5) {
    grid-column: 2 / -1;
  }
  td.sleeves,
  td.num:empty {
    display: none;
  }
  td.num {
    grid-column: span 2;
    text-align: left;
  }
  td.num::after {
    content: ' ' attr(data-unit);
  }
  .tick {
    width: 48px;
    height: 48px;
  }
  input {
    min-height: 48px;
    width: 4.4rem;
  }
}
@media (max-width: 73.75em) {
  .sleeves {
    display: none;
  }
}
</style>
