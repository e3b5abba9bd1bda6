<script setup lang="ts">
import { computed, ref } from 'vue'

import { usePlayer } from '@/stores/player'

/** When each contactor, relay and lamp was in, drawn against time; and the pauses measured between contactors. */
const player = usePlayer()
const WIDTH = 760
const LEFT = 54
const ROW = 17
/** What is shown where it has run for longer: the last minutes, unless all of it is asked for [s]. */
const LATELY_S = 120
const whole = ref(false)
const until = computed(() => Math.max(player.end, player.time, 1))
const long = computed(() => until.value > 1.5 * LATELY_S)
const from = computed(() => (long.value && !whole.value ? until.value - LATELY_S : 0))
const spans = computed(() =>
  (player.timeline?.spans ?? []).filter((s) => (s.ends_s ?? until.value) >= from.value),
)
const names = computed(() => {
  const seen = new Set(spans.value.map((s) => s.name))
  return (player.timeline?.charted ?? []).filter((n) => seen.has(n))
})
const gaps = computed(() => (player.timeline?.gaps ?? []).filter((g) => g.at_s >= from.value))
const x = (t: number) =>
  LEFT + ((WIDTH - LEFT - 8) * (Math.max(t, from.value) - from.value)) / (until.value - from.value)
const height = computed(() => ROW * names.value.length + 26)
const ticks = computed(() => {
  const least = (until.value - from.value) / 12
  const ten = 10 ** Math.floor(Math.log10(least))
  const step = [1, 2, 5, 10].map((k) => k * ten).find((s) => s >= least) ?? 10 * ten
  const first = Math.ceil(from.value / step)
  return Array.from({ length: Math.floor(until.value / step) - first + 1 }, (_, i) =>
    Number(((first + i) * step).toPrecision(8)),
  )
})
</script>

<template>
  <p v-if="names.length === 0" class="quiet">Nothing has been in yet: operate the panel.</p>
  <div v-else>
    <p v-if="long" class="what" role="group" aria-label="Time shown">
      <button type="button" :aria-pressed="!whole" @click="whole = false">Last 2 min</button>
      <button type="button" :aria-pressed="whole" @click="whole = true">All</button>
    </p>
    <svg
      :viewBox="`0 0 ${WIDTH} ${height}`"
      role="img"
      :aria-label="`Time chart of ${names.join(', ')} over ${(until - from).toFixed(1)} seconds`"
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
    <p v-for="g in gaps" :key="g.at_s" class="figures gap">
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
.what button {
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.1rem 0.6rem;
}
.what button[aria-pressed='true'] {
  background: var(--accent-tint);
  border-color: var(--accent);
}
.gap {
  font-size: 0.86rem;
}
</style>
