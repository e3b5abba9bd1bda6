<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { StartView } from '@/api/client'
import CurveChart, { type Curve } from '@/ui/CurveChart.vue'
import PlateField from '@/ui/PlateField.vue'
import { read } from '@/ui/figures'
import { useStarter } from '@/stores/starter'

/** How much current a soft starter may let through, and how long the run-up then takes. */
const props = defineProps<{ sheet: StartView }>()
const starter = useStarter()

const limitCurve = computed<Curve[]>(() => {
  const points = props.sheet.limits
  const x = points.map((p) => p.limit_ratio)
  return [
    { name: 'current, A', x, y: points.map((p) => p.current_a) },
    {
      name: 'time until it runs, s',
      x,
      y: points.map((p) => p.run_up_time_s),
      axis: 1,
      accent: true,
    },
  ]
})
const draggedLimit = ref<number | null>(null)
const limit = computed(() => draggedLimit.value ?? props.sheet.limit?.limit_ratio ?? 0)
/** While dragging the nearest computed point; else what the core computed for the limit in use. */
const atLimit = computed(() => {
  if (draggedLimit.value === null) return props.sheet.limit ?? null
  return props.sheet.limits.reduce<StartView['limit']>(
    (best, p) =>
      best && Math.abs(best.limit_ratio - limit.value) <= Math.abs(p.limit_ratio - limit.value)
        ? best
        : p,
    null,
  )
})
function dropLimit(ratio: number): void {
  const points = props.sheet.limits
  const [first, last] = [points[0], points.at(-1)]
  if (!first || !last) return
  const inside = Math.min(Math.max(ratio, first.limit_ratio), last.limit_ratio)
  const tenth = Math.round(inside * 10) / 10
  starter.set('starter.current_limit_ratio', tenth)
  starter.settle()
}
watch(
  () => props.sheet,
  () => (draggedLimit.value = null),
)
</script>

<template>
  <section class="star" aria-label="Current limit">
    <h2 class="heading">How much current may the soft starter let through?</h2>
    <div class="two">
      <div>
        <CurveChart
          label="Run-up time over the current limit"
          :curves="limitCurve"
          x-name="limit, times the rated current"
          y-name="current, A"
          y2-name="until it runs, s"
          :x-max="Math.ceil(sheet.limits.at(-1)?.limit_ratio ?? 7)"
          :mark="limit"
          draggable
          @drag="draggedLimit = $event"
          @drop="dropLimit"
        />
      </div>
      <div class="reclose">
        <h3>At {{ read(limit) }} times the rated current</h3>
        <p class="at" role="status">
          <b class="figures">{{ read(atLimit?.current_a) }} A</b> in the line;
          {{
            atLimit?.run_up_time_s == null
              ? 'the torque that is left does not carry the load: it stalls.'
              : `the motor runs after ${read(atLimit.run_up_time_s)} s, then the bypass closes without a peak.`
          }}
        </p>
        <PlateField path="starter.current_limit_ratio" usual="3.5" />
      </div>
    </div>
  </section>
</template>

<style scoped src="./change.css"></style>
