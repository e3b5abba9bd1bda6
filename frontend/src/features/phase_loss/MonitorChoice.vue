<script setup lang="ts">
import { computed } from 'vue'

import { useStarter } from '@/stores/starter'
import { useWording } from '@/stores/wording'
import { MONITORS } from '@/ui/words'

/** Which phase monitor is fitted; a change shows what it means at the panel. */
const starter = useStarter()
const wording = useWording()
type Monitor = 'none' | 'three_wire' | 'four_wire'
const fitted = computed<Monitor>(() => starter.document.control?.phase_monitor ?? 'none')
const offered = computed(() => {
  const allowed = starter.design?.offered['control.phase_monitor']
  return MONITORS.filter(
    (m) => !allowed || allowed.includes(String(m.value)) || m.value === fitted.value,
  )
})
const problem = computed(() => starter.problemAt.get('control.phase_monitor') ?? '')
</script>

<template>
  <div class="monitor" role="radiogroup" aria-labelledby="monitor-label">
    <span id="monitor-label">{{ wording.labelOf('control.phase_monitor') }}</span>
    <span class="choices">
      <label v-for="m in offered" :key="String(m.value)" :class="{ on: fitted === m.value }">
        <input
          :id="m.value === fitted ? 'field-control-phase_monitor' : undefined"
          type="radio"
          name="phase-monitor"
          class="visually-hidden"
          :checked="fitted === m.value"
          @change="starter.rewire('control.phase_monitor', m.value as Monitor)"
        />
        {{ m.label }}
      </label>
    </span>
    <span v-if="problem" class="problem" role="alert">■ {{ problem }}</span>
  </div>
</template>

<style scoped>
.monitor {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1rem;
  align-items: center;
  padding: 0.3rem 0;
}
.choices {
  display: flex;
}
label {
  border: 1px solid var(--rule-strong);
  padding: 0.25rem 0.9rem;
  background: var(--sheet);
  cursor: pointer;
}
label + label {
  border-left: 0;
}
label.on {
  background: var(--accent-tint);
  box-shadow: inset 0 -2px 0 var(--accent);
  font-weight: 650;
}
label:focus-within {
  outline: 2px solid var(--accent);
  outline-offset: 1px;
}
.problem {
  color: var(--stop);
  flex-basis: 100%;
}
@media (pointer: coarse) {
  label {
    min-height: 48px;
    display: flex;
    align-items: center;
  }
}
</style>
