<script setup lang="ts">
import { computed } from 'vue'

import { usePlayer } from '@/stores/player'

/** When each contactor, relay and lamp was in, drawn against time; and the pauses measured between contactors. */
const player = usePlayer()
const WIDTH = 760
const LEFT = 54
const ROW = 17
const spans = computed(() => player.timeline?.spans ?? [])
const names = computed(() => [...new Set(spans.value.map((s) => s.name))])
const until = computed(() => Math.max(player.end, player.time, 1))
const x = (t: number) => LEFT + ((WIDTH - LEFT - 8) * t) / until.value
const height = computed(() => ROW * names.value.length + 26)
const ticks = computed(() => {
  const step = [0.5, 1, 2, 5, 10, 20, 50].find((s) => until.value / s <= 12) ?? 100
  return Array.from({ length: Math.floor(until.value / step) + 1 }, (_, i) => i * step)
})
</script>

<template>
  <p v-if="names.length === 0" class="quiet">Nothing has been in yet: operate the panel.</p>
  <div v-else>
    <svg
      :viewBox="`0 0 ${WIDTH} ${height}`"
      role="img"
      :aria-label="`Time chart of ${names.join(', ')} over ${until.toFixed(1)} seconds`"
    >
      <g v-for="t in ticks" :key="t">
        <line :x1="x(t)" y1="4" :x2="x(t)" :y2="height - 18" class="grid" />
        <text :x="x(t)" :y="height - 5" text-anchor="middle">{{ t }}</text>
      </g>
      <text v-for="(n, i) in names" :key="n" :x="LEFT - 8" :y="ROW * i + 16" text-anchor="end">
        {{ n }}
      </text>
      <rect
        v-for="(s, i) in spans"
        :key="i"
        :x="x(s.begins_s)"
        :y="ROW * names.indexOf(s.name) + 6"
        :width="Math.max(x(s.ends_s ?? until) - x(s.begins_s), 1)"
        :height="ROW - 6"
      />
      <line :x1="x(player.time)" y1="2" :x2="x(player.time)" :y2="height - 18" class="now" />
    </svg>
    <p v-for="g in player.timeline?.gaps ?? []" :key="g.at_s" class="figures gap">
      {{ g.at_s.toFixed(3) }} s {{ $say(g.words) }}
    </p>
  </div>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 64rem;
  font-size: 12.5px;
}
text {
  fill: var(--ink);
}
rect {
  fill: var(--ink);
}
.grid {
  stroke: var(--rule);
  stroke-width: 0.8;
}
.now {
  stroke: var(--live);
  stroke-width: 1.6;
}
.gap {
  font-size: 0.86rem;
}
</style>
