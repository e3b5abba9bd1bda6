<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'

import VerdictMark from '@/ui/VerdictMark.vue'
import { STAGES, stageOf } from '@/app/stages'
import { useStarter } from '@/stores/starter'

/** What a fitter should know, the gravest first: a bar with the counts, opened by one click; each line leads to the field that mends it. */
const emit = defineEmits<{ mend: [field: string] }>()
const starter = useStarter()

const lines = computed(() => [
  ...starter.problems.map((p) => ({
    severity: p.missing ? 'info' : 'stop',
    message: p.message,
    field: p.field,
    fix: p.missing ? '' : 'Not saved.',
  })),
  ...(starter.fresh ? starter.findings : []),
])
const counts = computed(() =>
  ['stop', 'attention', 'info']
    .map((s) => ({ severity: s, n: lines.value.filter((l) => l.severity === s).length }))
    .filter((c) => c.n > 0),
)
const OPEN = 'volmek.findings'
const open = ref(localStorage.getItem(OPEN) === 'open')
const bar = ref<HTMLElement>()
const list = ref<HTMLElement>()
function turn(): void {
  open.value = !open.value
  localStorage.setItem(OPEN, open.value ? 'open' : 'closed')
}
/** Open them and go to the first. */
async function show(): Promise<void> {
  if (!open.value) turn()
  await nextTick()
  ;(list.value?.querySelector('button') ?? bar.value)?.focus()
}
const titleOf = (field: string) => STAGES.find((s) => s.name === stageOf(field))?.title ?? ''
defineExpose({ show })
</script>

<template>
  <section class="findings" aria-label="Findings">
    <h2>
      <button ref="bar" type="button" class="bar" :aria-expanded="open" @click="turn">
        <span>Findings</span>
        <span v-for="c in counts" :key="c.severity" class="count">
          <VerdictMark :verdict="c.severity" wordless /><span class="figures">{{ c.n }}</span>
        </span>
        <span v-if="lines.length === 0" class="quiet none">none</span>
        <span v-else-if="!open" class="worst">{{ lines[0]?.message }}</span>
        <span class="turn" aria-hidden="true">{{ open ? '▾' : '▴' }}</span>
      </button>
    </h2>
    <ul v-if="open && lines.length" ref="list" tabindex="0" aria-label="List of findings">
      <li v-for="(line, i) in lines" :key="i">
        <button type="button" @click="emit('mend', line.field)">
          <VerdictMark :verdict="line.severity" class="mark" />
          <span>
            {{ line.message }}
            <span v-if="line.fix" class="quiet">{{ line.fix }}</span>
          </span>
          <span class="where">→ {{ titleOf(line.field) }}</span>
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.findings {
  border-top: 2px solid var(--ink);
  background: var(--sheet);
}
h2 {
  font-size: 0.93rem;
  font-weight: 650;
}
.bar {
  display: flex;
  gap: 1rem;
  align-items: baseline;
  width: 100%;
  border: 0;
  background: none;
  padding: 0.35rem 1rem;
  text-align: left;
  cursor: pointer;
  font-weight: inherit;
}
.bar:hover {
  background: var(--tint);
}
.bar:focus-visible {
  outline-offset: -2px;
}
.worst {
  flex: 1;
  min-width: 0;
  font-weight: 400;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.turn {
  margin-left: auto;
}
.where {
  color: var(--accent);
  white-space: nowrap;
}
.count {
  display: inline-flex;
  gap: 0.3rem;
  font-weight: 500;
}
.none {
  font-weight: 400;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0 0 0.3rem;
  max-height: min(14rem, 34vh);
  overflow-y: auto;
}
li button {
  display: grid;
  grid-template-columns: 6.4rem minmax(0, 1fr) max-content;
  gap: 0.5rem;
  width: 100%;
  padding: 0.22rem 1rem;
  border: 0;
  background: none;
  text-align: left;
  cursor: pointer;
}
li button:hover {
  background: var(--accent-tint);
}
li button:focus-visible {
  outline-offset: -2px;
}
.mark {
  font-size: 0.9rem;
}
</style>
