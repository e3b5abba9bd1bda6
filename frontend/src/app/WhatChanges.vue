<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { computed, ref, watch } from 'vue'

import { client, type ChangeView, type StarterDocument } from '@/api/client'
import CircuitDrawing from '@/features/circuit/CircuitDrawing.vue'
import DifferenceList from '@/features/circuit/DifferenceList.vue'
import { wordsOf } from '@/stores/asked'
import { useStarter } from '@/stores/starter'

/** After a method was changed or a monitor added: what that means at the panel, and the way back. */
const starter = useStarter()
const change = ref<ChangeView | null>(null)
const said = ref('')
const which = ref<'control' | 'power'>('control')
const drawing = computed(() =>
  which.value === 'control' && change.value?.circuit.control
    ? change.value.circuit.control
    : change.value?.circuit.power,
)

watch(
  () => [starter.explained, starter.saved, starter.state] as const,
  async ([before, , state]) => {
    if (!before || state !== 'saved') return
    const { data, error } = await client.POST('/api/starters/{starter_id}/circuit/change', {
      params: { path: { starter_id: starter.id } },
      body: { before: before as StarterDocument },
    })
    change.value = data?.change ?? null
    said.value = data ? '' : wordsOf(error)
  },
)
function close(): void {
  starter.explained = null
  change.value = null
  said.value = ''
}
function back(): void {
  starter.undo()
  close()
}
</script>

<template>
  <Dialog
    :visible="starter.explained !== null"
    modal
    header="What changes"
    :style="{ width: 'min(72rem, 96vw)' }"
    dismissable-mask
    @update:visible="close"
  >
    <p v-if="said" class="quiet">{{ said }}</p>
    <p v-else-if="!change" class="quiet">… comparing the circuits</p>
    <template v-else>
      <DifferenceList :difference="change.difference" />
      <div class="pick" role="group" aria-label="Which drawing">
        <button
          v-if="change.circuit.control"
          type="button"
          :aria-pressed="which === 'control'"
          @click="which = 'control'"
        >
          Control
        </button>
        <button type="button" :aria-pressed="which === 'power'" @click="which = 'power'">
          Power
        </button>
        <span class="quiet">thick: new or moved</span>
      </div>
      <CircuitDrawing
        v-if="drawing"
        class="drawing"
        :drawing="drawing"
        :frame="null"
        :closed="change.circuit.rest"
        :work="change.work"
        picked=""
        :colours="{}"
      />
    </template>
    <template #footer>
      <Button label="Undo" outlined @click="back" />
      <Button label="OK" @click="close" />
    </template>
  </Dialog>
</template>

<style scoped>
.pick {
  display: flex;
  gap: 0.5rem;
  align-items: baseline;
  margin: 0.5rem 0;
}
.pick button {
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.15rem 0.7rem;
  cursor: pointer;
}
.pick button[aria-pressed='true'] {
  background: var(--accent-tint);
  border-color: var(--accent);
  font-weight: 650;
}
.drawing {
  height: 24rem;
  border: 1px solid var(--rule);
}
</style>
