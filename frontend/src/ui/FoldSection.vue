<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { valueAt, type FieldPath } from '@/stores/document'
import { useStarter } from '@/stores/starter'

/** Fields of one subject, folded, with how many of them are filled. Opens by itself where something in it is wrong or needed. */
const props = defineProps<{ title: string; name: string; paths: FieldPath[]; open?: boolean }>()
const starter = useStarter()
const KEY = `volmek.fold.${props.name}`
const kept = localStorage.getItem(KEY)
const open = ref(kept === null ? (props.open ?? false) : kept === 'open')
const filled = computed(
  () => props.paths.filter((p) => valueAt(starter.document, p) !== undefined).length,
)
const asks = computed(() =>
  props.paths.some((p) => starter.problemAt.has(p) || starter.neededAt.has(p)),
)
watch(
  asks,
  (now) => {
    if (now) open.value = true
  },
  { immediate: true },
)
function turned(event: Event): void {
  const now = (event.target as HTMLDetailsElement).open
  if (now === open.value) return
  open.value = now
  localStorage.setItem(KEY, now ? 'open' : 'closed')
}
</script>

<template>
  <details class="fold" :open="open" @toggle="turned">
    <summary>
      <span class="title">{{ title }}</span>
      <span class="count figures" :class="{ none: filled === 0 }"
        >{{ filled }}<span class="of"> of {{ paths.length }}</span></span
      >
    </summary>
    <div class="inside"><slot /></div>
  </details>
</template>

<style scoped>
.fold {
  border-bottom: 1px solid var(--rule);
}
summary {
  display: flex;
  align-items: baseline;
  gap: 0.5rem;
  padding: 0.45rem 0.2rem;
  cursor: pointer;
  list-style: none;
  font-weight: 600;
}
summary::before {
  content: '▸';
  width: 0.9rem;
  color: var(--quiet);
}
.fold[open] > summary::before {
  content: '▾';
}
summary::-webkit-details-marker {
  display: none;
}
summary:hover {
  background: var(--tint);
}
.count {
  margin-left: auto;
  font-weight: 500;
  font-size: 0.93rem;
}
.none {
  color: var(--quiet);
}
.of {
  color: var(--quiet);
}
.inside {
  padding: 0 0.2rem 0.7rem 1.1rem;
}
@media (pointer: coarse) {
  summary {
    min-height: 48px;
    align-items: center;
  }
}
</style>
