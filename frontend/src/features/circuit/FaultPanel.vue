<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, ref } from 'vue'

import type { CircuitView } from '@/api/client'
import { usePlayer } from '@/stores/player'

/** Break the circuit on purpose; the mistakes that this amounts to are named, with what a fitter would see. */
const props = defineProps<{ sheet: CircuitView }>()
const player = usePlayer()
const VERBS = [
  { verb: 'swap', label: 'Swap two wires', ends: 2 },
  { verb: 'remove', label: 'Remove a wire', ends: 2 },
  { verb: 'add', label: 'Add a wire', ends: 2 },
  { verb: 'exchange', label: 'NO and NC swapped', ends: 1 },
  { verb: 'weld', label: 'Welded contact or contactor', ends: 1 },
  { verb: 'break', label: 'Open circuit', ends: 1 },
  { verb: 'earth', label: 'Earth fault', ends: 1 },
]
const verb = ref('swap')
const a = ref('')
const b = ref('')
const two = computed(() => VERBS.find((v) => v.verb === verb.value)?.ends === 2)
const HINTS: Record<string, string> = {
  swap: 'F1:95',
  remove: 'K1:13',
  add: 'K2:21',
  exchange: 'F1:95-96',
  weld: 'K3:5-6',
  break: '6',
  earth: '6',
}
const terminals = computed(() => [...new Set(props.sheet.wires.flatMap((w) => [w.a, w.b]))])
async function put(): Promise<void> {
  const fault = [verb.value, a.value.trim(), two.value ? b.value.trim() : '']
    .filter(Boolean)
    .join(' ')
  await player.setFaults([...player.faults, fault])
  if (!player.refused) a.value = b.value = ''
}
</script>

<template>
  <form class="entry" @submit.prevent="put">
    <Select
      v-model="verb"
      :options="VERBS"
      option-label="label"
      option-value="verb"
      size="small"
      aria-label="What to do"
    />
    <InputText
      v-model="a"
      size="small"
      list="terminals"
      :placeholder="HINTS[verb]"
      aria-label="Terminal, contact or wire"
    />
    <InputText
      v-if="two"
      v-model="b"
      size="small"
      list="terminals"
      placeholder="F1:97"
      aria-label="Second terminal"
    />
    <Button type="submit" label="Insert" size="small" outlined :disabled="!a.trim()" />
    <datalist id="terminals"><option v-for="t in terminals" :key="t" :value="t" /></datalist>
  </form>
  <p v-if="player.refused" class="bad" role="alert">■ {{ player.refused }}</p>
  <ul v-if="player.faults.length" class="faults" aria-label="Faults inserted">
    <li v-for="(f, i) in player.faults" :key="f">
      <span class="figures">{{ f }}</span>
      <Button
        label="Clear"
        size="small"
        text
        :aria-label="`Clear ${f}`"
        @click="player.setFaults(player.faults.filter((_, k) => k !== i))"
      />
    </li>
  </ul>
  <p v-else class="quiet">
    The circuit is as designed. Terminals are written as <span class="figures">K1:13</span>,
    contacts as <span class="figures">K1:13-14</span>, wires by their number.
  </p>
  <div v-if="player.mistakes.length" role="status">
    <article v-for="m in player.mistakes" :key="m.what">
      <p>
        <b>▲ {{ m.what }}</b>
      </p>
      <p>You would see: {{ m.seen }}</p>
    </article>
  </div>
  <p v-else-if="player.faults.length && !player.refused" class="quiet">
    None of the usual mistakes: operate it, or look at the proofs.
  </p>
</template>

<style scoped>
.entry {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
.faults {
  list-style: none;
  padding: 0;
  margin: 0.4rem 0;
}
.faults li {
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
article {
  padding: 0.3rem 0;
  border-bottom: 1px solid var(--rule);
}
.bad {
  color: var(--stop);
}
</style>
