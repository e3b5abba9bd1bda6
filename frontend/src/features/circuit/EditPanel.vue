<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'

import type { CircuitEdit, CircuitView } from '@/api/client'
import { useStarter } from '@/stores/starter'

/** The control circuit line by line in the notation: changed, left out or added to, as it is found in a panel. */
const props = defineProps<{ sheet: CircuitView | null }>()
const starter = useStarter()
const edits = computed<CircuitEdit[]>(() => starter.document.circuit_edits ?? [])
const lines = computed(() => (props.sheet?.written ?? []).filter((w) => w.line).map((w) => w.line))
/** Edits whose line is not generated any more stand here too, so that they can be taken back. */
const shown = computed(() => [
  ...new Set([...lines.value, ...edits.value.map((e) => e.line ?? '').filter(Boolean)]),
])
const added = computed(() => edits.value.filter((e) => !e.line))
const changed = computed(() => edits.value.length)

function of(line: string): CircuitEdit | undefined {
  return edits.value.find((e) => e.line === line)
}
function refusedAt(edit: CircuitEdit | undefined): string {
  const k = edit ? edits.value.indexOf(edit) : -1
  if (k < 0) return ''
  const at = `circuit_edits.${k}.`
  return [...starter.problems, ...starter.findings]
    .filter((p) => p.field.startsWith(at))
    .map((p) => p.message)
    .join('; ')
}
function keep(next: CircuitEdit[]): void {
  starter.setCircuitEdits(next)
}
/** A line typed as it was generated is no change. */
function write(line: string, now: string): void {
  const text = now.trim()
  const others = edits.value.filter((e) => e.line !== line)
  keep(text === line ? others : [...others, { line, now: text }])
}
function takeBack(line: string): void {
  keep(edits.value.filter((e) => e.line !== line))
}
function rewrite(edit: CircuitEdit, now: string): void {
  const text = now.trim()
  keep(edits.value.flatMap((e) => (e === edit ? (text ? [{ ...e, now: text }] : []) : [e])))
}
function add(event: Event): void {
  const field = event.target as HTMLInputElement
  if (!field.value.trim()) return
  keep([...edits.value, { now: field.value.trim() }])
  field.value = ''
}
function value(event: Event): string {
  return (event.target as HTMLInputElement).value
}
</script>

<template>
  <div class="edit">
    <p class="quiet">
      The control circuit in the notation: <code>&gt;</code> is series, <code>( | )</code> side by
      side, <code>S2:3-4</code> a contact, <code>K1:A1</code> a coil, a small word a node. What you
      write is drawn, wired, simulated and proved in place of the generated line.
    </p>
    <p v-if="changed" class="warn" role="status">
      ▲ {{ changed }} {{ changed === 1 ? 'line differs' : 'lines differ' }} from the generated
      scheme.
      <Button label="All as generated" size="small" outlined @click="keep([])" />
    </p>
    <ol>
      <li v-for="line in shown" :key="line" :class="{ changed: of(line) }">
        <div class="row">
          <input
            :value="of(line) ? of(line)?.now : line"
            :aria-label="`Line ${line}`"
            :aria-invalid="!!refusedAt(of(line))"
            placeholder="left out"
            spellcheck="false"
            @change="write(line, value($event))"
          />
          <button v-if="of(line)" type="button" @click="takeBack(line)">As generated</button>
          <button v-else type="button" :aria-label="`Leave out ${line}`" @click="write(line, '')">
            Leave out
          </button>
        </div>
        <p v-if="of(line)" class="quiet was">generated: {{ line }}</p>
        <p v-if="refusedAt(of(line))" class="bad">■ {{ refusedAt(of(line)) }}</p>
      </li>
      <li v-for="(edit, i) in added" :key="`added-${i}`" class="changed">
        <div class="row">
          <input
            :value="edit.now"
            :aria-label="`Added line ${i + 1}`"
            :aria-invalid="!!refusedAt(edit)"
            spellcheck="false"
            @change="rewrite(edit, value($event))"
          />
          <button type="button" @click="rewrite(edit, '')">Take away</button>
        </div>
        <p class="quiet was">added</p>
        <p v-if="refusedAt(edit)" class="bad">■ {{ refusedAt(edit) }}</p>
      </li>
      <li>
        <div class="row">
          <input
            aria-label="Another line"
            placeholder="another line, as bus > K1:33-34 > r"
            spellcheck="false"
            @change="add"
          />
        </div>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.edit {
  max-width: 60rem;
}
ol {
  list-style: none;
  margin: 0.5rem 0;
  padding: 0;
  display: grid;
  gap: 0.3rem;
}
.row {
  display: flex;
  gap: 0.5rem;
}
.row input {
  flex: 1;
  min-width: 0;
  font-family: var(--figures);
  font-size: 0.9rem;
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.2rem 0.5rem;
}
.row button {
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.1rem 0.6rem;
  min-width: 8rem;
  cursor: pointer;
}
.changed {
  border-left: 3px solid var(--accent);
  padding-left: 0.6rem;
}
.was {
  font-size: 0.84rem;
  font-family: var(--figures);
}
[aria-invalid='true'] {
  border-color: var(--bad);
}
</style>
