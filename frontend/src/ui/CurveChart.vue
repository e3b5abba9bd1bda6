<script setup lang="ts">
import { CustomChart, LineChart } from 'echarts/charts'
import {
  GridComponent,
  LegendComponent,
  MarkLineComponent,
  MarkPointComponent,
  TooltipComponent,
} from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import type { ComposeOption } from 'echarts/core'
import type { CustomSeriesOption, LineSeriesOption } from 'echarts/charts'
import type {
  GridComponentOption,
  LegendComponentOption,
  MarkLineComponentOption,
  MarkPointComponentOption,
  TooltipComponentOption,
} from 'echarts/components'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import VChart from 'vue-echarts'

import { painted } from '@/ui/painted'
import { saveFile, savePicture } from '@/ui/save'

/** Curves drawn as on paper: ink, hairline grid, one accent; with their data as a table. */
use([
  SVGRenderer,
  CustomChart,
  LineChart,
  GridComponent,
  LegendComponent,
  MarkLineComponent,
  MarkPointComponent,
  TooltipComponent,
])

export type Curve = {
  name: string
  x: number[]
  y: (number | null)[]
  dashed?: boolean
  quiet?: boolean
  accent?: boolean
  /** One hue for what belongs to one device: 1 to 6. */
  hue?: number
  /** Name at the line's end; the series' own where nothing else is said, empty for none. */
  end?: string
  /** Name on the line itself, at this share of its length. */
  on?: { share: number; text: string }
  axis?: 0 | 1
}
type Option = ComposeOption<
  | CustomSeriesOption
  | LineSeriesOption
  | GridComponentOption
  | LegendComponentOption
  | MarkLineComponentOption
  | MarkPointComponentOption
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
  /** Areas between two curves: the band between earliest and latest. */
  bands?: { from: number; to: number }[]
  /** The page has files of its own for it. */
  fileless?: boolean
  draggable?: boolean
}>()
const emit = defineEmits<{ drag: [x: number]; drop: [x: number] }>()
const chart = ref<InstanceType<typeof VChart>>()

function ink(name: string): string {
  void painted.value
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim()
}

/** In other inks at once: paper does not wait for the next frame. */
watch(painted, () => chart.value?.chart?.getZr().flush(), { flush: 'post' })

const inkOf = (c: Curve) =>
  c.hue
    ? ink(`--hue-${c.hue}`)
    : c.accent
      ? ink('--accent')
      : c.quiet
        ? ink('--quiet')
        : ink('--ink')
/** A band as a closed area: along the earlier curve and back along the later one. */
function band(b: { from: number; to: number }): CustomSeriesOption | null {
  const [one, two] = [props.curves[b.from], props.curves[b.to]]
  if (!one || !two) return null
  const points = [
    ...one.x.map((x, i) => [x, one.y[i]]),
    ...two.x.map((x, i) => [x, two.y[i]]).reverse(),
  ].filter((p): p is [number, number] => typeof p[1] === 'number')
  return {
    type: 'custom',
    name: `${one.name} band`,
    silent: true,
    clip: true,
    z: 1,
    tooltip: { show: false },
    data: points.length ? [points[0] ?? []] : [],
    renderItem: (_params, api) => ({
      type: 'polygon',
      shape: { points: points.map((p) => api.coord(p)) },
      style: { fill: inkOf(one), opacity: 0.14 },
    }),
  }
}

/** Width of the chart, and the rows that its legend takes there: the plot begins below them. */
const holder = ref<HTMLElement>()
const room = ref(600)
const watcher = new ResizeObserver(([entry]) => (room.value = entry?.contentRect.width ?? 600))
onMounted(() => holder.value && watcher.observe(holder.value))
onBeforeUnmount(() => watcher.disconnect())
const legendRows = computed(() => {
  let [rows, used] = [1, 0]
  for (const c of props.curves) {
    const wide = 24 + 16 + 6.6 * c.name.length
    if (used && used + wide > room.value) [rows, used] = [rows + 1, 0]
    used += wide
  }
  return rows
})

