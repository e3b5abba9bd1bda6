<script setup lang="ts">
import { computed, ref } from 'vue'

import { useJournal, type Refused } from '@/stores/journal'
import { useMe } from '@/stores/me'
import { useStarter } from '@/stores/starter'

/** Who writes, and whether what was written has arrived. Stands above everything that is kept in the record. */
const journal = useJournal()
const me = useMe()
const starter = useStarter()
const refused = computed(() => journal.refusedOf(starter.id))
/** Values typed anew for readings that were refused, by their keys. */
const corrected = ref<Record<string, string>>({})
function again(r: Refused): void {
  const typed = corrected.value[r.entry.key] ?? String(r.entry.body.value)
  const value = Number(typed.trim().replace(',', '.'))
  void journal.correct(r.entry.key, { ...r.entry.body, value: Number.isNaN(value) ? typed : value })
}
const WORDS: Record<string, string> = {
  wire: 'Wire',
  isolated: 'Isolation',
  check: 'Continuity reading',
  step: 'Step under voltage',
  reading: 'Reading',
  trip: 'Trip',
  change: 'Change',
  open: 'Open item',
  closed: 'Closing of an open item',
  inspection: 'Inspection',
  inspected: 'Inspection done',
  signature: 'Signature',
}
</script>

<template>
  <div class="who">
    <p v-if="me.workshop && journal.who">
      Recorded by <b>{{ journal.who }}</b>
    </p>
    <p v-else-if="me.workshop" class="warn">
      ○ Read only: the record is kept by people who work at the panel.
    </p>
    <label v-else>
      Recorded by
      <input
        :value="journal.who"
        aria-label="Recorded by"
        placeholder="your name"
        maxlength="80"
        @input="journal.setWho(($event.target as HTMLInputElement).value)"
      />
    </label>
    <p v-if="!me.workshop && !journal.who.trim()" class="warn">
      ▲ Enter your name before anything is saved.
    </p>
    <p class="sent" role="status" aria-label="Record">
      <template v-if="journal.unkept">
        ▲ This browser keeps nothing ({{ journal.unkept }}): leave the page open until all is saved.
      </template>
      <template v-else-if="journal.waiting && journal.offline">
        ▲ {{ journal.fault || 'The server does not answer.' }} {{ journal.waiting }} saved on this
        device, sent as soon as it is back.
      </template>
      <template v-else-if="journal.waiting">… sending {{ journal.waiting }}</template>
      <template v-else-if="refused.length">■ {{ refused.length }} not saved, see below</template>
      <template v-else>✓ All entries saved</template>
    </p>
    <ul v-if="refused.length" class="refused" role="alert">
      <li v-for="r in refused" :key="r.entry.key">
        <span>■ {{ WORDS[r.entry.kind] }} not saved: {{ r.problems[0]?.message }} </span>
        <form
          v-if="typeof r.entry.body.value === 'number'"
          class="again"
          @submit.prevent="again(r)"
        >
          <input
            name="value"
            :value="corrected[r.entry.key] ?? r.entry.body.value"
            inputmode="decimal"
            :aria-label="`Correct ${r.entry.body.item}`"
            @input="corrected[r.entry.key] = ($event.target as HTMLInputElement).value"
          />
          <button type="submit">Send again</button>
        </form>
        <button v-else type="button" @click="journal.correct(r.entry.key, r.entry.body)">
          Send again
        </button>
        <button type="button" @click="journal.dismiss(r.entry.key)">Dismiss</button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.who {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1.2rem;
  align-items: center;
  padding: 0.4rem 1rem;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--sheet);
}
input {
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  padding: 0.25rem 0.5rem;
  min-height: 2.2rem;
  width: 11rem;
}
.warn {
  color: var(--attention);
}
.sent {
  margin-left: auto;
  color: var(--quiet);
}
.refused {
  flex-basis: 100%;
  margin: 0;
  padding: 0;
  list-style: none;
  color: var(--stop);
}
.refused li {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1rem;
  align-items: center;
  justify-content: space-between;
  border-top: 1px solid var(--rule);
  padding: 0.3rem 0;
}
.why {
  flex: 1 1 15rem;
}
.again {
  display: flex;
  gap: 0.4rem;
  margin-left: auto;
}
.again input {
  width: 7rem;
  text-align: right;
  font-family: var(--figures);
}
.refused button {
  border: 1px solid currentColor;
  background: none;
  padding: 0.3rem 0.8rem;
  min-height: 2.2rem;
  cursor: pointer;
}
@media print {
  .who {
    display: none;
  }
}
</style>
