<script setup lang="ts">
import type { Drawing } from '@/api/client'

/** One shape of the core's geometry as SVG; colour, width and classes come from whoever draws. */
defineProps<{ shape: Drawing['shapes'][number] }>()

function pairs(points: readonly number[]): string {
  return points.map((p, i) => (i % 2 === 0 ? p : `,${p} `)).join('')
}

function arc(points: readonly number[]): string {
  const [x = 0, y = 0, r = 0, start = 0, end = 0] = points
  const at = (degrees: number) => {
    const angle = (degrees * Math.PI) / 180
    return `${x + r * Math.cos(angle)} ${y + r * Math.sin(angle)}`
  }
  return `M${at(start)}A${r} ${r} 0 ${end - start > 180 ? 1 : 0} 1 ${at(end)}`
}
</script>

<template>
  <polyline v-if="shape.kind === 'line'" :points="pairs(shape.points)" />
  <circle
    v-else-if="shape.kind === 'circle'"
    :cx="shape.points[0]"
    :cy="shape.points[1]"
    :r="shape.points[2]"
  />
  <rect
    v-else-if="shape.kind === 'rect'"
    :x="shape.points[0]"
    :y="shape.points[1]"
    :width="shape.points[2]"
    :height="shape.points[3]"
  />
  <path v-else-if="shape.kind === 'arc'" :d="arc(shape.points)" />
  <text
    v-else
    :x="shape.points[0]"
    :y="shape.points[1]"
    :font-size="shape.size"
    :text-anchor="shape.anchor"
  >
    {{ shape.text }}
  </text>
</template>
