<script setup lang="ts">
import { computed } from 'vue'

import { SEVERITY } from '@/ui/words'

/** Stop, attention, info or fine: shape and word first, colour second. */
const props = defineProps<{ verdict: string; wordless?: boolean }>()
const said = computed(() => SEVERITY[props.verdict] ?? SEVERITY.fine!)
</script>

<template>
  <span class="verdict" :class="verdict">
    <span aria-hidden="true">{{ said.mark }}</span>
    <span :class="{ 'visually-hidden': wordless }">{{ said.word }}</span>
  </span>
</template>

<style scoped>
.verdict {
  display: inline-flex;
  gap: 0.35em;
  white-space: nowrap;
  font-weight: 600;
}
.stop {
  color: var(--stop);
}
.attention {
  color: var(--attention);
}
.info {
  color: var(--quiet);
  font-weight: 500;
}
.fine {
  color: var(--fine);
}
</style>
