<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Figure } from '@/api/client'
import { useStarter } from '@/stores/starter'

/** A walk through the figures that a figure came from. */
const starter = useStarter()
const trail = ref<string[]>([])
const full = ref(false)

watch(
  () => starter.workingId,
  () => {
    trail.value = []
    full.value = false
  },
)

const figures = computed(() => starter.figures)
const figure = computed<Figure | undefined>(
  () => figures.value[trail.value.at(-1) ?? starter.workingId ?? ''],
)
const inputs = computed(() =>
  (figure.value?.inputs ?? [])
    .map((id) => figures.value[id])
    .filter((f): f is Figure => f !== undefined),
)
const candidates = computed(() => {
  const all = figure.value?.candidates ?? []
  const at = all.findIndex((c) => c.taken)
  return all.length <= 9 ? all : all.slice(Math.max(0, at - 5), at + 4)
})

function follow(id: string): void {
  trail.value = [...trail.value, id]
  full.value = false
}

function back(): void {
  trail.value = trail.value.slice(0, -1)
}
</script>

<template>
  <aside v-if="figure" class="working" aria-label="Working" tabindex="-1">
    <header>
      <button v-if="trail.length" type="button" class="plain" @click="back">← back</button>
      <span v-else class="quiet">Working</span>
      <button type="button" class="plain" @click="starter.openWorking(null)">
        close <kbd>Esc</kbd>
      </button>
    </header>
    <h2>{{ figure.label }}</h2>
    <p class="result figures">
      <button
        type="button"
        class="value"
        :title="full ? 'Show it rounded' : 'Show the full value'"
        @click="full = !full"
      >
        <span v-if="figure.symbol" class="quiet">{{ figure.symbol }} = </span
        >{{ full ? figure.value : figure.text }}<span class="unit">{{ figure.unit }}</span>
      </button>
    </p>
    <p v-if="figure.typical" class="typical">▲ rests on a typical value, not on the plate</p>
    <dl v-if="figure.formula">
      <dt>Formula</dt>
      <dd class="figures">{{ figure.formula }}</dd>
      <dt v-if="figure.substituted && figure.substituted !== figure.text">Inputs</dt>
      <dd v-if="figure.substituted && figure.substituted !== figure.text" class="figures">
        {{ figure.substituted }}
      </dd>
    </dl>
    <template v-if="inputs.length">
      <h3>Came from</h3>
      <ul class="inputs">
        <li v-for="input in inputs" :key="input.id">
          <button type="button" class="plain input" @click="follow(input.id)">
            <span
              >{{ input.label
              }}<span v-if="input.symbol" class="quiet figures sym">{{ input.symbol }}</span></span
            >
            <span class="figures num"
              >{{ input.text }}<span class="unit">{{ input.unit }}</span></span
            >
          </button>
        </li>
      </ul>
    </template>
    <dl>
      <template v-if="figure.rule">
        <dt>Rule</dt>
        <dd>{{ figure.rule }}</dd>
      </template>
      <template v-if="figure.school">
        <dt>Practice</dt>
        <dd>{{ figure.school }}</dd>
      </template>
      <template v-if="figure.source">
        <dt>Source</dt>
        <dd>{{ figure.source }}</dd>
      </template>
    </dl>
    <p v-if="figure.note" class="note">{{ figure.note }}</p>
    <template v-if="candidates.length">
      <h3>
        Considered
        <span v-if="candidates.length < figure.candidates.length" class="quiet">
          ({{ candidates.length }} of {{ figure.candidates.length }}, around the one selected)
        </span>
      </h3>
      <ul class="candidates">
        <li
          v-for="c in candidates"
          :key="c.name"
          :class="{ taken: c.taken, out: !c.fits && !c.taken }"
        >
          <span class="figures name"
            ><span aria-hidden="true">{{ c.taken ? '●' : c.fits ? '○' : '×' }}</span>
            {{ c.name }}</span
          >
          <span class="reason">{{ c.reason }}</span>
        </li>
      </ul>
    </template>
  </aside>
</template>

<style scoped>
.working {
  padding: 0.7rem 1rem 1.5rem;
  overflow-y: auto;
}
header {
  display: flex;
  justify-content: space-between;
  margin-bottom: 0.6rem;
}
h2 {
  font-size: 1rem;
  font-weight: 650;
}
h3 {
  font-size: 0.86rem;
  font-weight: 650;
  margin: 0.9rem 0 0.2rem;
}
.plain {
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
  color: var(--accent);
}
.value {
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
  font-size: 1.7rem;
  text-align: left;
  overflow-wrap: anywhere;
}
.result {
  border-bottom: 1px solid var(--rule-strong);
  padding-bottom: 0.4rem;
}
.typical {
  color: var(--attention);
  font-size: 0.9rem;
  margin-top: 0.4rem;
}
dl {
  margin: 0.6rem 0 0;
  display: grid;
  grid-template-columns: 5.6rem minmax(0, 1fr);
  row-gap: 0.35rem;
}
dt {
  color: var(--quiet);
  font-size: 0.86rem;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.input {
  display: flex;
  justify-content: space-between;
  gap: 0.8rem;
  width: 100%;
  padding: 0.25rem 0;
  text-align: left;
  border-bottom: 1px solid var(--rule);
  color: var(--ink);
}
.input:hover {
  background: var(--accent-tint);
}
.sym {
  margin-left: 0.5em;
}
.num {
  white-space: nowrap;
  border-bottom: 1px dotted var(--accent);
}
.note {
  margin-top: 0.7rem;
  padding-left: 0.6rem;
  border-left: 2px solid var(--rule-strong);
  font-size: 0.93rem;
}
.candidates li {
  display: grid;
  grid-template-columns: 7.2rem minmax(0, 1fr);
  gap: 0.5rem;
  padding: 0.22rem 0;
  border-bottom: 1px solid var(--rule);
  font-size: 0.86rem;
}
.candidates .taken {
  font-weight: 650;
}
.candidates .out {
  color: var(--quiet);
}
</style>
