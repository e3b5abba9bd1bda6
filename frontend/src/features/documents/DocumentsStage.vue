<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref } from 'vue'

import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

/** The papers as they will be printed; the server writes them, here and in the PDF. */
const starter = useStarter()
const journal = useJournal()
const frame = ref<HTMLIFrameElement>()
const paper = ref<'sheet' | 'report' | 'labels'>('sheet')
const PAPERS = [
  { name: 'sheet', title: 'Settings sheet' },
  { name: 'report', title: 'Report' },
  { name: 'labels', title: 'Labels' },
] as const
const base = computed(() => `/api/starters/${starter.id}`)
const order = computed(() => (paper.value === 'report' ? `&order=${journal.order}` : ''))
const state = computed(() => encodeURIComponent(`${starter.saved} ${journal.arrived}`))
const page = computed(() => `${base.value}/${paper.value}.html?saved=${state.value}${order.value}`)
const ready = computed(() => starter.design !== null)
const title = computed(() => PAPERS.find((p) => p.name === paper.value)?.title ?? '')

function print(): void {
  frame.value?.contentWindow?.print()
}
</script>

<template>
  <div class="stage">
    <div class="bar">
      <span role="group" aria-label="Which paper" class="which">
        <button
          v-for="p in PAPERS"
          :key="p.name"
          type="button"
          :aria-pressed="paper === p.name"
          @click="paper = p.name"
        >
          {{ p.title }}
        </button>
      </span>
      <Button
        as="a"
        :href="`${base}/${paper}.pdf`"
        label="Save as PDF"
        size="small"
        download
        :disabled="!ready"
      />
      <Button label="Print" size="small" outlined :disabled="!ready" @click="print" />
      <span class="files">
        <a :href="`${base}/document.json`" download>starter document (JSON)</a>
        <a :href="`${base}/wires.csv?order=${journal.order}`" download>wire list</a>
        <a :href="`${base}/markers.csv`" download>wire markers</a>
        <a :href="`${base}/strip.csv`" download>terminal strip</a>
      </span>
      <p v-if="!starter.fresh" class="warn">▲ The papers show the last state that was saved.</p>
    </div>
    <iframe v-if="ready" ref="frame" :src="page" :title="title" class="sheet"></iframe>
    <p v-else class="quiet empty">
      There are no papers yet: something is missing. The findings say what.
    </p>
  </div>
</template>

<style scoped>
.stage {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 0.6rem;
  align-items: center;
  padding: 0.5rem 1rem;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.which button {
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  padding: 0.15rem 0.8rem;
  min-height: 2.1rem;
  cursor: pointer;
}
.which button[aria-pressed='true'] {
  background: var(--accent-tint);
  border-color: var(--accent);
  font-weight: 650;
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 0.9rem;
  margin-left: auto;
}
.sheet {
  flex: 1;
  width: min(100% - 2rem, 860px);
  margin: 1rem auto;
  border: 1px solid var(--rule-strong);
  background: #fff;
  min-height: 30rem;
}
.warn {
  color: var(--attention);
}
.empty {
  padding: 1.5rem 1rem;
}
</style>
