<script setup lang="ts">
import { computed } from 'vue'

import { useRanges } from '@/stores/ranges'

/** A small mark at what depends on something that nobody has typed yet. */
const props = defineProps<{ designation: string }>()
const ranges = useRanges()
const said = computed(() =>
  (ranges.moving.get(props.designation) ?? [])
    .map((h) => `${h.what} ${h.value}, or ${h.others.join(' or ')}`)
    .join('; '),
)
</script>

<template>
  <span v-if="said" class="range" role="img" :aria-label="`not sure: ${said}`" :title="said"
    >±</span
  >
</template>

<style scoped>
.range {
  font-weight: 700;
  color: var(--quiet);
  cursor: help;
}
</style>
