<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { answered, client } from '@/api/client'
import type { components } from '@/api/schema'
import { useAsked, wordsOf } from '@/stores/asked'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'
import { useWork } from '@/stores/work'
import { saveFile } from '@/ui/save'
import WorkBar from '@/ui/WorkBar.vue'

type Size = components['schemas']['DiagramsOut']['paper']
type Style = 'columns' | 'ladder'

/** The papers as they will be printed; the server writes them, here and in the PDF. */
const starter = useStarter()
const journal = useJournal()
const frame = ref<HTMLIFrameElement>()
const route = useRoute()
const paper = ref<'sheet' | 'diagrams' | 'report' | 'labels'>(
  route.query.paper === 'diagrams' ? 'diagrams' : 'sheet',
)
const PAPERS = [
  { name: 'sheet', title: 'Settings sheet' },
  { name: 'diagrams', title: 'Circuit diagrams' },
  { name: 'report', title: 'Report' },
  { name: 'labels', title: 'Labels' },
] as const
const STYLES = [
  { name: 'columns', title: 'IEC symbols, columns' },
  { name: 'ladder', title: 'North American symbols, ladder' },
] as const
/** What was chosen against the practice's own sheet size and symbols. */
const size = ref<Size | ''>('')
const style = ref<Style | ''>(
  route.query.style === 'ladder' || route.query.style === 'columns' ? route.query.style : '',
)
const drawnBy = ref(journal.who)
const drawn = computed(() => paper.value === 'diagrams')
const {
  data: set,
  said,
  ask,
} = useAsked(() =>
  starter.id === 0
    ? null
    : client.GET('/api/starters/{starter_id}/diagrams', {
        params: {
          path: { starter_id: starter.id },
          query: {
            ...(size.value && { paper: size.value as 'a3' }),
            ...(style.value && { style: style.value }),
          },
        },
      }),
)
const base = computed(() => `/api/starters/${starter.id}`)
const query = computed(() => {
  const asked = new URLSearchParams()
  if (paper.value === 'report') asked.set('order', journal.order)
  if (drawn.value) {
    if (size.value) asked.set('paper', size.value)
    if (style.value) asked.set('style', style.value)
    if (drawnBy.value.trim()) asked.set('drawn_by', drawnBy.value.trim())
  }
  return asked.toString()
})
const state = computed(() => encodeURIComponent(`${starter.saved} ${journal.arrived}`))
const page = computed(() => `${base.value}/${paper.value}.html?saved=${state.value}&${query.value}`)
const ready = computed(() => (drawn.value ? !said.value : starter.design !== null))
const title = computed(() => PAPERS.find((p) => p.name === paper.value)?.title ?? '')

watch(
  [drawn, size, style, () => starter.id, () => starter.saved],
  () => {
    if (drawn.value) void ask()
  },
  { immediate: true },
)

/** Laying out takes seconds: how far it is, and a way to cancel it. */
const work = useWork()
async function asked(headers: Record<string, string>): Promise<Response> {
  return answered(new Headers(headers), await fetch(pdf.value, { headers }))
}
const unsaved = ref('')
const pdf = computed(() => `${base.value}/${paper.value}.pdf?${query.value}`)
async function save(): Promise<void> {
  if (work.busy.value) return
  const name = `${starter.document.tag}-${paper.value}.pdf`
  unsaved.value = ''
  const answer = await work.run(asked).catch(() => null)
  if (answer?.ok) saveFile(name, await answer.blob())
  else unsaved.value = answer ? wordsOf(await answer.json()) : 'the server does not answer'
}

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
        :href="pdf"
        label="Save as PDF"
        size="small"
        download
        :disabled="!ready || work.busy.value"
        @click.prevent="save"
      />
      <Button label="Print" size="small" outlined :disabled="!ready" @click="print" />
      <a v-if="drawn && ready" :href="`${base}/diagrams.dxf?${query}`" download>DXF, all sheets</a>
      <span class="files">
        <a :href="`${base}/document.json`" download>starter document (JSON)</a>
        <a :href="`${base}/wires.csv?order=${journal.order}`" download>wire list</a>
        <a :href="`${base}/markers.csv`" download>wire markers</a>
        <a :href="`${base}/strip.csv`" download>terminal strip</a>
      </span>
      <p v-if="!starter.fresh" class="warn">▲ The documents show the last saved state.</p>
    </div>
    <WorkBar :work="work" :what="title" />
    <p v-if="unsaved" role="alert" class="bar stop">■ {{ title }}: {{ unsaved }}</p>
    <div v-if="drawn" class="bar options">
      <label>
        Sheet size
        <select v-model="size">
          <option value="">
            {{ starter.document.practice === 'nec' ? 'Tabloid' : 'A3' }} (usual)
          </option>
          <option v-for="p in set?.papers ?? []" :key="p.name" :value="p.name">
            {{ p.title }}
          </option>
        </select>
      </label>
      <label>
        Symbols
        <select v-model="style">
          <option value="">of the practice</option>
          <option v-for="s in STYLES" :key="s.name" :value="s.name">{{ s.title }}</option>
        </select>
      </label>
      <label>
        Drawn by
        <input v-model.lazy="drawnBy" maxlength="60" autocomplete="name" />
      </label>
      <span v-if="set && !said" class="contents">
        Each as SVG:
        <a
          v-for="s in set.sheets"
          :key="s.number"
          :href="`${base}/diagrams/${s.number}.svg?${query}`"
          :download="`${starter.document.tag} ${s.number} ${s.title}.svg`"
          >{{ s.number }} {{ s.title }}</a
        >
      </span>
      <p v-if="said" role="alert" class="stop">■ {{ said }}</p>
    </div>
    <iframe
      v-if="ready"
      ref="frame"
      :src="page"
      :title="title"
      class="sheet"
      :class="{ wide: drawn }"
    ></iframe>
    <p v-else class="quiet empty">No documents yet: something is missing. The findings say what.</p>
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
.sheet.wide {
  width: calc(100% - 2rem);
}
.contents {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 0.8rem;
}
.options label {
  display: flex;
  align-items: center;
  gap: 0.4rem;
}
.options select,
.options input {
  min-height: 2.1rem;
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  color: inherit;
  font: inherit;
  padding: 0 0.4rem;
}
.stop {
  color: var(--stop);
}
.warn {
  color: var(--attention);
}
.empty {
  padding: 1.5rem 1rem;
}
</style>
