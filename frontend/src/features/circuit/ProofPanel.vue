<script setup lang="ts">
import Button from 'primevue/button'
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'

import { client, type Failure, type Proof, type ProofsOut } from '@/api/client'
import { useAsked } from '@/stores/asked'
import { useJournal } from '@/stores/journal'
import { usePlayer } from '@/stores/player'
import { useStarter } from '@/stores/starter'
import { useStreamed } from '@/stores/streamed'
import { useWork } from '@/stores/work'
import WhoBar from '@/features/build/WhoBar.vue'
import OwnRules from '@/features/circuit/OwnRules.vue'
import WorkBar from '@/ui/WorkBar.vue'

/** The rules over every state, and what each single fault does; fetched when somebody looks. */
const props = defineProps<{ what: 'proofs' | 'failures' }>()
const emit = defineEmits<{ replay: [] }>()
const starter = useStarter()
const player = usePlayer()
const journal = useJournal()
const params = computed(() => ({ path: { starter_id: starter.id } }))
const proofs = shallowRef<Proof[]>([])
const stories = shallowRef<ProofsOut['stories']>({})
/** Rules that are not decided yet. */
const waiting = ref(new Set<string>())
const proved = useStreamed<ProofsOut>((line, first) => {
  if (first) {
    proofs.value = line.proofs
    stories.value = {}
    waiting.value = new Set(line.proofs.map((p) => p.rule))
    return
  }
  for (const p of line.proofs) {
    waiting.value.delete(p.rule)
    proofs.value = proofs.value.map((q) => (q.rule === p.rule ? p : q))
  }
  stories.value = { ...stories.value, ...line.stories }
})
function prove(): void {
  const faults = player.faults.map((f) => `fault=${encodeURIComponent(f)}`).join('&')
  void proved.ask(`/api/starters/${starter.id}/circuit/proofs${faults && `?${faults}`}`)
}
onBeforeUnmount(proved.stop)
const work = useWork()
const failed = useAsked(() =>
  work.run((headers) =>
    client.GET('/api/starters/{starter_id}/circuit/failures', { params: params.value, headers }),
  ),
)
const failures = computed(() => failed.data.value?.failures ?? [])
const said = computed(() => (props.what === 'failures' ? failed : proved).said.value)
watch(
  () => [starter.id, starter.saved, player.faults, props.what],
  () => {
    if (props.what === 'proofs') return prove()
    void failed.ask()
    void readRecord()
  },
  { immediate: true },
)

/** Rules by their short names. */
function listed(rules: string[]): string {
  return rules.map((r) => r.replaceAll('_', ' ')).join(', ')
}
function verdict(p: Proof): { words: string; look: string } {
  if (waiting.value.has(p.rule))
    return proved.busy.value
      ? { words: '… deciding', look: 'quiet' }
      : { words: '? not decided', look: 'attention' }
  if (p.holds === true) return { words: '✓ holds', look: 'fine' }
  if (p.holds !== false) return { words: '? not decided', look: 'attention' }
  return p.declared
    ? { words: '▲ declared', look: 'attention' }
    : { words: '■ broken', look: 'bad' }
}
/** Which of one's own rules it is, -1 for a shipped one. */
function ownOf(p: Proof): number {
  return p.rule.startsWith('own_rule_') ? Number(p.rule.slice(9)) - 1 : -1
}
function remove(n: number): void {
  starter.setOwnRules((starter.document.own_rules ?? []).filter((_, i) => i !== n))
}
async function show(p: Proof): Promise<void> {
  await player.replay(stories.value[p.rule] ?? [])
  emit('replay')
}
/** Tests of the record that come again. */
const recorded = ref(new Set<string>())
async function readRecord(): Promise<void> {
  const { data } = await client
    .GET('/api/starters/{starter_id}/record', { params: params.value })
    .catch(() => ({ data: undefined }))
  recorded.value = new Set((data?.sheet.inspections ?? []).map((x) => x.title))
}
/** A test once a year, for the first time in a year. */
function yearly(f: Failure): void {
  const first = new Date()
  first.setFullYear(first.getFullYear() + 1)
  const due = first.toISOString().slice(0, 10)
  journal.add(starter.id, 'inspection', { title: f.test, every_months: 12, first_due: due })
  recorded.value = new Set([...recorded.value, f.test])
}
async function inject(f: Failure): Promise<void> {
  await player.setFaults([f.fault])
  emit('replay')
}
</script>

