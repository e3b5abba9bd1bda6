<script setup lang="ts">
import { computed } from 'vue'

import VerdictMark from '@/ui/VerdictMark.vue'
import { useStarter } from '@/stores/starter'

/** What a fitter should know, the gravest first; each line takes you to the field that mends it. */
const emit = defineEmits<{ mend: [field: string] }>()
const starter = useStarter()

const lines = computed(() => [
  ...starter.problems.map((p) => ({
    severity: p.missing ? 'info' : 'stop',
    message: p.message,
    field: p.field,
    rule: p.missing ? 'missing' : 'not accepted, and not saved',
    fix: '',
  })),
  ...(starter.fresh ? starter.findings : []),
])
const counts = computed(() =>
  ['stop', 'attention', 'info']
    .map((s) => ({ severity: s, n: lines.value.filter((l) => l.severity === s).length }))
    .filter((c) => c.n > 0),
)
</script>

<template>
  <section class="findings" aria-label="Findings">
    <h2>
      Findings
      <span v-for="c in counts" :key="c.severity" class="count">
        <VerdictMark :verdict="c.severity" wordless /><span class="figures">{{ c.n }}</span>
      </span>
      <span v-if="lines.length === 0" class="quiet none">none</span>
    </h2>
    <ul v-if="lines.length" tabindex="0" aria-label="List of findings">
      <li v-for="(line, i) in lines" :key="i">
        <button type="button" @click="emit('mend', line.field)">
          <VerdictMark :verdict="line.severity" class="mark" />
          <span>
            {{ line.message }}
            <span v-if="line.fix" class="quiet">{{ line.fix }}</span>
          </span>
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
  padding: 0.3rem 1rem 0.15rem;
  display: flex;
  gap: 1rem;
  align-items: baseline;
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
  max-height: 7.6rem;
  overflow-y: auto;
}
li button {
  display: grid;
  grid-template-columns: 6.4rem minmax(0, 1fr);
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
