<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { CircuitDrawing, Frame } from '@/api/client'
import ShapeMark from '@/ui/ShapeMark.vue'
import { motion } from '@/ui/motion'

/** Paints a circuit of the core: contacts as they stand, what is under voltage thick and warm. Pan and zoom by mouse, keys and touch; every part can be reached by Tab and arrow keys. */
const props = defineProps<{
  drawing: CircuitDrawing
  frame: Frame | null
  picked: string
  colours: Record<string, string>
  /** Contacts that are drawn closed where no frame says so. */
  closed?: string[]
  /** How far the conductors at each terminal are, while it is being built. */
  work?: Record<string, string>
}>()
const emit = defineEmits<{ pick: [part: string] }>()
type Mark = CircuitDrawing['marks'][number]

const WIDTHS = { hair: 0.9, normal: 1.5, heavy: 2.4 }
const closed = computed(() => new Set(props.frame?.closed ?? props.closed ?? []))
const live = computed(() => new Set(props.frame?.live ?? []))
const on = computed(() => new Set(props.frame?.on ?? []))
const shown = computed(() =>
  props.drawing.marks
    .map((mark, i) => ({ mark, i }))
    .filter(
      ({ mark }) =>
        !mark.when ||
        (mark.when === 'closed') === closed.value.has(mark.part.slice('contact:'.length)),
    ),
)

const device = (part: string) => part.split(':')[1] ?? ''
/** What belongs to what was picked: a wire by its number, all contacts and the coil by their device. */
function isPicked(mark: Mark): boolean {
  if (!props.picked || !mark.part) return false
  if (props.picked.startsWith('wire:')) return mark.part === props.picked
  return !mark.part.startsWith('wire:') && device(mark.part) === device(props.picked)
}
function isLive(mark: Mark): boolean {
  if (mark.shape.weight === 'hair') return false
  if (mark.part.startsWith('wire:')) return live.value.has(mark.at)
  if (mark.part.startsWith('contact:')) {
    const name = mark.part.slice('contact:'.length)
    const [device, ends] = name.split(':')
    const [a, b] = (ends ?? '').split('-')
    return (
      closed.value.has(name) && live.value.has(`${device}:${a}`) && live.value.has(`${device}:${b}`)
    )
  }
  return false
}
const isOn = (mark: Mark) => mark.part.startsWith('load:') && on.value.has(device(mark.part))

function paint(mark: Mark) {
  const onClick = mark.part ? () => emit('pick', mark.part) : undefined
  const touched = { picked: isPicked(mark), part: mark.part !== '' }
  if (mark.shape.kind === 'text') return { class: touched, onClick }
  return {
    class: {
      ...touched,
      live: isLive(mark),
      on: isOn(mark),
      [`w-${props.work?.[mark.at]}`]: props.work !== undefined && mark.at !== '',
      filled: mark.shape.filled,
      // While it is operated dead is grey and live is warm; at rest wires carry their own colours.
      dead: props.frame !== null && mark.part.startsWith('wire:') && !isLive(mark),
      [`c-${mark.conductor.replace(' ', '-')}`]: props.frame === null && mark.conductor !== '',
    },
    style: isOn(mark) ? { '--lit': props.colours[device(mark.part)] ?? 'var(--live)' } : undefined,
    'stroke-width': WIDTHS[mark.shape.weight],
    'stroke-dasharray': mark.shape.dashed ? '3 3' : undefined,
    onClick,
  }
}

const scroller = ref<HTMLElement>()
/** No text is painted smaller than this [px]. */
const SMALLEST_PX = 11
const MOST = 4
const smallest = computed(() =>
  Math.min(
    ...props.drawing.marks.filter((m) => m.shape.kind === 'text').map((m) => m.shape.size),
    SMALLEST_PX,
  ),
)
const least = computed(() => SMALLEST_PX / smallest.value)
const scale = ref(1)
let zoomed = false
/** As wide as its place, never so small that it cannot be read; what does not go in is panned to. */
function fit(): void {
  const el = scroller.value
  if (!el) return
  zoomed = false
  const wide = (el.clientWidth - 16) / props.drawing.width
  scale.value = Math.max(Math.min(wide, 1.5), least.value)
}
/** Larger or smaller, with the middle of what is seen kept in its place. */
function zoom(by: number, at?: { x: number; y: number }): void {
  const el = scroller.value
  if (!el) return
  zoomed = true
  const before = scale.value
  scale.value = Math.min(Math.max(before * by, least.value), MOST)
  const x = at?.x ?? el.clientWidth / 2
  const y = at?.y ?? el.clientHeight / 2
  const share = scale.value / before
  const left = (el.scrollLeft + x) * share - x
  const top = (el.scrollTop + y) * share - y
  void nextTick(() => el.scrollTo({ left, top }))
}
let watching: ResizeObserver | null = null
onMounted(() => {
  fit()
  watching = new ResizeObserver(() => {
    if (!zoomed) fit()
  })
  if (scroller.value) watching.observe(scroller.value)
})
onBeforeUnmount(() => watching?.disconnect())
watch(
  () => [props.drawing.width, props.drawing.height],
  () => void nextTick(fit),
)

