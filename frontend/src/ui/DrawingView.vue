<script setup lang="ts">
import { computed } from 'vue'

import type { Drawing } from '@/api/client'
import ShapeMark from '@/ui/ShapeMark.vue'

/** Paints the core's geometry in the ink of the page. */
const props = defineProps<{ drawing: Drawing; scale?: number; decorative?: boolean }>()

/** Never so small that its text cannot be read: 11 px. */
const least = computed(() => {
  const sizes = props.drawing.shapes.filter((s) => s.kind === 'text').map((s) => s.size)
  return (11 / Math.min(11, ...sizes)) * props.drawing.width
})
type Shape = Drawing['shapes'][number]
const WIDTHS = { hair: 0.9, normal: 1.5, heavy: 2.6 }

function paint(shape: Shape): Record<string, string | number> {
  const ink = `var(--${shape.tone === 'paper' ? 'sheet' : shape.tone})`
  if (shape.kind === 'text') return { fill: `var(--${shape.tone})` }
  const soft = shape.filled && shape.tone === 'quiet'
  return {
    fill: soft ? 'var(--tint)' : shape.filled ? ink : 'none',
    stroke: shape.filled && shape.tone !== 'ink' ? 'none' : ink,
    'stroke-width': WIDTHS[shape.weight],
    'stroke-dasharray': shape.dashed ? '4 3' : '',
    'stroke-linecap': 'round',
    'stroke-linejoin': 'round',
  }
}
</script>

<template>
  <svg
    :width="drawing.width * (props.scale ?? 1)"
    :height="drawing.height * (props.scale ?? 1)"
    :style="{ minWidth: `${least}px` }"
    :viewBox="`0 0 ${drawing.width} ${drawing.height}`"
    :role="decorative ? undefined : 'img'"
    :aria-hidden="decorative ? 'true' : undefined"
    :aria-label="decorative ? undefined : drawing.description"
  >
    <ShapeMark v-for="(shape, i) in drawing.shapes" :key="i" :shape="shape" v-bind="paint(shape)" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  max-width: 100%;
  font-family: var(--text);
}
</style>