<template>
  <p v-if="said" class="bad">■ {{ said }}</p>
  <template v-else-if="what === 'proofs'">
    <p v-if="player.faults.length" class="quiet">
      With {{ player.faults.join(', ') }}. A single story is replayed with these faults in.
    </p>
    <p v-if="proved.busy.value && waiting.size" class="quiet" role="status">
      {{ proofs.length - waiting.size }} of {{ proofs.length }} rules decided
      <button type="button" class="link" @click="proved.stop()">Cancel</button>
    </p>
    <table>
      <tbody>
        <tr v-for="p in proofs" :key="p.rule">
          <td :class="verdict(p).look">{{ verdict(p).words }}</td>
          <td>
            {{ $say(p.words) }}
            <span v-if="p.holds !== true && !waiting.has(p.rule)"
              ><b>{{ $say(p.why) }}</b>
              <span v-if="p.holds === false" class="figures story">{{
                (p.shortest ?? []).join('; ') || 'at rest'
              }}</span></span
            >
            <span v-else class="quiet how">{{ $say(p.how) }}</span>
          </td>
          <td>
            <Button
              v-if="p.holds === false && p.shortest?.length"
              label="Replay"
              size="small"
              outlined
              :aria-label="`Replay ${p.rule}`"
              @click="show(p)"
            />
            <Button
              v-if="ownOf(p) >= 0"
              label="Remove"
              size="small"
              text
              :aria-label="`Remove ${p.words}`"
              @click="remove(ownOf(p))"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <OwnRules />
    <p class="quiet">
      Proved over every state that inputs and all orders of pull-in and drop-out can lead to. A
      proof says which rule was met; it does not replace the check at the panel.
      <a
        v-if="!player.faults.length"
        :href="`/api/starters/${starter.id}/circuit/certificate.json`"
        download
        >Certificate</a
      >: the proof as a file that <code>volmek verify</code> checks by itself.
    </p>
  </template>
  <template v-else>
    <WhoBar />
    <WorkBar :work="work" what="Single failures" />
    <table>
      <thead>
        <tr>
          <th>Fault</th>
          <th>What happens</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in failures" :key="f.fault">
          <td class="figures">{{ f.fault }}</td>
          <td>
            <b v-if="f.dangerous" class="bad">■ </b><span v-else-if="f.hidden">○ </span
            ><span v-else>▲ </span>{{ $say(f.effect) }}
            <span class="quiet how">
              <template v-if="f.breaks.length">breaks: {{ listed(f.breaks) }} · </template>
              <template v-if="f.undecided.length"
                >not decided: {{ listed(f.undecided) }} · </template
              >found {{ $say(f.found) }}
            </span>
            <span v-if="f.measure" class="quiet how">Usual: {{ $say(f.measure) }}</span>
            <span v-if="f.test" class="quiet how"
              >Once a year: {{ $say(f.test) }}
              <span v-if="recorded.has(f.test)">· ✓ in the record</span>
              <button
                v-else
                type="button"
                class="link"
                :disabled="!journal.who.trim()"
                :title="journal.who.trim() ? '' : 'Enter your name under Recorded by first'"
                @click="yearly(f)"
              >
                into the record
              </button></span
            >
          </td>
          <td>
            <Button
              label="Insert"
              size="small"
              text
              :aria-label="`Insert ${f.fault}`"
              @click="inject(f)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <p class="quiet">
      ■ somebody can be hurt or something burns; ▲ it shows itself; ○ hidden until a second fault:
      the test plan looks for it, dead, by continuity. Every fault is operated through a whole run,
      and the rules are proved again with it in. Listed are welded contactors and contacts, broken
      control wires and earth faults; single welded poles, two faults at once and wrong settings are
      not.
    </p>
  </template>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 0.93rem;
}
td,
th {
  padding: 0.22rem 0.8rem 0.22rem 0;
  border-bottom: 1px solid var(--rule);
  text-align: left;
  vertical-align: baseline;
  font-weight: 400;
}
td:first-child {
  white-space: nowrap;
}
b {
  font-weight: 650;
}
.story,
.how {
  display: block;
  font-size: 0.86rem;
}
.fine {
  color: var(--fine);
  font-weight: 650;
}
.bad {
  color: var(--stop);
  font-weight: 650;
}
</style>
