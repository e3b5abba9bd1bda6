<script setup lang="ts">
import { computed, ref } from 'vue'

import type { CircuitDrawing, Frame } from '@/api/client'
import ShapeMark from '@/ui/ShapeMark.vue'

/** Paints a circuit of the core: contacts as they stand, what is under voltage thick and warm. */
const props = defineProps<{
  drawing: CircuitDrawing
  frame: Frame | null
  picked: string
  scale: number
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
      [`c-${mark.conductor.replace(' ', '-')}`]: mark.conductor !== '',
    },
    style: isOn(mark) ? { '--lit': props.colours[device(mark.part)] ?? 'var(--live)' } : undefined,
    'stroke-width': WIDTHS[mark.shape.weight],
    'stroke-dasharray': mark.shape.dashed ? '3 3' : undefined,
    onClick,
  }
}

const scroller = ref<HTMLElement>()
let grabbed: { x: number; y: number; left: number; top: number } | null = null
function grab(e: PointerEvent): void {
  const el = scroller.value
  if (!el || e.pointerType === 'touch') return
  grabbed = { x: e.clientX, y: e.clientY, left: el.scrollLeft, top: el.scrollTop }
}
function pan(e: PointerEvent): void {
  if (!grabbed || !scroller.value) return
  scroller.value.scrollLeft = grabbed.left - (e.clientX - grabbed.x)
  scroller.value.scrollTop = grabbed.top - (e.clientY - grabbed.y)
}
function bring(x: number, y: number): void {
  scroller.value?.scrollTo({
    left: x * props.scale - scroller.value.clientWidth / 2,
    top: y * props.scale - scroller.value.clientHeight / 2,
    behavior: 'smooth',
  })
}
defineExpose({ bring, scroller })
</script>

<template>
  <div
    ref="scroller"
    class="scroller"
    tabindex="0"
    :aria-label="drawing.description"
    @pointerdown="grab"
    @pointermove="pan"
    @pointerup="grabbed = null"
    @pointerleave="grabbed = null"
  >
    <svg
      :width="drawing.width * scale"
      :height="drawing.height * scale"
      :viewBox="`0 0 ${drawing.width} ${drawing.height}`"
      role="img"
      :aria-label="drawing.description"
    >
      <ShapeMark v-for="{ mark, i } in shown" :key="i" :shape="mark.shape" v-bind="paint(mark)" />
    </svg>
  </div>
</template>

<style scoped>
.scroller {
  overflow: auto;
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
