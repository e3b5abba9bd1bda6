<script setup lang="ts">
import type { Drawing } from '@/api/client'

/** Paints the core's geometry in the ink of the page. */
const props = defineProps<{ drawing: Drawing; scale?: number; decorative?: boolean }>()

type Shape = Drawing['shapes'][number]
const WIDTHS = { hair: 0.9, normal: 1.5, heavy: 2.6 }

function pairs(points: readonly number[]): string {
  return points.map((p, i) => (i % 2 === 0 ? p : `,${p} `)).join('')
}

function arc(shape: Shape): string {
  const [x = 0, y = 0, r = 0, start = 0, end = 0] = shape.points
  const at = (degrees: number) => {
    const angle = (degrees * Math.PI) / 180
    return `${x + r * Math.cos(angle)} ${y + r * Math.sin(angle)}`
  }
  return `M${at(start)}A${r} ${r} 0 ${end - start > 180 ? 1 : 0} 1 ${at(end)}`
}

function paint(shape: Shape): Record<string, string | number> {
  const ink = `var(--${shape.tone === 'paper' ? 'sheet' : shape.tone})`
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
    :viewBox="`0 0 ${drawing.width} ${drawing.height}`"
    :role="decorative ? undefined : 'img'"
    :aria-hidden="decorative ? 'true' : undefined"
    :aria-label="decorative ? undefined : drawing.description"
  >
    <template v-for="(shape, i) in drawing.shapes" :key="i">
      <polyline v-if="shape.kind === 'line'" :points="pairs(shape.points)" v-bind="paint(shape)" />
      <circle
        v-else-if="shape.kind === 'circle'"
        :cx="shape.points[0]"
        :cy="shape.points[1]"
        :r="shape.points[2]"
        v-bind="paint(shape)"
      />
      <rect
        v-else-if="shape.kind === 'rect'"
        :x="shape.points[0]"
        :y="shape.points[1]"
        :width="shape.points[2]"
        :height="shape.points[3]"
        v-bind="paint(shape)"
      />
      <path v-else-if="shape.kind === 'arc'" :d="arc(shape)" v-bind="paint(shape)" />
      <text
        v-else
        :x="shape.points[0]"
        :y="shape.points[1]"
        :font-size="shape.size"
        :text-anchor="shape.anchor"
        :fill="`var(--${shape.tone})`"
      >
        {{ shape.text }}
      </text>
    </template>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  max-width: 100%;
  font-family: var(--text);
}
</style>
