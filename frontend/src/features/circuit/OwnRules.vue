<script setup lang="ts">
import Button from 'primevue/button'
import { ref } from 'vue'

import { useStarter } from '@/stores/starter'

/** Rules of one's own: a usual pattern to begin with, then written as a sentence. */
const starter = useStarter()
const PATTERNS = [
  { text: 'K2 never without K1', words: 'one never without another' },
  { text: 'never K2 and K3', words: 'never two together' },
  { text: 'never K2 and K3 even for a moment', words: 'never together, even for a moment' },
  { text: 'after S1 nothing until S2', words: 'after stop nothing until start' },
  {
    text: 'P1 lit within 1 s of pressing S2',
    words: 'something within a time (tried with these times)',
  },
]
const text = ref('')
function add(): void {
  const rule = text.value.trim()
  if (!rule) return
  starter.setOwnRules([...(starter.document.own_rules ?? []), rule])
  text.value = ''
}
function begin(event: Event): void {
  const field = event.target as HTMLSelectElement
  if (field.value) text.value = field.value
  field.value = ''
}
</script>

<template>
  <form class="own" @submit.prevent="add">
    <label>
      Own rule
      <input
        v-model="text"
        aria-label="Own rule"
        placeholder="K2 never without K1"
        maxlength="160"
        spellcheck="false"
      />
    </label>
    <label>
      as
      <select aria-label="Usual patterns" @change="begin">
        <option value="">usual patterns …</option>
        <option v-for="p in PATTERNS" :key="p.text" :value="p.text">{{ p.words }}</option>
      </select>
    </label>
    <Button type="submit" label="Add and prove" size="small" outlined :disabled="!text.trim()" />
  </form>
</template>

<style scoped>
.own {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 0.8rem;
  align-items: center;
  margin: 0.6rem 0;
}
.own label {
  display: flex;
  gap: 0.5rem;
  align-items: center;
}
.own input {
  width: 24rem;
  max-width: 100%;
  font-family: var(--figures);
  font-size: 0.9rem;
}
.own input,
.own select {
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  color: var(--ink);
  padding: 0.2rem 0.5rem;
  min-height: 1.9rem;
}
</style>