const axis = (name: string, log: boolean | undefined) => ({
  type: log ? ('log' as const) : ('value' as const),
  name,
  nameLocation: 'middle' as const,
  nameTextStyle: { color: ink('--ink') },
  axisLine: { show: true, lineStyle: { color: ink('--ink') } },
  axisLabel: { color: ink('--ink') },
  splitLine: { lineStyle: { color: ink('--rule') } },
})

/** The name of a curve, standing on it. */
function nameOn(c: Curve, on: { share: number; text: string }) {
  const i = Math.min(Math.floor(c.x.length * on.share), c.x.length - 1)
  return {
    silent: true,
    symbol: 'circle',
    symbolSize: 0.1,
    label: {
      show: true,
      position: 'top' as const,
      distance: 5,
      formatter: on.text,
      color: inkOf(c),
      fontSize: 12,
    },
    data: [{ name: on.text, coord: [c.x[i] ?? 0, c.y[i] ?? 0] }],
  }
}
const named = computed(() => props.curves.some((c) => c.end))
const option = computed<Option>(() => ({
  animation: false,
  textStyle: { fontFamily: 'Atkinson Hyperlegible Next Variable, sans-serif', fontSize: 12 },
  grid: {
    left: 58,
    right: (props.y2Name ? 58 : 20) + (named.value ? 86 : 0),
    top: Math.max(props.tall ? 84 : 34, 14 + 19 * legendRows.value + (props.marks ? 16 : 0)),
    bottom: 44,
  },
  legend: {
    top: 2,
    data: props.curves.map((c) => ({
      name: c.name,
      icon: c.dashed
        ? 'path://M0,4 L6,4 L6,6 L0,6 Z M9,4 L15,4 L15,6 L9,6 Z M18,4 L24,4 L24,6 L18,6 Z'
        : 'path://M0,4 L24,4 L24,6 L0,6 Z',
    })),
    textStyle: { color: ink('--ink') },
    itemWidth: 24,
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
    ...(props.bands ?? []).map(band).filter((b) => b !== null),
    ...props.curves.map((c, i) => ({
      type: 'line' as const,
      name: c.name,
      showSymbol: false,
      yAxisIndex: c.axis ?? 0,
      data: c.x.map((x, j) => [x, c.y[j] ?? null]),
      color: inkOf(c),
      endLabel: c.end
        ? { show: true, formatter: c.end, color: inkOf(c), fontSize: 12, distance: 4 }
        : undefined,
      markPoint: c.on ? nameOn(c, c.on) : undefined,
      labelLayout: { moveOverlap: 'shiftY' as const },
      z: 2,
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
/** The drawing as it is seen, on the page's own ground. */
async function picture(ending: 'svg' | 'png'): Promise<void> {
  const url = chart.value?.getDataURL({ type: 'svg', backgroundColor: ink('--sheet') })
  if (!url) return
  if (ending === 'svg') return saveFile(`${props.label}.svg`, url)
  return savePicture(`${props.label}.png`, url)
}
/** Every point of every curve, one line each. */
function table(): void {
  const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`
  const lines = props.curves.flatMap((c) =>
    c.x.map((x, i) => [quoted(c.name), x, c.y[i] ?? ''].join(',')),
  )
  const head = ['curve', props.xName, props.yName].map(quoted).join(',')
  saveFile(`${props.label}.csv`, new Blob([[head, ...lines].join('\r\n')], { type: 'text/csv' }))
}
const figure = (v: number | null | undefined) =>
  v === null || v === undefined ? '–' : String(Number(v.toPrecision(4)))
</script>

<template>
  <figure class="curves">
    <div
      ref="holder"
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
    <p v-if="!fileless" class="files">
      <button type="button" @click="picture('svg')">SVG</button>
      <button type="button" @click="picture('png')">PNG</button>
      <button type="button" @click="table">CSV</button>
    </p>
    <details data-screen>
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
.files {
  display: flex;
  gap: 0.8rem;
  justify-content: flex-end;
  font-size: 0.86rem;
}
.files button {
  border: 0;
  background: none;
  padding: 0;
  color: var(--accent);
  text-decoration: underline;
  cursor: pointer;
}
@media print {
  .files {
    display: none;
  }
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
