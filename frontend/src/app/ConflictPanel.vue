<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { useStarter } from '@/stores/starter'
import { useWording } from '@/stores/wording'

/** Fields that were changed here and elsewhere: what each side says, and the choice between them. */
const starter = useStarter()
const wording = useWording()
const mine = ref(new Set<string>())
watch(
  () => starter.clashes,
  () => (mine.value = new Set()),
)

function shown(value: unknown): string {
  if (value === undefined || value === null) return 'empty'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return typeof value === 'object' ? JSON.stringify(value) : String(value)
}
function take(path: string, own: boolean): void {
  const next = new Set(mine.value)
  if (own) next.add(path)
  else next.delete(path)
  mine.value = next
}
const joined = computed(() => starter.joined.map((p) => wording.labelOf(p)).join(', '))
</script>

<template>
  <section v-if="starter.clashes.length" class="clash" role="alert" aria-label="Changed elsewhere">
    <h2>Changed elsewhere meanwhile: nothing is saved until you choose</h2>
    <p v-if="joined" class="quiet">Joined without a clash: {{ joined }}.</p>
    <table>
      <thead>
        <tr>
          <th scope="col">Field</th>
          <th scope="col">Saved there</th>
          <th scope="col">Typed here</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in starter.clashes" :key="c.path">
          <th scope="row">{{ wording.labelOf(c.path) }}</th>
          <td v-for="own in [false, true]" :key="String(own)">
            <label>
              <input
                type="radio"
                :name="c.path"
                :checked="mine.has(c.path) === own"
                @change="take(c.path, own)"
              />
              <b class="figures">{{ shown(own ? c.mine : c.theirs) }}</b>
            </label>
          </td>
        </tr>
      </tbody>
    </table>
    <button type="button" class="do" @click="starter.choose(mine)">Save these</button>
  </section>
</template>

<style scoped>
.clash {
  border-top: 3px solid var(--stop);
  background: var(--sheet);
  padding: 0.6rem 1rem 0.8rem;
}
h2 {
  font-size: 1.05rem;
  margin: 0 0 0.3rem;
}
table {
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  padding: 0.25rem 1.4rem 0.25rem 0;
  border-bottom: 1px solid var(--rule);
  font-weight: inherit;
}
thead th {
  color: var(--quiet);
  font-size: 0.86rem;
}
label {
  display: inline-flex;
  gap: 0.4rem;
  align-items: baseline;
  min-height: 2rem;
  overflow-wrap: anywhere;
}
.do {
  margin-top: 0.6rem;
  min-height: 2.4rem;
  padding: 0.2rem 1rem;
  border: 1px solid var(--accent);
  background: var(--accent);
  color: var(--sheet);
  font-weight: 650;
  cursor: pointer;
}
</style>
