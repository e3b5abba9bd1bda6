<script setup lang="ts">
import { computed } from 'vue'

import { GROUPS, STAGES, groupOf, type StageName } from '@/app/stages'
import { useProgress } from '@/stores/progress'
import { SEVERITY } from '@/ui/words'

/** Five groups in the order of the trade, each with how far it is; the stages of the open one below. */
const props = defineProps<{ stage: StageName }>()
const emit = defineEmits<{ open: [stage: StageName] }>()
const progress = useProgress()
const group = computed(() => groupOf(props.stage))
const stages = computed(() => STAGES.filter((s) => s.group === group.value))

const first = (name: string): StageName => STAGES.find((s) => s.group === name)!.name
</script>

<template>
  <nav class="groups" aria-label="Groups">
    <button
      v-for="(g, i) in GROUPS"
      :key="g.name"
      type="button"
      :aria-current="group === g.name ? 'true' : undefined"
      :title="`${g.title}: ${progress.states[g.name].words}`"
      @click="emit('open', first(g.name))"
    >
      <kbd aria-hidden="true">{{ i + 1 }}</kbd>
      <span class="name">{{ g.title }}</span>
      <span class="how" :class="progress.states[g.name].verdict">
        <span aria-hidden="true"
          >{{ SEVERITY[progress.states[g.name].verdict]?.mark ?? ''
          }}<span class="figures">{{ progress.brief[g.name] }}</span></span
        >
        <span class="visually-hidden">{{ progress.states[g.name].words }}</span>
      </span>
    </button>
  </nav>
  <nav v-if="stages.length > 1" class="stages" aria-label="Stages">
    <button
      v-for="s in stages"
      :key="s.name"
      type="button"
      :aria-current="stage === s.name ? 'step' : undefined"
      @click="emit('open', s.name)"
    >
      {{ s.title }}
    </button>
  </nav>
</template>

<style scoped>
.groups {
  display: flex;
}
.groups button {
  display: flex;
  align-items: baseline;
  gap: 0.45rem;
  border: 0;
  border-bottom: 3px solid transparent;
  background: none;
  padding: 0.45rem 0.8rem 0.4rem;
  cursor: pointer;
  white-space: nowrap;
}
.groups button:hover,
.stages button:hover {
  background: var(--tint);
}
.groups [aria-current] {
  border-bottom-color: var(--accent);
}
.groups [aria-current] .name {
  font-weight: 650;
}
.how {
  font-size: 0.86rem;
  color: var(--quiet);
}
.how.stop {
  color: var(--stop);
}
.how.attention {
  color: var(--attention);
}
.how.fine {
  color: var(--fine);
}
.stages {
  order: 9;
  flex-basis: 100%;
  display: flex;
  border-top: 1px solid var(--rule);
}
.stages button {
  border: 0;
  background: none;
  padding: 0.25rem 0.8rem;
  cursor: pointer;
  color: var(--quiet);
}
.stages [aria-current] {
  color: var(--ink);
  font-weight: 650;
  box-shadow: inset 0 -2px 0 var(--ink);
}
@media (max-width: 62.5em) {
  .groups {
    order: 8;
    flex-basis: 100%;
    overflow: hidden;
  }
  .groups button {
    flex: 1;
    justify-content: center;
    padding-inline: 0.3rem;
  }
}
@media (max-width: 38.75em) {
  .groups kbd {
    display: none;
  }
  .groups button {
    flex-direction: column;
    align-items: center;
    gap: 0;
    min-height: 48px;
    justify-content: center;
    font-size: 0.9rem;
  }
  .how {
    font-size: 0.8rem;
    min-height: 1.1em;
  }
  .stages {
    flex-wrap: wrap;
  }
  .stages button {
    min-height: 48px;
    flex: 1 1 30%;
  }
}
</style>