// One finger or the mouse pans, two fingers or Ctrl with the wheel zoom.
const fingers = new Map<number, { x: number; y: number }>()
let grabbed: { x: number; y: number; left: number; top: number } | null = null
let apart = 0
const distance = () => {
  const [a, b] = [...fingers.values()]
  return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0
}
function grab(e: PointerEvent): void {
  const el = scroller.value
  if (!el) return
  fingers.set(e.pointerId, { x: e.clientX, y: e.clientY })
  apart = distance()
  grabbed =
    e.pointerType === 'touch'
      ? null
      : { x: e.clientX, y: e.clientY, left: el.scrollLeft, top: el.scrollTop }
}
function pan(e: PointerEvent): void {
  if (fingers.has(e.pointerId)) fingers.set(e.pointerId, { x: e.clientX, y: e.clientY })
  if (fingers.size === 2 && apart > 0) {
    const now = distance()
    zoom(now / apart)
    apart = now
  }
  if (!grabbed || !scroller.value) return
  scroller.value.scrollLeft = grabbed.left - (e.clientX - grabbed.x)
  scroller.value.scrollTop = grabbed.top - (e.clientY - grabbed.y)
}
function release(e: PointerEvent): void {
  fingers.delete(e.pointerId)
  grabbed = null
}
function wheel(e: WheelEvent): void {
  if (!e.ctrlKey && !e.metaKey) return
  e.preventDefault()
  const box = scroller.value?.getBoundingClientRect()
  zoom(e.deltaY < 0 ? 1.15 : 1 / 1.15, box && { x: e.clientX - box.left, y: e.clientY - box.top })
}

/** Every contact, load and wire with its place: walked with the arrow keys. */
const parts = computed(() => {
  const found = new Map<string, { part: string; x: number; y: number; w: number; h: number }>()
  for (const p of props.drawing.places)
    if (/^(contact|load):/.test(p.part))
      found.set(p.part, { part: p.part, x: p.x - 14, y: p.y - 20, w: 28, h: 40 })
  for (const m of props.drawing.marks) {
    if (!m.part.startsWith('wire:') || m.part === 'wire:' || found.has(m.part)) continue
    const [x1 = 0, y1 = 0, x2 = 0, y2 = 0] = m.shape.points
    found.set(m.part, { part: m.part, x: (x1 + x2) / 2 - 7, y: (y1 + y2) / 2 - 7, w: 14, h: 14 })
  }
  return [...found.values()]
})
const current = ref(0)
watch(parts, (now) => (current.value = Math.min(current.value, Math.max(now.length - 1, 0))))
function nameOf(part: string): string {
  const name = props.drawing.names[part] ?? part.replaceAll(':', ' ')
  if (part.startsWith('contact:'))
    return `${name}, ${closed.value.has(part.slice('contact:'.length)) ? 'closed' : 'open'}`
  if (part.startsWith('load:') && props.frame)
    return `${name}, ${on.value.has(device(part)) ? 'on' : 'off'}`
  return name
}
const DIRECTIONS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
/** The nearest part in a direction: near along it counts more than aside. */
function walk(e: KeyboardEvent, i: number): void {
  const from = parts.value[i]
  const to = DIRECTIONS[e.key]
  if (!from) return
  if (e.key === 'Enter' || e.key === ' ') emit('pick', from.part)
  else if (to) {
    let best = -1
    let least = Infinity
    parts.value.forEach((p, k) => {
      const [dx, dy] = [p.x + p.w / 2 - from.x - from.w / 2, p.y + p.h / 2 - from.y - from.h / 2]
      const along = dx * to[0] + dy * to[1]
      const aside = Math.abs(dx * to[1]) + Math.abs(dy * to[0])
      if (k !== i && along > 1 && along + 3 * aside < least) {
        best = k
        least = along + 3 * aside
      }
    })
    if (best < 0) return
    current.value = best
    void nextTick(() => {
      const el = scroller.value?.querySelector<SVGElement>('.reach[tabindex="0"]')
      el?.focus()
      el?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
    })
  } else return
  e.preventDefault()
  e.stopPropagation()
}
function key(e: KeyboardEvent): void {
  if (e.ctrlKey || e.metaKey || e.altKey) return
  if (e.key === '+' || e.key === '=') zoom(1.25)
  else if (e.key === '-') zoom(1 / 1.25)
  else if (e.key === '0') fit()
  else return
  e.preventDefault()
}
function bring(x: number, y: number): void {
  scroller.value?.scrollTo({
    left: x * scale.value - scroller.value.clientWidth / 2,
    top: y * scale.value - scroller.value.clientHeight / 2,
    behavior: motion(),
  })
}
defineExpose({ bring, fit, zoom })
</script>

