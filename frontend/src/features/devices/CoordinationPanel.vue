<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'

import type { Coordination } from '@/api/client'
import ChoiceField from '@/ui/ChoiceField.vue'
import FigureButton from '@/ui/FigureButton.vue'
import PlateField from '@/ui/PlateField.vue'
import { valueAt } from '@/stores/document'
import { useStarter } from '@/stores/starter'
import { COORDINATIONS, SEVERITY, UPSTREAM_DEVICES } from '@/ui/words'

/** What was tested of breaker, contactor and relay together, and the arithmetic beside it. */
const props = defineProps<{ coordination: Coordination }>()
const starter = useStarter()
type TestedSet = Coordination['nearest'][number]

const MARKS = {
  fine: SEVERITY.fine,
  attention: SEVERITY.attention,
  unknown: { mark: '?', word: 'Open' },
}
const NAMES: Record<string, string> = {
  crossover: 'Change-over',
  test_current: 'Test current r',
  cable: 'Cable in a short circuit',
  selectivity: 'Device upstream',
}
const upstream = computed(() => valueAt(starter.document, 'supply.upstream_device'))

function swaps(set: TestedSet): string {
  return set.swaps.map((s) => `${s.designation} ${s.type} for ${s.instead_of}`).join(', ')
}

/** Every changed device becomes the user's own choice, with the tested set as its reason: one step of undo. */
function take(set: TestedSet): void {
  const roles = new Set(set.swaps.map((s) => s.role))
  const before = starter.document.overrides ?? []
  const next = set.swaps.map((s) => ({
    ...before.find((o) => o.role === s.role),
    role: s.role,
    device_type: s.type,
    reason: `tested combination ${set.name}, type ${set.coordination_type}, ${set.iq_ka} kA`,
  }))
  const overrides = [...before.filter((o) => !roles.has(o.role)), ...next]
  starter.change({ ...starter.document, overrides }, null)
}
</script>

<template>
  <section class="coordination" aria-label="Coordination">
    <div>
      <h2 class="heading">Coordination: are they tested together?</h2>
      <p class="sentence" :class="{ proven: props.coordination.proven }">
        <span aria-hidden="true">{{ props.coordination.proven ? '✓' : '?' }}</span>
        {{ props.coordination.sentence }}
        <span v-if="props.coordination.report" class="quiet">{{ props.coordination.report }}</span>
      </p>
      <ChoiceField
        path="protection.coordination"
        :choices="COORDINATIONS"
        unset="no type asked for"
      />
      <template v-if="props.coordination.nearest.length">
        <h3>Nearest tested sets that fit this motor</h3>
        <ul class="sets">
          <li v-for="set in props.coordination.nearest" :key="set.name">
            <span>
              <b class="figures">{{ set.name }}</b> type {{ set.coordination_type }},
              <span class="figures">{{ set.iq_ka }}</span> kA
              <span class="quiet">{{ swaps(set) }}</span>
            </span>
            <Button
              type="button"
              label="Use this set"
              size="small"
              outlined
              :aria-label="`Use set ${set.name}`"
              @click="take(set)"
            />
          </li>
        </ul>
      </template>
    </div>
    <div>
      <h2 class="heading">Calculated checks</h2>
      <p class="quiet">None of this proves coordination; it shows where a set is likely to fail.</p>
      <dl class="checks">
        <template v-for="c in props.coordination.checks" :key="c.name">
          <dt>
            <span :class="c.state" aria-hidden="true">{{ MARKS[c.state]?.mark }}</span>
            {{ NAMES[c.name] }}
            <FigureButton v-if="c.figure" :id="c.figure" />
          </dt>
          <dd>
            <span class="visually-hidden">{{ MARKS[c.state]?.word }}:</span> {{ c.message }}
          </dd>
        </template>
      </dl>
      <details :open="upstream !== undefined">
        <summary>Upstream device</summary>
        <ChoiceField path="supply.upstream_device" :choices="UPSTREAM_DEVICES" unset="not known" />
        <PlateField path="supply.upstream_rated_current_a" />
        <PlateField
          v-if="upstream === 'moulded_case_breaker'"
          path="supply.upstream_instantaneous_trip_a"
        />
      </details>
    </div>
  </section>
</template>

<style scoped>
.coordination {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(22rem, 1fr));
  gap: 0.6rem 2rem;
  padding: 0.8rem 1rem;
  border-top: 1px solid var(--rule-strong);
}
.sentence {
  margin: 0.2rem 0 0.5rem;
  font-weight: 600;
}
.sentence.proven span:first-child {
  color: var(--fine);
}
.sentence .quiet {
  font-weight: 400;
}
h3 {
  font-size: 0.93rem;
  font-weight: 600;
  margin-top: 0.6rem;
}
.sets {
  list-style: none;
  padding: 0;
  margin: 0.2rem 0;
  border-top: 1px solid var(--rule);
}
.sets li {
  display: flex;
  gap: 0.8rem;
  justify-content: space-between;
  align-items: center;
  padding: 0.3rem 0;
  border-bottom: 1px solid var(--rule);
  font-size: 0.93rem;
}
.sets :deep(button) {
  flex: none;
}
.sets .quiet {
  display: block;
}
.checks {
  margin: 0.3rem 0;
}
.checks dt {
  font-weight: 600;
  font-size: 0.93rem;
  margin-top: 0.4rem;
}
.checks dd {
  margin: 0;
  font-size: 0.93rem;
}
.attention {
  color: var(--attention);
}
.fine {
  color: var(--fine);
}
</style>
