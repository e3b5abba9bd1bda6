<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import {
  GridComponent,
  LegendComponent,
  MarkLineComponent,
  TooltipComponent,
} from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import type { ComposeOption } from 'echarts/core'
import type { LineSeriesOption } from 'echarts/charts'
import type {
  GridComponentOption,
  LegendComponentOption,
  MarkLineComponentOption,
  TooltipComponentOption,
} from 'echarts/components'
import { computed, ref } from 'vue'
import VChart from 'vue-echarts'

/** Curves drawn as on paper: ink, hairline grid, one accent; with their data as a table. */
use([SVGRenderer, LineChart, GridComponent, LegendComponent, MarkLineComponent, TooltipComponent])

export type Curve = {
  name: string
  x: number[]
  y: (number | null)[]
  dashed?: boolean
  quiet?: boolean
  accent?: boolean
  axis?: 0 | 1
}
type Option = ComposeOption<
  | LineSeriesOption
  | GridComponentOption
  | LegendComponentOption
  | MarkLineComponentOption
  | TooltipComponentOption
>

const props = defineProps<{
  label: string
  curves: Curve[]
  xName: string
  yName: string
  y2Name?: string
  xMax?: number
  mark?: number
  marks?: { at: number; name: string }[]
  points?: { x: number; y: number; name: string }[]
  log?: boolean
  tall?: boolean
  draggable?: boolean
}>()
const emit = defineEmits<{ drag: [x: number]; drop: [x: number] }>()
const chart = ref<InstanceType<typeof VChart>>()

function ink(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim()
}

const axis = (name: string, log: boolean | undefined) => ({
  type: log ? ('log' as const) : ('value' as const),
  name,
  nameLocation: 'middle' as const,
  nameTextStyle: { color: ink('--ink') },
  axisLine: { show: true, lineStyle: { color: ink('--ink') } },
  axisLabel: { color: ink('--ink') },
  splitLine: { lineStyle: { color: ink('--rule') } },
})

const option = computed<Option>(() => ({
  animation: false,
  textStyle: { fontFamily: 'Atkinson Hyperlegible Next Variable, sans-serif', fontSize: 12 },
  grid: { left: 58, right: props.y2Name ? 58 : 20, top: props.tall ? 84 : 34, bottom: 44 },
  legend: {
    top: 2,
    data: props.curves.map((c) => c.name),
    textStyle: { color: ink('--ink') },
    itemWidth: 20,
    icon: 'path://M0,4 L20,4 L20,6 L0,6 Z',
  },
  tooltip: {
    trigger: 'axis',
    backgroundColor: ink('--sheet'),
    borderColor: ink('--ink'),
    textStyle: { color: ink('--ink') },
    valueFormatter: (v) => (typeof v === 'number' ? String(Number(v.toPrecision(4))) : '–'),
  },
  xAxis: {
    ...axis(props.xName, props.log),
    nameGap: 26,
    min: props.log ? 'dataMin' : 0,
    max: props.xMax,
  },
  yAxis: [
    { ...axis(props.yName, props.log), nameGap: 40 },
    ...(props.y2Name
      ? [{ ...axis(props.y2Name, false), nameGap: 40, splitLine: { show: false } }]
      : []),
  ],
  series: [
    ...props.curves.map((c, i) => ({
      type: 'line' as const,
      name: c.name,
      showSymbol: false,
      yAxisIndex: c.axis ?? 0,
      data: c.x.map((x, j) => [x, c.y[j] ?? null]),
      color: c.accent ? ink('--accent') : c.quiet ? ink('--quiet') : ink('--ink'),
      lineStyle: {
        width: c.quiet ? 1.2 : 2,
        type: c.dashed ? ('dashed' as const) : ('solid' as const),
      },
      markLine:
        i === 0 && (props.mark !== undefined || props.marks)
          ? {
              silent: true,
              symbol: 'none',
              lineStyle: { color: ink('--quiet'), type: 'dashed' as const },
              label: { color: ink('--ink'), formatter: '{b}' },
              data: [
                ...(props.marks ?? []).map((m) => ({ xAxis: m.at, name: m.name })),
                ...(props.mark === undefined
                  ? []
                  : [
                      {
                        xAxis: props.mark,
                        name: '',
                        lineStyle: { color: ink('--accent'), type: 'solid' as const, width: 3 },
                      },
                    ]),
              ],
            }
          : undefined,
    })),
    ...(props.points?.length
      ? [
          {
            type: 'line' as const,
            name: 'crossings',
            data: props.points.map((p) => ({ value: [p.x, p.y], name: p.name })),
            lineStyle: { width: 0 },
            symbol: 'circle',
            symbolSize: 17,
            showSymbol: true,
            itemStyle: { color: ink('--sheet'), borderColor: ink('--ink'), borderWidth: 1.3 },
            label: {
              show: true,
              formatter: '{b}',
              position: 'inside' as const,
              color: ink('--ink'),
            },
            tooltip: { show: false },
            color: ink('--sheet'),
          },
        ]
      : []),
  ],
}))