<template>
  <div
    ref="scroller"
    class="scroller"
    role="group"
    :aria-label="drawing.description"
    @pointerdown="grab"
    @pointermove="pan"
    @pointerup="release"
    @pointercancel="release"
    @pointerleave="release"
    @wheel="wheel"
    @keydown="key"
  >
    <svg
      :width="drawing.width * scale"
      :height="drawing.height * scale"
      :viewBox="`0 0 ${drawing.width} ${drawing.height}`"
    >
      <g aria-hidden="true">
        <ShapeMark v-for="{ mark, i } in shown" :key="i" :shape="mark.shape" v-bind="paint(mark)" />
      </g>
      <rect
        v-for="(p, i) in parts"
        :key="p.part"
        class="reach"
        role="button"
        :tabindex="i === current ? 0 : -1"
        :aria-label="nameOf(p.part)"
        :aria-pressed="picked === p.part"
        :x="p.x"
        :y="p.y"
        :width="p.w"
        :height="p.h"
        @focus="current = i"
        @keydown="walk($event, i)"
        @click="emit('pick', p.part)"
      />
    </svg>
  </div>
</template>

<style scoped>
.scroller {
  overflow: auto;
  touch-action: pan-x pan-y;
  background: var(--sheet);
  cursor: grab;
  min-height: 0;
}
.scroller:active {
  cursor: grabbing;
}
svg {
  display: block;
  font-family: var(--text);
}
svg * {
  fill: none;
  stroke: var(--ink);
  stroke-linecap: round;
  stroke-linejoin: round;
}
svg text {
  fill: var(--ink);
  stroke: none;
  user-select: none;
}
svg .filled {
  fill: var(--ink);
}
svg .part {
  cursor: pointer;
}
svg .reach {
  stroke: none;
  fill: transparent;
  cursor: pointer;
}
svg .reach:focus {
  outline: none;
}
svg .reach:focus-visible {
  stroke: var(--accent);
  stroke-width: 2;
  stroke-dasharray: none;
}
svg .c-red {
  stroke: var(--wire-red);
}
svg .c-brown {
  stroke: var(--wire-brown);
}
svg .c-grey {
  stroke: var(--wire-grey);
}
svg .c-blue,
svg .c-dark-blue {
  stroke: var(--wire-blue);
}
svg .c-yellow {
  stroke: var(--wire-yellow);
}
svg .dead {
  stroke: var(--dead);
}
svg .live {
  stroke: var(--live);
  stroke-width: 3.2;
}
svg .on {
  fill: var(--lit);
  stroke-width: 2.2;
}
/* While it is built: laid as it is, next thick, open dotted; told apart without colour too. */
svg .w-next {
  stroke: var(--accent);
  stroke-width: 4;
}
svg .w-open {
  stroke: var(--rule-strong);
  stroke-dasharray: 1.5 4;
}
svg .picked {
  stroke: var(--accent);
  stroke-width: 3;
}
svg text.picked {
  stroke: none;
  fill: var(--accent);
  font-weight: 700;
}
@media print {
  .scroller {
    overflow: visible;
  }
}
</style>
