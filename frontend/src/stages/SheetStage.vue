<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref } from 'vue'

import { useStarter } from '@/stores/starter'

/** The settings sheet as it will be printed; the server writes it, here and in the PDF. */
const starter = useStarter()
const frame = ref<HTMLIFrameElement>()
const base = computed(() => `/api/starters/${starter.id}`)
const page = computed(() => `${base.value}/sheet.html?saved=${encodeURIComponent(starter.saved)}`)
const ready = computed(() => starter.design !== null)

function print(): void {
  frame.value?.contentWindow?.print()
}
</script>

<template>
  <div class="stage">
    <div class="bar">
      <Button
        as="a"
        :href="`${base}/sheet.pdf`"
        label="Save as PDF"
        size="small"
        download
        :disabled="!ready"
      />
      <Button label="Print" size="small" outlined :disabled="!ready" @click="print" />
      <Button
        as="a"
        :href="`${base}/document.json`"
        label="Save the starter document (JSON)"
        size="small"
        text
        download
      />
      <p v-if="!starter.fresh" class="warn">▲ The sheet shows the last state that was saved.</p>
    </div>
    <iframe v-if="ready" ref="frame" :src="page" title="Settings sheet" class="sheet"></iframe>
    <p v-else class="quiet empty">
      There is no sheet yet: something is missing. The findings say what.
    </p>
  </div>
</template>

<style scoped>
.stage {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.bar {
  display: flex;
  gap: 0.6rem;
  align-items: center;
  padding: 0.6rem 1rem;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--sheet);
}
.sheet {
  flex: 1;
  width: min(100% - 2rem, 860px);
  margin: 1rem auto;
  border: 1px solid var(--rule-strong);
  background: #fff;
  min-height: 30rem;
}
.warn {
  color: var(--attention);
}
.empty {
  padding: 1.5rem 1rem;
}
</style>