/** Dragging anywhere in the drawing moves the mark there. */
let dragging = false
function at(event: PointerEvent): number | null {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const x = chart.value?.convertFromPixel({ xAxisIndex: 0 }, event.clientX - box.left)
  return typeof x === 'number' && Number.isFinite(x) ? x : null
}

function move(event: PointerEvent, kind: 'down' | 'move' | 'up'): void {
  if (!props.draggable) return
  if (kind === 'down') {
    dragging = true
    ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  }
  if (!dragging) return
  const x = at(event)
  if (kind === 'up') dragging = false
  if (x === null) return
  if (kind === 'up') emit('drop', x)
  else emit('drag', x)
}

const rows = computed(() => {
  const first = props.curves[0]
  if (!first) return []
  const step = Math.max(1, Math.floor(first.x.length / 24))
  return first.x
    .map((x, i) => ({ x, values: props.curves.map((c) => (c.x[i] === x ? c.y[i] : null)), i }))
    .filter((r) => r.i % step === 0)
})
const figure = (v: number | null | undefined) =>
  v === null || v === undefined ? '–' : String(Number(v.toPrecision(4)))
</script>

<template>
  <figure class="curves">
    <div
      class="drawing"
      :class="{ tall, draggable }"
      @pointerdown="move($event, 'down')"
      @pointermove="move($event, 'move')"
      @pointerup="move($event, 'up')"
    >
      <VChart
        ref="chart"
        role="img"
        :aria-label="label"
        :option="option"
        :init-options="{ renderer: 'svg' }"
        autoresize
      />
    </div>
    <details>
      <summary>As a table</summary>
      <div class="scroll" tabindex="0" role="region" :aria-label="`${label}, as a table`">
        <table>
          <thead>
            <tr>
              <th>{{ xName }}</th>
              <th v-for="c in curves" :key="c.name">{{ c.name }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in rows" :key="r.i">
              <td class="figures">{{ figure(r.x) }}</td>
              <td v-for="(v, j) in r.values" :key="j" class="figures">{{ figure(v) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </details>
  </figure>
</template>

<style scoped>
.curves {
  margin: 0;
  min-width: 0;
}
.drawing {
  height: 19rem;
}
.drawing.tall {
  height: 34rem;
}
.drawing.draggable {
  cursor: ew-resize;
  touch-action: none;
}
summary {
  font-size: 0.86rem;
  color: var(--quiet);
  cursor: pointer;
}
.scroll {
  max-height: 14rem;
  overflow: auto;
}
table {
  border-collapse: collapse;
  font-size: 0.86rem;
}
th,
td {
  text-align: right;
  padding: 0.1rem 0.8rem;
  border-bottom: 1px solid var(--rule);
}
th {
  font-weight: 500;
  color: var(--quiet);
}
</style>
